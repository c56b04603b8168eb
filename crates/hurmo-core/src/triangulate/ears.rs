//! Ear cutting, and flipping diagonals to better ones.

use super::quality;
use crate::predicates::side_of_line;
use glam::{DVec2, DVec3};
use rustc_hash::FxHashMap;
use std::cmp::Ordering;

/// Cuts ears off a polygon, each time the best-shaped one there is.
pub(super) fn cut_off_ears(points: &[DVec3], flat: &[DVec2]) -> Vec<[u32; 3]> {
    let count = points.len();
    let mut ring = Ring {
        flat,
        next: (0..count).map(|i| (i + 1) % count).collect(),
        previous: (0..count).map(|i| (i + count - 1) % count).collect(),
        left: (0..count).collect(),
    };
    let score = |ring: &Ring<'_>, i: usize| -> f64 {
        let [a, b, c] = [ring.previous[i], i, ring.next[i]];
        match ring.is_ear(i) {
            true => quality([points[a], points[b], points[c]]),
            // Where nothing is an ear, what is least wrong goes first.
            false => -1.0 - (flat[b] - flat[a]).perp_dot(flat[c] - flat[a]).abs(),
        }
    };
    let mut scores: Vec<f64> = (0..count).map(|i| score(&ring, i)).collect();
    let mut triangles = Vec::with_capacity(count - 2);
    while ring.left.len() > 3 {
        let (place, &ear) = ring
            .left
            .iter()
            .enumerate()
            .max_by(|(_, a), (_, b)| scores[**a].total_cmp(&scores[**b]).then(b.cmp(a)))
            .expect("more than three corners are left");
        let (before, after) = (ring.previous[ear], ring.next[ear]);
        triangles.push([before, ear, after].map(|i| i as u32));
        ring.next[before] = after;
        ring.previous[after] = before;
        ring.left.swap_remove(place);
        for neighbour in [before, after] {
            scores[neighbour] = score(&ring, neighbour);
        }
        if scores[ear] < 0.0 {
            // Something that was no ear went: what was hidden behind it may be one now.
            for &i in &ring.left {
                scores[i] = score(&ring, i);
            }
        }
    }
    let last = ring.left[0];
    triangles.push([ring.previous[last], last, ring.next[last]].map(|i| i as u32));
    triangles
}

struct Ring<'a> {
    flat: &'a [DVec2],
    next: Vec<usize>,
    previous: Vec<usize>,
    left: Vec<usize>,
}

impl Ring<'_> {
    fn is_ear(&self, i: usize) -> bool {
        let corners = [self.previous[i], i, self.next[i]];
        let [a, b, c] = corners.map(|i| self.flat[i]);
        if side_of_line(a, b, c) != Ordering::Greater {
            return false;
        }
        let (low, high) = (a.min(b).min(c), a.max(b).max(c));
        !self.left.iter().any(|&other| {
            let p = self.flat[other];
            p.cmpge(low).all()
                && p.cmple(high).all()
                && !corners.contains(&other)
                && ![a, b, c].contains(&p)
                && side_of_line(a, b, p) != Ordering::Less
                && side_of_line(b, c, p) != Ordering::Less
                && side_of_line(c, a, p) != Ordering::Less
        })
    }
}

/// Flips diagonals of a flat triangulation while that betters the worse of two triangles and
/// the two make a strictly convex quad.
pub(super) fn flip_inside(points: &[DVec3], flat: &[DVec2], triangles: &mut [[u32; 3]]) {
    let convex = |a: u32, b: u32, c: u32, d: u32| {
        let turn = |i: u32, j: u32, k: u32| {
            side_of_line(flat[i as usize], flat[j as usize], flat[k as usize])
        };
        // The quad a d b c around the diagonal a-b, to become c-d.
        turn(c, a, d) == Ordering::Greater && turn(d, b, c) == Ordering::Greater
    };
    flip_to_better(points, triangles, convex);
}

/// Flips shared edges of a small manifold triangulation while the worse of the two triangles
/// gets better and `allowed(a, b, c, d)` agrees, where triangles a-b-c and b-a-d become c-a-d
/// and d-b-c. The sorted list of qualities only ever rises, so this ends.
pub(crate) fn flip_to_better(
    points: &[DVec3],
    triangles: &mut [[u32; 3]],
    allowed: impl Fn(u32, u32, u32, u32) -> bool,
) {
    let mut side: FxHashMap<(u32, u32), u32> = FxHashMap::default();
    let mut todo = Vec::new();
    for (t, &[a, b, c]) in triangles.iter().enumerate() {
        for (from, to) in [(a, b), (b, c), (c, a)] {
            side.insert((from, to), t as u32);
            todo.push((from, to));
        }
    }
    let shape = |t: [u32; 3]| quality(t.map(|i| points[i as usize]));
    let opposite = |t: [u32; 3], a: u32, b: u32| t.into_iter().find(|&v| v != a && v != b);
    let mut patience = triangles.len() * 30;
    while let Some((a, b)) = todo.pop() {
        let (Some(&one), Some(&two)) = (side.get(&(a, b)), side.get(&(b, a))) else {
            continue;
        };
        let (Some(c), Some(d)) = (
            opposite(triangles[one as usize], a, b),
            opposite(triangles[two as usize], a, b),
        ) else {
            continue;
        };
        if c == d || side.contains_key(&(c, d)) || side.contains_key(&(d, c)) {
            continue;
        }
        let (first, second) = ([c, a, d], [d, b, c]);
        let before = shape([a, b, c]).min(shape([b, a, d]));
        let after = shape(first).min(shape(second));
        if after <= before * (1.0 + 1e-9) + 1e-15 || !allowed(a, b, c, d) {
            continue;
        }
        patience -= 1;
        if patience == 0 {
            return;
        }
        side.remove(&(a, b));
        side.remove(&(b, a));
        triangles[one as usize] = first;
        triangles[two as usize] = second;
        for (t, [x, y, z]) in [(one, first), (two, second)] {
            for key in [(x, y), (y, z), (z, x)] {
                side.insert(key, t);
            }
        }
        todo.extend([(c, a), (a, d), (d, b), (b, c)]);
    }
}
