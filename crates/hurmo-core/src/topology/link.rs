//! Which edges may collapse: the link condition (Dey, Edelsbrunner, Guha & Nekhayev 1999).
//!
//! An edge of a manifold sheet may become a vertex when what both its ends neighbour is just
//! what lies across it; otherwise the collapse would put three sides on an edge, or pinch.

use super::LinkedMesh;
use smallvec::SmallVec;

/// Scratch marks on vertices, valid for one question each.
#[derive(Clone)]
pub struct Marks {
    seen: Vec<u32>,
    tick: u32,
}

impl Marks {
    /// Marks for this many vertices.
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

/// What an edge must be for its collapse to keep to a line that its ends lie on.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Along {
    /// Anything: the vertex that goes lies inside a sheet.
    Sheet,
    /// A border edge.
    Border,
    /// An edge on which sheets meet: three sides or more, or two that run it the same way.
    Meeting,
    /// Anything: the vertex that goes is no part of a line that is to stay.
    Any,
}

/// Whether the edge between two vertices may collapse, by the link condition for complexes in which
/// any number of triangles meet along an edge: what both ends neighbour lies across the edge, and no
/// two triangles become one. Faces on the same vertices count once.
///
/// Refused too: to take the last face of a part, and to press a pocket of two faces flat.
pub fn may_collapse(
    net: &LinkedMesh,
    marks: &mut Marks,
    keep: u32,
    gone: u32,
    along: Along,
) -> bool {
    let mut thirds: SmallVec<[u32; 4]> = SmallVec::new();
    let (mut out, mut back) = (false, false);
    for (_, [_, x, y]) in net.on_edge(gone, keep) {
        let third = if x == keep { y } else { x };
        *if x == keep { &mut out } else { &mut back } = true;
        if !thirds.contains(&third) {
            thirds.push(third);
        }
    }
    let fits = match along {
        Along::Any => true,
        Along::Sheet => thirds.len() <= 2,
        Along::Border => thirds.len() == 1,
        Along::Meeting => thirds.len() > 2 || thirds.len() == 2 && !(out && back),
    };
    if thirds.is_empty() || !fits {
        return false;
    }
    let (low, high) = match net.degree(keep) < net.degree(gone) {
        true => (keep, gone),
        false => (gone, keep),
    };
    if net.is_crowded(high) && !net.is_crowded(low) {
        return holds_beside_crowd(net, high, low, &thirds);
    }
    marks.tick = marks.tick.wrapping_add(2);
    let (near, counted) = (marks.tick, marks.tick.wrapping_add(1));
    let mut others = 0;
    let mut caps: SmallVec<[[u32; 2]; 2]> = SmallVec::new();
    let is_cap = |x: u32, y: u32| thirds.contains(&x) && thirds.contains(&y);
    for (_, [_, x, y]) in net.around(keep) {
        marks.seen[x as usize] = near;
        marks.seen[y as usize] = near;
        others += usize::from(x != gone && y != gone);
        if is_cap(x, y) {
            caps.push([x.min(y), x.max(y)]);
        }
    }
    let mut common = 0;
    for (_, [_, x, y]) in net.around(gone) {
        for vertex in [x, y] {
            if marks.seen[vertex as usize] == near {
                marks.seen[vertex as usize] = counted;
                common += 1;
            }
        }
        others += usize::from(x != keep && y != keep);
        if is_cap(x, y) && caps.contains(&[x.min(y), x.max(y)]) {
            return false;
        }
    }
    common == thirds.len() && others > 0
}

/// The same where so much meets at one end that only the other's surroundings are gone through.
fn holds_beside_crowd(net: &LinkedMesh, crowd: u32, end: u32, thirds: &[u32]) -> bool {
    let mut neighbours: SmallVec<[u32; 16]> = SmallVec::new();
    let mut on_edge = 0;
    for (_, [_, x, y]) in net.around(end) {
        on_edge += usize::from(x == crowd || y == crowd);
        neighbours.extend([x, y].into_iter().filter(|&v| v != crowd));
        let is_cap = thirds.contains(&x) && thirds.contains(&y);
        if is_cap && net.on_edge(x, y).any(|(_, t)| t.contains(&crowd)) {
            return false;
        }
    }
    neighbours.sort_unstable();
    neighbours.dedup();
    // What lies across the edge is beside both anyhow.
    let beside = |v: &&u32| thirds.contains(v) || net.on_edge(**v, crowd).next().is_some();
    let others = net.degree(crowd) + net.degree(end) - 2 * on_edge;
    neighbours.iter().filter(beside).count() == thirds.len() && others > 0
}

/// Whether a collapse would leave a doubled face alone at an edge: its two sides run that the same way.
pub fn bares_a_double(net: &LinkedMesh, keep: u32, gone: u32) -> bool {
    net.on_edge(gone, keep).any(|(_, [_, x, y])| {
        let third = if x == keep { y } else { x };
        // The sides of the edge that is made of the third corner's two: the corner across, and the direction.
        let mut sides: SmallVec<[(u32, bool); 4]> = SmallVec::new();
        for (end, other) in [(keep, gone), (gone, keep)] {
            let here = net.on_edge(third, end);
            let across = here.map(|(_, [_, x, y])| if x == end { (y, true) } else { (x, false) });
            sides.extend(across.filter(|side| side.0 != other));
        }
        sides.len() > 1 && sides.iter().all(|side| *side == sides[0])
    })
}
