//! The rounds of remeshing.

use super::lines::{self, Hold, ends};
use crate::progress::Observer;
use crate::spatial::TriangleTree;
use crate::topology::{Marks, TriangleNet, may_collapse};
use crate::triangulate::quality;
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::FxHashSet;
use std::collections::BinaryHeap;

/// Edges longer than this share of the target are split.
const LONG: f64 = 4.0 / 3.0;
/// Edges shorter than this share of the target are collapsed.
const SHORT: f64 = 4.0 / 5.0;
/// A face may turn by at most this (cosine) when a vertex moves or an edge flips.
const LEAN: f64 = 0.5;
/// A line may be cut short by at most this share of the target.
const SHORTCUT: f64 = 0.1;

/// A net on its way to even triangles.
pub(super) struct Remeshing {
    pub net: TriangleNet,
    /// By place of triangle.
    pub tags: Vec<u32>,
    pub colors: Option<Vec<[f32; 4]>>,
    lines: FxHashSet<(u32, u32)>,
    holds: Vec<Hold>,
    /// For every vertex, a triangle of the input that it was near.
    near: Vec<u32>,
    marks: Marks,
}

impl Remeshing {
    pub fn new(
        net: TriangleNet,
        tags: Vec<u32>,
        colors: Option<Vec<[f32; 4]>>,
        crease: f64,
    ) -> Self {
        let lines = lines::find(&net, &tags, crease);
        let holds = lines::holds(&net, &lines, crease.min(60.0));
        let first = |v| net.around(v).next().map_or(u32::MAX, |(t, _)| t);
        let near = (0..net.positions.len() as u32).map(first).collect();
        Self {
            tags,
            colors,
            lines,
            holds,
            near,
            marks: Marks::new(net.positions.len()),
            net,
        }
    }

    pub fn line_edges(&self) -> usize {
        self.lines.len()
    }

    /// Does so many rounds with edges of about this length.
    pub fn rounds(&mut self, edge: f64, rounds: u64, tree: &TriangleTree, observer: &dyn Observer) {
        observer.begin("remeshing", rounds);
        for round in 0..rounds {
            if observer.cancelled() {
                return;
            }
            self.split_long(edge * LONG);
            self.collapse_short(edge * SHORT, edge * LONG, edge * SHORTCUT);
            self.flip_to_even_valence();
            self.relax(tree);
            observer.at(round + 1);
        }
    }

    fn length_squared(&self, a: u32, b: u32) -> f64 {
        self.net.positions[a as usize].distance_squared(self.net.positions[b as usize])
    }

    /// Every edge with this property, once or twice.
    fn edges_where(&self, wanted: impl Fn(f64) -> bool + Sync) -> Vec<(u32, u32)> {
        (0..self.net.places() as u32)
            .into_par_iter()
            .with_min_len(4096)
            .filter_map(|t| self.net.triangle(t))
            .flat_map_iter(|[a, b, c]| [(a, b), (b, c), (c, a)])
            .filter(|&(a, b)| wanted(self.length_squared(a, b)))
            .map(|(a, b)| ends(a, b))
            .collect()
    }

    /// Splits the longest edge first (Rivara 1984): in any other order, faces get thinner and
    /// thinner.
    fn split_long(&mut self, limit: f64) {
        let limit = limit * limit;
        let mut long = self.edges_where(|length| length > limit);
        long.par_sort_unstable();
        long.dedup();
        let keyed = |net: &Self, (a, b)| (net.length_squared(a, b).to_bits(), a, b);
        let mut todo: BinaryHeap<(u64, u32, u32)> =
            long.into_iter().map(|edge| keyed(self, edge)).collect();
        while let Some((_, a, b)) = todo.pop() {
            let sides: Vec<(u32, [u32; 3])> = self.net.on_edge(a, b).collect();
            if sides.is_empty() {
                continue;
            }
            let middle = self.middle_of(a, b);
            let mut made = vec![ends(a, middle), ends(b, middle)];
            for (t, [_, x, y]) in sides {
                // Seen from a: either a-b-y or a-x-b.
                let (near, far) = match x == b {
                    true => ([a, middle, y], [middle, b, y]),
                    false => ([a, x, middle], [middle, x, b]),
                };
                let third = if x == b { y } else { x };
                self.net.replace(t, near);
                let added = self.net.add(far);
                debug_assert_eq!(added as usize, self.tags.len());
                self.tags.push(self.tags[t as usize]);
                made.push(ends(middle, third));
            }
            let long = made
                .into_iter()
                .filter(|&(a, b)| self.length_squared(a, b) > limit);
            todo.extend(long.map(|edge| keyed(self, edge)));
        }
    }

    fn middle_of(&mut self, a: u32, b: u32) -> u32 {
        let [p, q] = [a, b].map(|v| self.net.positions[v as usize]);
        let middle = self.net.add_vertex((p + q) / 2.0);
        if let Some(colors) = &mut self.colors {
            let (p, q) = (colors[a as usize], colors[b as usize]);
            colors.push([0, 1, 2, 3].map(|i| (p[i] + q[i]) / 2.0));
        }
        self.marks.grow(self.net.positions.len());
        self.near.push(self.near[a as usize]);
        if self.lines.remove(&ends(a, b)) {
            self.lines.extend([ends(a, middle), ends(b, middle)]);
            self.holds.push(Hold::Line);
        } else {
            self.holds.push(Hold::Free);
        }
        middle
    }

    fn collapse_short(&mut self, limit: f64, longest: f64, shortcut: f64) {
        let limit = limit * limit;
        let mut todo = self.edges_where(|length| length < limit);
        todo.par_sort_unstable();
        todo.dedup();
        for (a, b) in todo {
            if self.length_squared(a, b) < limit {
                self.try_collapse(a, b, longest * longest, shortcut);
            }
        }
    }

    fn try_collapse(&mut self, a: u32, b: u32, longest: f64, shortcut: f64) {
        let (hold_a, hold_b) = (self.holds[a as usize], self.holds[b as usize]);
        let (keep, gone) = if hold_a >= hold_b { (a, b) } else { (b, a) };
        let on_line = self.lines.contains(&ends(a, b));
        let [here, there] = [keep, gone].map(|v| self.net.positions[v as usize]);
        let at = match (hold_a.max(hold_b), hold_a.min(hold_b)) {
            (Hold::Free, _) => (here + there) / 2.0,
            (_, Hold::Free) => here,
            (_, Hold::Line) if on_line => {
                let Some(beyond) = self.line_neighbours(gone).find(|&v| v != keep) else {
                    return;
                };
                let beyond = self.net.positions[beyond as usize];
                if distance_to_segment(there, here, beyond) > shortcut {
                    return;
                }
                here
            }
            _ => return,
        };
        let both_held = hold_a.min(hold_b) != Hold::Free;
        // Along a crease both ends are held and the edge has two sides all the same.
        let border_like = both_held && self.net.on_edge(a, b).count() == 1;
        if !may_collapse(&self.net, &mut self.marks, keep, gone, border_like) {
            return;
        }
        let stays_short = self.net.around(gone).all(|(_, [_, x, y])| {
            [x, y].iter().all(|&v| {
                v == keep || self.net.positions[v as usize].distance_squared(at) <= longest
            })
        });
        if !stays_short || !self.sound(keep, Some(gone), at) || !self.sound(gone, Some(keep), at) {
            return;
        }
        let moved: Vec<u32> = match both_held {
            true => self.line_neighbours(gone).collect(),
            false => Vec::new(),
        };
        for other in moved {
            self.lines.remove(&ends(gone, other));
            if other != keep {
                self.lines.insert(ends(keep, other));
            }
        }
        self.net.collapse(keep, gone);
        self.net.positions[keep as usize] = at;
    }

    /// The vertices that lines lead to from here.
    fn line_neighbours(&self, vertex: u32) -> impl Iterator<Item = u32> + '_ {
        let mut others: Vec<u32> = self
            .net
            .around(vertex)
            .flat_map(|(_, [_, x, y])| [x, y])
            .filter(|&other| self.lines.contains(&ends(vertex, other)))
            .collect();
        others.sort_unstable();
        others.dedup();
        others.into_iter()
    }

    /// Whether the faces round a vertex, but for those at `except`, stay sound when it moves.
    fn sound(&self, vertex: u32, except: Option<u32>, at: DVec3) -> bool {
        let from = self.net.positions[vertex as usize];
        self.net.around(vertex).all(|(_, [_, x, y])| {
            if Some(x) == except || Some(y) == except {
                return true;
            }
            let [p, q] = [x, y].map(|v| self.net.positions[v as usize]);
            let before = (p - from).cross(q - from);
            let after = (p - at).cross(q - at);
            let turned = before.dot(after) < LEAN * before.length() * after.length();
            after != DVec3::ZERO && (!turned || quality([from, p, q]) < 1e-6)
        })
    }

    fn flip_to_even_valence(&mut self) {
        let mut valence: Vec<i32> = (0..self.net.positions.len() as u32)
            .into_par_iter()
            .with_min_len(4096)
            .map(|v| self.net.around(v).count() as i32)
            .collect();
        for t in 0..self.net.places() as u32 {
            let Some([a, b, c]) = self.net.triangle(t) else {
                continue;
            };
            for (from, to) in [(a, b), (b, c), (c, a)] {
                if from < to && self.try_flip(t, from, to, &mut valence) {
                    break;
                }
            }
        }
    }

    fn try_flip(&mut self, t: u32, a: u32, b: u32, valence: &mut [i32]) -> bool {
        let mut sides = self.net.on_edge(a, b);
        let (Some(one), Some(two), None) = (sides.next(), sides.next(), sides.next()) else {
            return false;
        };
        drop(sides);
        let ((_, [_, x, y]), (other, [_, z, w])) = if one.0 == t { (one, two) } else { (two, one) };
        // This triangle runs a-b, the other b-a; anything else is a line.
        if x != b || w != b || self.lines.contains(&ends(a, b)) {
            return false;
        }
        let (c, d) = (y, z);
        if c == d {
            return false;
        }
        let off = |v: u32, change: i32| {
            let best = match self.holds[v as usize] {
                Hold::Free => 6,
                _ => 4,
            };
            (valence[v as usize] + change - best).pow(2)
        };
        let before = off(a, 0) + off(b, 0) + off(c, 0) + off(d, 0);
        let after = off(a, -1) + off(b, -1) + off(c, 1) + off(d, 1);
        let shape = |t: [u32; 3]| quality(self.net.points(t));
        let (worst_before, worst_after) = (
            shape([a, b, c]).min(shape([b, a, d])),
            shape([c, a, d]).min(shape([d, b, c])),
        );
        let helps = match after.cmp(&before) {
            std::cmp::Ordering::Less => worst_after > 0.3 * worst_before,
            std::cmp::Ordering::Equal => worst_after > 1.2 * worst_before,
            std::cmp::Ordering::Greater => worst_before < 0.1 && worst_after > 2.0 * worst_before,
        };
        if !helps || !self.flip_is_sound(a, b, c, d) || self.net.on_edge(c, d).next().is_some() {
            return false;
        }
        self.net.replace(t, [c, a, d]);
        self.net.replace(other, [d, b, c]);
        for (v, change) in [(a, -1), (b, -1), (c, 1), (d, 1)] {
            valence[v as usize] += change;
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

    /// Moves every vertex towards the middle of its neighbours, along the surface, and back
    /// onto the input.
    fn relax(&mut self, tree: &TriangleTree) {
        let targets: Vec<Option<(DVec3, u32)>> = (0..self.net.positions.len() as u32)
            .into_par_iter()
            .with_min_len(1024)
            .map(|v| match self.holds[v as usize] {
                Hold::Free => self.relaxed(v, tree),
                Hold::Line => self.relaxed_on_line(v).map(|at| (at, u32::MAX)),
                Hold::Fixed => None,
            })
            .collect();
        for (v, target) in targets.into_iter().enumerate() {
            let Some((at, near)) = target else {
                continue;
            };
            self.near[v] = near;
            if self.sound(v as u32, None, at) {
                self.net.positions[v] = at;
            }
        }
    }

    fn relaxed(&self, vertex: u32, tree: &TriangleTree) -> Option<(DVec3, u32)> {
        let here = self.net.positions[vertex as usize];
        let mut normal = DVec3::ZERO;
        let (mut sum, mut weight) = (DVec3::ZERO, 0.0);
        for (_, [_, x, y]) in self.net.around(vertex) {
            let [p, q] = [x, y].map(|v| self.net.positions[v as usize]);
            let area = (p - here).cross(q - here);
            normal += area;
            // The middle of the faces by area: evens out faces, not only edges.
            sum += (here + p + q) / 3.0 * area.length();
            weight += area.length();
        }
        if weight <= 0.0 {
            return None;
        }
        let way = sum / weight - here;
        let up = normal.normalize_or_zero();
        let moved = here + way - up * way.dot(up);
        tree.closest_from(moved, self.near[vertex as usize])
            .map(|found| (found.point, found.triangle))
    }

    /// The middle between its neighbours on the line, kept on the two edges between them.
    fn relaxed_on_line(&self, vertex: u32) -> Option<DVec3> {
        let mut neighbours = self.line_neighbours(vertex);
        let (Some(x), Some(y), None) = (neighbours.next(), neighbours.next(), neighbours.next())
        else {
            return None;
        };
        let here = self.net.positions[vertex as usize];
        let [p, q] = [x, y].map(|v| self.net.positions[v as usize]);
        let (to_p, to_q) = (here.distance(p), here.distance(q));
        // Half the way that would make both edges equally long.
        let step = (to_p - to_q) / 4.0;
        let end = if step > 0.0 { p } else { q };
        let length = if step > 0.0 { to_p } else { to_q };
        (length > 0.0).then(|| here + (end - here) * (step.abs() / length))
    }
}

fn distance_to_segment(p: DVec3, a: DVec3, b: DVec3) -> f64 {
    let along = b - a;
    let share = (p - a).dot(along) / along.length_squared().max(f64::MIN_POSITIVE);
    p.distance(a + along * share.clamp(0.0, 1.0))
}
