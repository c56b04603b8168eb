//! Flipping edges, so that every vertex has as many triangles as fit round it evenly.

use super::lines::Hold;
use super::sheet::{LEAN, Sheet};
use crate::triangulate::quality;
use std::cmp::Ordering;

impl Sheet {
    /// Flips what brings vertices nearer to an even number of triangles, or shapes them better.
    pub fn flip_to_even_valence(&mut self) {
        let vertices = 0..self.net.positions.len() as u32;
        let mut off: Vec<i32> = vertices
            .map(|v| self.net.around(v).count() as i32 - self.fitting(v))
            .collect();
        for t in 0..self.net.places() as u32 {
            let Some([a, b, c]) = self.net.triangle(t) else {
                continue;
            };
            for (from, to) in [(a, b), (b, c), (c, a)] {
                if from < to && self.try_flip(t, from, to, &mut off) {
                    break;
                }
            }
        }
    }

    /// How many even triangles fit round a vertex.
    fn fitting(&self, vertex: u32) -> i32 {
        if self.hold(vertex) == Hold::Free {
            return 6;
        }
        let here = self.net.positions[vertex as usize];
        let angles = self.net.around(vertex).map(|(_, [_, x, y])| {
            let [p, q] = [x, y].map(|v| self.net.positions[v as usize] - here);
            p.cross(q).length().atan2(p.dot(q))
        });
        let all: f64 = angles.sum();
        ((all / 60f64.to_radians()).round() as i32).max(1)
    }

    fn try_flip(&mut self, t: u32, a: u32, b: u32, off: &mut [i32]) -> bool {
        let mut sides = self.net.on_edge(a, b);
        let (Some(one), Some(two), None) = (sides.next(), sides.next(), sides.next()) else {
            return false;
        };
        drop(sides);
        let ((_, [_, x, c]), (other, [_, d, w])) = if one.0 == t { (one, two) } else { (two, one) };
        // This triangle runs a-b-c, the other b-a-d; anything else is a line.
        if x != b || w != b || c == d || self.is_line(a, b) {
            return false;
        }
        // Between frozen vertices there may be an edge elsewhere.
        if self.hold(c) == Hold::Frozen && self.hold(d) == Hold::Frozen {
            return false;
        }
        let after = |v: u32, change: i32| (off[v as usize] + change).pow(2);
        let now = after(a, 0) + after(b, 0) + after(c, 0) + after(d, 0);
        let then = after(a, -1) + after(b, -1) + after(c, 1) + after(d, 1);
        if then > now + 2 {
            return false;
        }
        let shape = |t: [u32; 3]| quality(self.net.points(t));
        let worst_now = shape([a, b, c]).min(shape([b, a, d]));
        let worst_then = shape([c, a, d]).min(shape([d, b, c]));
        let helps = match then.cmp(&now) {
            Ordering::Less => worst_then > 0.3 * worst_now,
            Ordering::Equal => worst_then > 1.2 * worst_now,
            Ordering::Greater => worst_now < 0.3 && worst_then > 2.0 * worst_now,
        };
        if !helps || !self.flip_is_sound(a, b, c, d) || self.net.on_edge(c, d).next().is_some() {
            return false;
        }
        self.net.replace(t, [c, a, d]);
        self.net.replace(other, [d, b, c]);
        for (v, change) in [(a, -1), (b, -1), (c, 1), (d, 1)] {
            off[v as usize] += change;
        }
        true
    }

    fn flip_is_sound(&self, a: u32, b: u32, c: u32, d: u32) -> bool {
        let normal = |t: [u32; 3]| {
            let [p, q, r] = self.net.points(t);
            (q - p).cross(r - p)
        };
        let along = normal([a, b, c]) + normal([b, a, d]);
        [normal([c, a, d]), normal([d, b, c])]
            .iter()
            .all(|n| n.dot(along) > LEAN * n.length() * along.length())
    }
}
