//! Flipping edges, so that every vertex has as many triangles as fit round it evenly.

use super::feature_edges::VertexConstraint;
use super::sheet::{LEAN, Sheet};
use crate::triangulate::quality;
use std::cmp::Ordering;

/// A flip for the shape alone is worth it if the worse triangle's quality rises by this factor.
const BETTER: f64 = 1.2;

impl Sheet {
    /// Flips what brings vertices nearer to an even number of triangles, or shapes them better.
    pub fn flip_to_even_valence(&mut self) {
        let vertices = 0..self.linked.positions.len() as u32;
        let mut off: Vec<i32> = vertices
            .map(|v| self.linked.degree(v) as i32 - self.fitting(v))
            .collect();
        for t in 0..self.linked.places() as u32 {
            let Some([a, b, c]) = self.linked.triangle(t) else {
                continue;
            };
            for corners in [[a, b, c], [b, c, a], [c, a, b]] {
                if corners[0] < corners[1] && self.try_flip(t, corners, &mut off) {
                    break;
                }
            }
        }
    }

    /// How many even triangles fit round a vertex.
    fn fitting(&self, vertex: u32) -> i32 {
        if self.constraint(vertex) == VertexConstraint::Free {
            return 6;
        }
        let here = self.linked.positions[vertex as usize];
        let angles = self.linked.around(vertex).map(|(_, [_, x, y])| {
            let [p, q] = [x, y].map(|v| self.linked.positions[v as usize] - here);
            p.cross(q).length().atan2(p.dot(q))
        });
        let all: f64 = angles.sum();
        ((all / 60f64.to_radians()).round() as i32).max(1)
    }

    /// The triangle on the other side of an edge a-b of one that runs a-b-c, and its third vertex,
    /// where the edge may be flipped as far as lines go.
    fn across(&self, t: u32, [a, b, c]: [u32; 3]) -> Option<(u32, u32)> {
        let mut sides = self.linked.on_edge(a, b);
        let (Some(one), Some(two), None) = (sides.next(), sides.next(), sides.next()) else {
            return None;
        };
        let (other, [_, d, w]) = if one.0 == t { two } else { one };
        // The other runs b-a-d; anything else is a line. Between frozen vertices there may be an
        // edge elsewhere.
        let may_flip = w == b
            && c != d
            && !self.is_line(a, b)
            && !(self.constraint(c) == VertexConstraint::Frozen
                && self.constraint(d) == VertexConstraint::Frozen);
        may_flip.then_some((other, d))
    }

    /// Flips one of the edges of a triangle if that shapes it and the one across better.
    pub fn flip_to_better_shape(&mut self, t: u32) {
        let Some([a, b, c]) = self.linked.triangle(t) else {
            return;
        };
        for [a, b, c] in [[a, b, c], [b, c, a], [c, a, b]] {
            let Some((other, d)) = self.across(t, [a, b, c]) else {
                continue;
            };
            let [now, then] = self.worst_shapes([a, b, c, d]);
            if then > BETTER * now && self.flip_is_sound(a, b, c, d) && !self.is_edge(c, d) {
                self.flip([t, other], [a, b, c, d]);
                return;
            }
        }
    }

    /// The quality of the worse of the two triangles at an edge a-b, and of the two at c-d in its
    /// place.
    fn worst_shapes(&self, [a, b, c, d]: [u32; 4]) -> [f64; 2] {
        let shape = |t: [u32; 3]| quality(self.linked.points(t));
        [
            shape([a, b, c]).min(shape([b, a, d])),
            shape([c, a, d]).min(shape([d, b, c])),
        ]
    }

    /// Puts the edge c-d in place of the edge a-b between two triangles.
    fn flip(&mut self, [t, other]: [u32; 2], [a, b, c, d]: [u32; 4]) {
        self.linked.replace(t, [c, a, d]);
        self.linked.replace(other, [d, b, c]);
    }

    fn is_edge(&self, a: u32, b: u32) -> bool {
        self.linked.on_edge(a, b).next().is_some()
    }

    fn try_flip(&mut self, t: u32, [a, b, c]: [u32; 3], off: &mut [i32]) -> bool {
        let Some((other, d)) = self.across(t, [a, b, c]) else {
            return false;
        };
        let after = |v: u32, change: i32| (off[v as usize] + change).pow(2);
        let now = after(a, 0) + after(b, 0) + after(c, 0) + after(d, 0);
        let then = after(a, -1) + after(b, -1) + after(c, 1) + after(d, 1);
        if then > now + 2 {
            return false;
        }
        let [worst_now, worst_then] = self.worst_shapes([a, b, c, d]);
        let helps = match then.cmp(&now) {
            Ordering::Less => worst_then > 0.3 * worst_now,
            Ordering::Equal => worst_then > BETTER * worst_now,
            Ordering::Greater => worst_now < 0.3 && worst_then > 2.0 * worst_now,
        };
        if !helps || !self.flip_is_sound(a, b, c, d) || self.is_edge(c, d) {
            return false;
        }
        self.flip([t, other], [a, b, c, d]);
        for (v, change) in [(a, -1), (b, -1), (c, 1), (d, 1)] {
            off[v as usize] += change;
        }
        true
    }

    fn flip_is_sound(&self, a: u32, b: u32, c: u32, d: u32) -> bool {
        let normal = |t: [u32; 3]| {
            let [p, q, r] = self.linked.points(t);
            (q - p).cross(r - p)
        };
        let along = normal([a, b, c]) + normal([b, a, d]);
        [normal([c, a, d]), normal([d, b, c])]
            .iter()
            .all(|n| n.dot(along) > LEAN * n.length() * along.length())
    }
}
