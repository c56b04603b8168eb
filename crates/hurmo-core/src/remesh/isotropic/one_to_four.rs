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

use super::feature_edges::{VertexConstraint, ends};
use super::sheet::{ReferenceSurface, Sheet};
use super::split::LIMIT;
use crate::mesh::VertexId;
use crate::parallel::{listed, mapped};
use crate::topology::LinkedMesh;

/// An edge of a triangle, in the order of all: three times the triangle's number, and which.
type Slot = usize;

/// The slot of what is no edge, and the name of a vertex that there is not.
const NONE: u32 = u32::MAX;

impl Sheet {
    /// Divides all edges that are longer than they should be, and as many of each line as it
    /// takes.
    pub fn divide_in_four(&mut self, reference: &ReferenceSurface<'_>) {
        let on_line = self.sizing.is_empty().then(|| self.line_edges_to_divide());
        let is_divided = |[from, to]: [u32; 2]| {
            let is_long = match &on_line {
                Some(divided) if self.is_line(from, to) => divided.contains(&ends(from, to)),
                _ => self.stretch(from, to) > LIMIT,
            };
            is_long && !self.is_frozen(from, to)
        };
        // Whether the edge in each slot is divided; by the first of those in which it stands.
        let slots = 3 * self.linked.places();
        let first: Vec<u32> = mapped(slots, 4096, |slot| self.first_slot(slot));
        let divided: Vec<bool> = mapped(slots, 4096, |slot| {
            first[slot] as usize == slot && is_divided(self.edge_in(slot))
        });
        let mut middles = vec![NONE; first.len()];
        let mut on_lines = Vec::new();
        for slot in (0..first.len()).filter(|&slot| divided[slot]) {
            let [from, to] = self.edge_in(slot);
            middles[slot] = self.middle_of(from, to, reference);
            if self.constraint(middles[slot]) == VertexConstraint::Line {
                on_lines.push((from, middles[slot]));
            }
        }
        let middle = |slot: Slot| {
            let middle = middles[first[slot] as usize];
            (middle != NONE).then_some(middle)
        };
        let made = |t: usize| {
            let triangle = self.linked.triangle(t as u32)?;
            let middles = [0, 1, 2].map(|i| middle(3 * t + i));
            Some(parts(triangle, middles).into_iter().flatten())
        };
        let (triangles, origins): (Vec<[VertexId; 3]>, Vec<u32>) =
            listed(self.linked.places(), 4096, |t, list| {
                let parts = made(t).into_iter().flatten();
                list.extend(parts.map(|part| (part.map(VertexId), self.origins[t])));
            })
            .into_iter()
            .unzip();
        let positions = std::mem::take(&mut self.linked.positions);
        self.linked = LinkedMesh::new(positions, &triangles);
        self.origins = origins;
        for (end, middle) in on_lines {
            self.bring_onto_line(end, middle, reference);
        }
    }

    /// The ends of the edge in a slot, as its triangle runs it.
    fn edge_in(&self, slot: Slot) -> [u32; 2] {
        let triangle = self.linked.triangle((slot / 3) as u32);
        let triangle = triangle.expect("the slot is of a triangle");
        [triangle[slot % 3], triangle[(slot + 1) % 3]]
    }

    /// The lowest slot with the same edge; none where the triangle is gone.
    fn first_slot(&self, slot: Slot) -> u32 {
        if self.linked.triangle((slot / 3) as u32).is_none() {
            return NONE;
        }
        let edge = |slot: Slot| {
            let [from, to] = self.edge_in(slot);
            ends(from, to)
        };
        let (a, b) = edge(slot);
        let with_it = self.linked.on_edge(a, b).map(|(t, _)| t as usize);
        let first = with_it.min().unwrap_or(slot / 3);
        let mut slots = 3 * first..3 * first + 3;
        slots.find(|&other| edge(other) == (a, b)).unwrap_or(slot) as u32
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
