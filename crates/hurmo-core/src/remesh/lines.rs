//! Lines: the edges that remeshing keeps, and what they make of their vertices.

use crate::topology::TriangleNet;
use rustc_hash::FxHashSet;

/// How freely a vertex moves.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Hold {
    /// Anywhere on the surface.
    Free,
    /// Along its line.
    Line,
    /// Not at all.
    Fixed,
}

/// An edge by its ends, the lower first.
pub(super) fn ends(a: u32, b: u32) -> (u32, u32) {
    if a < b { (a, b) } else { (b, a) }
}

/// The edges to keep: borders, edges of more than two faces or of two that run the same way,
/// edges between different tags, and those that bend by more than `crease` degrees.
pub(super) fn find(net: &TriangleNet, tags: &[u32], crease: f64) -> FxHashSet<(u32, u32)> {
    let flat_enough = crease.to_radians().cos();
    let mut lines = FxHashSet::default();
    for t in 0..net.places() as u32 {
        let Some([a, b, c]) = net.triangle(t) else {
            continue;
        };
        for (from, to) in [(a, b), (b, c), (c, a)] {
            let mut others = net.on_edge(from, to).filter(|(other, _)| *other != t);
            let keep = match (others.next(), others.next()) {
                (Some((other, [_, x, _])), None) => {
                    // The neighbour must run the edge the other way: seen from `from`, the
                    // vertex before it is `to`.
                    let same_way = x == to;
                    let [n, m] = [t, other].map(|t| normal(net, t));
                    same_way
                        || tags[t as usize] != tags[other as usize]
                        || n.dot(m) < flat_enough * n.length() * m.length()
                }
                _ => true,
            };
            if keep {
                lines.insert(ends(from, to));
            }
        }
    }
    lines
}

fn normal(net: &TriangleNet, t: u32) -> glam::DVec3 {
    let [a, b, c] = net.points(net.triangle(t).expect("a living triangle"));
    (b - a).cross(c - a)
}

/// How each vertex is held by the lines through it. `turn`: a line that turns by more degrees
/// has a corner there.
pub(super) fn holds(net: &TriangleNet, lines: &FxHashSet<(u32, u32)>, turn: f64) -> Vec<Hold> {
    let straight = -turn.to_radians().cos();
    let mut spokes: Vec<Vec<u32>> = vec![Vec::new(); net.positions.len()];
    for &(a, b) in lines {
        spokes[a as usize].push(b);
        spokes[b as usize].push(a);
    }
    spokes
        .iter()
        .enumerate()
        .map(|(v, others)| match others[..] {
            [] => Hold::Free,
            [x, y] => {
                let here = net.positions[v];
                let [p, q] = [x, y].map(|o| (net.positions[o as usize] - here).normalize_or_zero());
                if p.dot(q) > straight {
                    Hold::Fixed
                } else {
                    Hold::Line
                }
            }
            _ => Hold::Fixed,
        })
        .collect()
}
