//! Which edges may collapse: the link condition (Dey, Edelsbrunner, Guha & Nekhayev 1999).
//!
//! An edge of a manifold sheet may become a vertex when what both its ends neighbour is just
//! what lies across it; otherwise the collapse would put three sides on an edge, or pinch.

use super::TriangleNet;

/// Scratch marks on vertices, valid for one question each.
#[derive(Clone)]
pub struct Marks {
    seen: Vec<u32>,
    tick: u32,
}

impl Marks {
    /// Marks for so many vertices.
    pub fn new(vertices: usize) -> Self {
        Self {
            seen: vec![0; vertices],
            tick: 0,
        }
    }

    /// Makes room for more vertices.
    pub fn grow(&mut self, vertices: usize) {
        self.seen.resize(vertices, 0);
    }
}

/// Whether the edge between two vertices may collapse. `both_border` says that neither end is
/// inside a sheet: then the edge must be a border edge itself.
///
/// Refused too: to take the last face of a part, and to press a pocket of two faces flat.
pub fn may_collapse(
    net: &TriangleNet,
    marks: &mut Marks,
    keep: u32,
    gone: u32,
    both_border: bool,
) -> bool {
    let mut thirds = [u32::MAX; 2];
    let mut sides = 0;
    for (_, [_, x, y]) in net.on_edge(gone, keep) {
        if sides == 2 {
            return false;
        }
        thirds[sides] = if x == keep { y } else { x };
        sides += 1;
    }
    if sides == 0 || thirds[0] == thirds[1] || (both_border && sides != 1) {
        return false;
    }
    marks.tick = marks.tick.wrapping_add(2);
    let (near, counted) = (marks.tick, marks.tick.wrapping_add(1));
    let mut others = 0;
    let mut cap_here = false;
    for (_, [_, x, y]) in net.around(keep) {
        marks.seen[x as usize] = near;
        marks.seen[y as usize] = near;
        others += usize::from(x != gone && y != gone);
        cap_here |= thirds.contains(&x) && thirds.contains(&y);
    }
    let mut common = 0;
    let mut cap_there = false;
    for (_, [_, x, y]) in net.around(gone) {
        for vertex in [x, y] {
            if marks.seen[vertex as usize] == near {
                marks.seen[vertex as usize] = counted;
                common += 1;
            }
        }
        others += usize::from(x != keep && y != keep);
        cap_there |= thirds.contains(&x) && thirds.contains(&y);
    }
    common == sides && others > 0 && !(cap_here && cap_there)
}
