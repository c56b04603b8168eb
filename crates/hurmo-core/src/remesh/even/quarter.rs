//! From long edges to ones half as long: every triangle becomes four (the way of dividing of
//! Loop 1987).
//!
//! ```text
//!     c                c
//!    ╱ ╲              ╱ ╲
//!   ╱   ╲    ─▶     x ─── y
//!  ╱     ╲          ╱ ╲ ╱ ╲
//! a ───── b        a ─ z ─ b
//! ```
//!
//! Even triangles stay even, and every new vertex inside has six neighbours. Edges that are not
//! longer than they should be stay whole, as do frozen ones; their triangles become three, two
//! or one.

use super::lines::{Hold, ends};
use super::sheet::{Ground, Sheet};
use super::split::LIMIT;
use crate::mesh::VertexId;
use crate::topology::TriangleNet;
use rustc_hash::FxHashMap;

impl Sheet {
    /// Divides all edges that are longer than they should be, and as many of each line as it
    /// takes.
    pub fn quarter(&mut self, ground: &Ground<'_>) {
        let mut middles: FxHashMap<(u32, u32), Option<u32>> = FxHashMap::default();
        let mut on_lines = Vec::new();
        let on_line = self.wanted.is_empty().then(|| self.line_edges_to_divide());
        let mut triangles = Vec::with_capacity(4 * self.net.living());
        let mut origins = Vec::with_capacity(4 * self.net.living());
        for t in 0..self.net.places() as u32 {
            let Some([a, b, c]) = self.net.triangle(t) else {
                continue;
            };
            let middle = [(a, b), (b, c), (c, a)].map(|(from, to)| {
                *middles.entry(ends(from, to)).or_insert_with(|| {
                    let is_long = match &on_line {
                        Some(divided) if self.is_line(from, to) => {
                            divided.contains(&ends(from, to))
                        }
                        _ => self.stretch(from, to) > LIMIT,
                    };
                    let divide = is_long && !self.is_frozen(from, to);
                    let middle = divide.then(|| self.middle_of(from, to))?;
                    if self.hold(middle) == Hold::Line {
                        on_lines.push((from, middle));
                    }
                    Some(middle)
                })
            });
            for part in parts([a, b, c], middle).into_iter().flatten() {
                triangles.push(part.map(VertexId));
                origins.push(self.origins[t as usize]);
            }
        }
        let positions = std::mem::take(&mut self.net.positions);
        self.net = TriangleNet::new(positions, &triangles);
        self.origins = origins;
        for (end, middle) in on_lines {
            self.bring_onto_line(end, middle, ground);
        }
    }
}

/// What a triangle becomes, given the middles of its edges a-b, b-c and c-a.
fn parts([a, b, c]: [u32; 3], middles: [Option<u32>; 3]) -> [Option<[u32; 3]>; 4] {
    match middles {
        [Some(z), Some(y), Some(x)] => [[a, z, x], [z, b, y], [x, y, c], [z, y, x]].map(Some),
        [Some(z), Some(y), None] => [Some([z, b, y]), Some([a, z, y]), Some([a, y, c]), None],
        [Some(z), None, None] => [Some([a, z, c]), Some([z, b, c]), None, None],
        [None, None, None] => [Some([a, b, c]), None, None, None],
        // Turned until it is one of those above.
        [z, y, x] => parts([b, c, a], [y, x, z]),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn whatever_is_divided_the_parts_cover_the_triangle() {
        // By their doubled areas, of a triangle whose own is 4.
        let place = |v: u32| [[0, 0], [2, 0], [0, 2], [1, 0], [1, 1], [0, 1]][v as usize];
        let area = |[a, b, c]: [u32; 3]| {
            let [a, b, c] = [a, b, c].map(place);
            (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
        };
        for divided in 0..8u32 {
            let middle = [0, 1, 2].map(|i| (divided >> i & 1 == 1).then_some(3 + i));
            let parts: Vec<_> = parts([0, 1, 2], middle).into_iter().flatten().collect();
            assert_eq!(parts.len() as u32, 1 + divided.count_ones());
            assert!(parts.iter().all(|&part| area(part) > 0), "{parts:?}");
            assert_eq!(parts.iter().map(|&part| area(part)).sum::<i32>(), 4);
        }
    }
}
