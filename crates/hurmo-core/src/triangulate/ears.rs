//! Ear cutting, and flipping diagonals to better ones.

use super::quality;
use crate::predicates::side_of_line;
use glam::{DVec2, DVec3};
use rustc_hash::FxHashMap;
use std::cmp::Ordering;
use std::collections::BinaryHeap;

/// How much less an ear is worth whose diagonal is taken: one that isn't goes first.
const TAKEN: f64 = 1e-9;

/// Cuts ears off a polygon, each time the best-shaped one there is.
pub(super) fn cut_off_ears(
    points: &[DVec3],
    flat: &[DVec2],
    taken: &impl Fn(u32, u32) -> bool,
) -> Vec<[u32; 3]> {
    let count = points.len();
    let mut ring = Ring::of(flat);
    // By corner, what waits for it to go or to turn convex, since it lies in their way.
    let mut waiting: Vec<Vec<u32>> = vec![Vec::new(); count];
    let mut freed: Vec<usize> = Vec::new();
    let score = |waiting: &mut [Vec<u32>], ring: &Ring<'_>, i: usize| -> f64 {
        let [a, b, c] = [ring.previous[i], i, ring.next[i]];
        let blocker = match ring.look(i) {
            Look::Ear => {
                let shape = quality([points[a], points[b], points[c]]);
                let share = if taken(a as u32, c as u32) {
                    TAKEN
                } else {
                    1.0
                };
                return shape * share;
            }
            Look::NotConvex => None,
            Look::Blocked(by) => Some(by),
        };
        if let Some(by) = blocker {
            waiting[by].push(i as u32);
        }
        // Where nothing is an ear, what is least wrong goes first.
        -1.0 - (flat[b] - flat[a]).perp_dot(flat[c] - flat[a]).abs()
    };
    let mut scores: Vec<f64> = (0..count).map(|i| score(&mut waiting, &ring, i)).collect();
    let mut best: BinaryHeap<Scored> = (0..count).map(|i| Scored(scores[i], i)).collect();
    let mut triangles = Vec::with_capacity(count - 2);
    while triangles.len() + 3 < count {
        let Scored(scored, ear) = best.pop().expect("more than three corners are left");
        if ring.gone[ear] || scores[ear] != scored {
            continue;
        }
        let (before, after) = (ring.previous[ear], ring.next[ear]);
        triangles.push([before, ear, after].map(|i| i as u32));
        ring.take_out(ear, &mut freed);
        let mut again = vec![before, after];
        if scored < 0.0 {
            // Something that was no ear went: what was hidden behind it may be one now.
            let hidden = freed
                .drain(..)
                .flat_map(|by| std::mem::take(&mut waiting[by]));
            again.extend(hidden.map(|i| i as usize).filter(|&i| !ring.gone[i]));
            again.sort_unstable();
            again.dedup();
        }
        for i in again {
            scores[i] = score(&mut waiting, &ring, i);
            best.push(Scored(scores[i], i));
        }
    }
    let last = (0..count).find(|&i| !ring.gone[i]);
    let last = last.expect("three corners are left");
    triangles.push([ring.previous[last], last, ring.next[last]].map(|i| i as u32));
    triangles
}

/// A corner with its score; of equal ones, the lowest corner is the greatest.
#[derive(PartialEq)]
struct Scored(f64, usize);

impl Eq for Scored {}

impl PartialOrd for Scored {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Scored {
    fn cmp(&self, other: &Self) -> Ordering {
        self.0.total_cmp(&other.0).then(other.1.cmp(&self.1))
    }
}

/// What a corner is.
enum Look {
    Ear,
    NotConvex,
    /// Another corner lies in the way.
    Blocked(usize),
}

struct Ring<'a> {
    flat: &'a [DVec2],
    /// The corners that are left and not convex: one of them lies in an ear that isn't free
    /// (Meisters 1975).
    hollow: Cells,
    next: Vec<usize>,
    previous: Vec<usize>,
    gone: Vec<bool>,
}

impl<'a> Ring<'a> {
    fn of(flat: &'a [DVec2]) -> Self {
        let count = flat.len();
        let mut ring = Self {
            flat,
            hollow: Cells::default(),
            next: (0..count).map(|i| (i + 1) % count).collect(),
            previous: (0..count).map(|i| (i + count - 1) % count).collect(),
            gone: vec![false; count],
        };
        let hollow = (0..count).filter(|&i| !ring.is_convex(i)).collect();
        ring.hollow = Cells::of(flat, hollow);
        ring
    }

    fn around(&self, i: usize) -> [usize; 3] {
        [self.previous[i], i, self.next[i]]
    }

    fn is_convex(&self, i: usize) -> bool {
        let [a, b, c] = self.around(i).map(|i| self.flat[i]);
        side_of_line(a, b, c) == Ordering::Greater
    }

    fn look(&self, i: usize) -> Look {
        if !self.is_convex(i) {
            return Look::NotConvex;
        }
        let corners = self.around(i);
        let [a, b, c] = corners.map(|i| self.flat[i]);
        let (low, high) = (a.min(b).min(c), a.max(b).max(c));
        let blocker = self.hollow.find_within(low, high, |other| {
            let p = self.flat[other];
            p.cmpge(low).all()
                && p.cmple(high).all()
                && !corners.contains(&other)
                && ![a, b, c].contains(&p)
                && side_of_line(a, b, p) != Ordering::Less
                && side_of_line(b, c, p) != Ordering::Less
                && side_of_line(c, a, p) != Ordering::Less
        });
        blocker.map_or(Look::Ear, Look::Blocked)
    }

    /// Takes a corner out; corners that can block no more come to `freed`.
    fn take_out(&mut self, corner: usize, freed: &mut Vec<usize>) {
        let [before, _, after] = self.around(corner);
        self.next[before] = after;
        self.previous[after] = before;
        self.gone[corner] = true;
        for i in [before, corner, after] {
            let blocks = !self.gone[i] && !self.is_convex(i);
            match blocks {
                true => self.hollow.add(self.flat, i),
                false if self.hollow.remove(self.flat, i) => freed.push(i),
                false => {}
            }
        }
    }
}

/// Points of the plane in a grid of about as many cells; it is made anew as points go.
#[derive(Default)]
struct Cells {
    low: DVec2,
    scale: DVec2,
    across: usize,
    cells: Vec<Vec<u32>>,
    count: usize,
}

impl Cells {
    fn of(flat: &[DVec2], points: Vec<usize>) -> Self {
        let places = || points.iter().map(|&i| flat[i]);
        let low = places().reduce(DVec2::min).unwrap_or_default();
        let high = places().reduce(DVec2::max).unwrap_or_default();
        let across = (points.len() as f64).sqrt().ceil().max(1.0) as usize;
        let mut cells = Self {
            low,
            scale: DVec2::splat(across as f64) / (high - low).max(DVec2::splat(f64::MIN_POSITIVE)),
            across,
            cells: vec![Vec::new(); across * across],
            count: points.len(),
        };
        for i in points {
            let [x, y] = cells.at(flat[i]);
            cells.cells[y * across + x].push(i as u32);
        }
        cells
    }

    fn at(&self, p: DVec2) -> [usize; 2] {
        let place = (p - self.low) * self.scale;
        // What is no number becomes 0.
        place.to_array().map(|x| (x as usize).min(self.across - 1))
    }

    fn cell_of(&mut self, p: DVec2) -> &mut Vec<u32> {
        let [x, y] = self.at(p);
        &mut self.cells[y * self.across + x]
    }

    fn add(&mut self, flat: &[DVec2], point: usize) {
        let cell = self.cell_of(flat[point]);
        if !cell.contains(&(point as u32)) {
            cell.push(point as u32);
            self.count += 1;
        }
    }

    /// Takes a point out; whether it was there.
    fn remove(&mut self, flat: &[DVec2], point: usize) -> bool {
        if self.cells.is_empty() {
            return false;
        }
        let cell = self.cell_of(flat[point]);
        let Some(at) = cell.iter().position(|&i| i as usize == point) else {
            return false;
        };
        cell.swap_remove(at);
        self.count -= 1;
        if 4 * self.count < self.cells.len() && self.count > 0 {
            let left = self.cells.iter().flatten().map(|&i| i as usize);
            *self = Self::of(flat, left.collect());
        }
        true
    }

    /// A point in the cells that a box touches that `wanted` says so of.
    fn find_within(
        &self,
        low: DVec2,
        high: DVec2,
        wanted: impl Fn(usize) -> bool,
    ) -> Option<usize> {
        let ([left, bottom], [right, top]) = (self.at(low), self.at(high));
        let mut rows = (bottom..=top).flat_map(|y| {
            let row = &self.cells[y * self.across..][left..=right];
            row.iter().flatten().map(|&i| i as usize)
        });
        rows.find(|&i| wanted(i))
    }
}

/// Flips diagonals of a flat triangulation while that betters the worse of two triangles and
/// the two make a strictly convex quad.
pub(super) fn flip_inside(
    points: &[DVec3],
    flat: &[DVec2],
    triangles: &mut [[u32; 3]],
    taken: &impl Fn(u32, u32) -> bool,
) {
    let convex = |a: u32, b: u32, c: u32, d: u32| {
        let turn = |i: u32, j: u32, k: u32| {
            side_of_line(flat[i as usize], flat[j as usize], flat[k as usize])
        };
        // The quad a d b c around the diagonal a-b, to become c-d.
        let turns = turn(c, a, d) == Ordering::Greater && turn(d, b, c) == Ordering::Greater;
        turns && !taken(c, d)
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
