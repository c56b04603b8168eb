//! The reduction itself: which collapses are allowed, and where the new vertex goes.

use super::quadric::Quadric;
use super::queue::{Entry, Queue};
use super::surroundings::{Kind, surroundings};
use super::wedges::Wedges;
use crate::mesh::{Mesh, VertexId};
use crate::progress::Observer;
use crate::topology::{Marks, TriangleNet, may_collapse};
use crate::triangulate::quality;
use glam::DVec3;
use rayon::prelude::*;

/// A face may lean over by at most this (cosine) in one collapse.
const LEAN: f64 = 0.2;
/// No face may get worse than this, unless it was, while there are other ways.
const WORST_QUALITY: f64 = 0.05;
/// Shorter edges go first where the surface doesn't care.
const SHORT_FIRST: f64 = 1e-8;

/// Where a collapse puts its vertex.
#[derive(Clone, Copy)]
struct Placement {
    at: DVec3,
    /// How far along from the vertex that stays to the one that goes.
    share: f32,
}

#[derive(Clone)]
pub(super) struct Reduction {
    net: TriangleNet,
    colors: Option<Vec<[f32; 4]>>,
    wedges: Option<Wedges>,
    quadrics: Vec<Quadric>,
    kinds: Vec<Kind>,
    ages: Vec<u32>,
    /// For a vertex that went, the one that took it in.
    went_to: Vec<u32>,
    centre: DVec3,
    marks: Marks,
    worst_quality: f64,
    /// Only what lies so near to all planes that its vertices have taken in may go, as a root of
    /// the mean square.
    flat: Option<f64>,
}

impl Reduction {
    pub fn new(
        net: TriangleNet,
        wedges: Option<Wedges>,
        colors: Option<Vec<[f32; 4]>>,
        centre: DVec3,
    ) -> Self {
        let count = net.positions.len();
        let (quadrics, kinds) = (0..count as u32)
            .into_par_iter()
            .with_min_len(1024)
            .map(|v| surroundings(&net, wedges.as_ref(), v, centre))
            .unzip();
        Self {
            colors,
            wedges,
            quadrics,
            kinds,
            ages: vec![0; count],
            went_to: (0..count as u32).collect(),
            centre,
            marks: Marks::new(count),
            worst_quality: WORST_QUALITY,
            flat: None,
            net,
        }
    }

    /// Lets only go what is flat, or straight on a border or line, within a distance.
    pub fn keep_all_but_flat(&mut self, within: f64) {
        self.flat = Some(within);
    }

    /// Whether an edge may never go, since it isn't flat.
    fn is_no_flat(&self, a: u32, b: u32) -> bool {
        let Some(within) = self.flat else {
            return false;
        };
        let quadric = self.quadrics[a as usize] + self.quadrics[b as usize];
        let placed = self.placed(a, b, &quadric);
        placed.is_none_or(|(_, _, placement)| {
            quadric.at(placement.at - self.centre) > within * within * quadric.weight()
        })
    }

    /// Collapses until at most `target` triangles are left; says whether that was reached.
    pub fn run(&mut self, target: usize, observer: &dyn Observer) -> bool {
        let begin = self.net.living();
        observer.begin("decimating", begin.saturating_sub(target) as u64);
        loop {
            let before = self.net.living();
            self.run_once(target, begin, observer);
            let now = self.net.living();
            if now <= target || observer.cancelled() {
                return now <= target;
            }
            // What was refused for its shape may go if there is no other way.
            if self.worst_quality > 0.0 {
                self.worst_quality = 0.0;
            } else if now == before {
                return false;
            }
        }
    }

    fn run_once(&mut self, target: usize, begin: usize, observer: &dyn Observer) {
        if self.net.living() <= target {
            return;
        }
        let mut queue = Queue::new(self.all_edges());
        let mut steps = 0u32;
        while self.net.living() > target {
            let Some(entry) = queue.pop() else {
                return;
            };
            let (a, b) = (self.settled(entry.a), self.settled(entry.b));
            let (a, b) = (a.min(b), a.max(b));
            if a == b {
                continue;
            }
            let age = self.ages[a as usize].wrapping_add(self.ages[b as usize]);
            if age != entry.age {
                if let Some(cost) = self.cost(a, b) {
                    queue.push(Entry::new(cost.max(entry.cost()), a, b, age));
                }
                continue;
            }
            if self.is_no_flat(a, b) {
                continue;
            }
            if !self.try_collapse(a, b) {
                // Tried again when what costs four times as much has gone.
                let later = entry.cost() * 4.0 + f64::from(f32::MIN_POSITIVE);
                if later < f64::from(f32::MAX) {
                    queue.push(Entry::new(later, a, b, age));
                }
                continue;
            }
            steps += 1;
            if steps.is_multiple_of(4096) {
                observer.at((begin - self.net.living()) as u64);
                if observer.cancelled() {
                    return;
                }
            }
        }
    }

    /// How many triangles are left.
    pub fn living(&self) -> usize {
        self.net.living()
    }

    /// The surface as it is now.
    pub fn surface(&self) -> Mesh {
        let net = &self.net;
        let places = (0..net.places() as u32).filter_map(|t| net.triangle(t));
        let triangles: Vec<_> = places.map(|triangle| triangle.map(VertexId)).collect();
        Mesh::from_triangles(net.positions.clone(), &triangles)
            .expect("a net holds sound triangles")
    }

    pub fn finish(self) -> (TriangleNet, Option<Wedges>, Option<Vec<[f32; 4]>>) {
        (self.net, self.wedges, self.colors)
    }

    /// Every edge once, with its cost.
    fn all_edges(&self) -> Vec<Entry> {
        (0..self.net.positions.len() as u32)
            .into_par_iter()
            .with_min_len(1024)
            .flat_map_iter(|a| {
                let mut others: Vec<u32> = self
                    .net
                    .around(a)
                    .flat_map(|(_, [_, x, y])| [x, y])
                    .filter(|&b| b > a)
                    .collect();
                others.sort_unstable();
                others.dedup();
                others.into_iter().filter_map(move |b| {
                    let age = self.ages[a as usize].wrapping_add(self.ages[b as usize]);
                    Some(Entry::new(self.cost(a, b)?, a, b, age))
                })
            })
            .collect()
    }

    fn settled(&mut self, mut vertex: u32) -> u32 {
        while self.went_to[vertex as usize] != vertex {
            let next = self.went_to[vertex as usize];
            self.went_to[vertex as usize] = self.went_to[next as usize];
            vertex = next;
        }
        vertex
    }

    /// What the collapse of an edge costs; `None` when its ends may never become one.
    fn cost(&self, a: u32, b: u32) -> Option<f64> {
        let quadric = self.quadrics[a as usize] + self.quadrics[b as usize];
        let (_, _, placement) = self.placed(a, b, &quadric)?;
        let length =
            self.net.positions[a as usize].distance_squared(self.net.positions[b as usize]);
        Some(quadric.at(placement.at - self.centre) + SHORT_FIRST * quadric.weight() * length)
    }

    /// Which end stays, which goes, and where the vertex is put.
    fn placed(&self, a: u32, b: u32, quadric: &Quadric) -> Option<(u32, u32, Placement)> {
        let (kind_a, kind_b) = (self.kinds[a as usize], self.kinds[b as usize]);
        let (keep, gone) = if kind_a >= kind_b { (a, b) } else { (b, a) };
        let here = self.net.positions[keep as usize];
        let there = self.net.positions[gone as usize];
        let stay = Placement {
            at: here,
            share: 0.0,
        };
        match (kind_a.max(kind_b), kind_a.min(kind_b)) {
            (Kind::Meeting, Kind::Meeting) | (Kind::Border, Kind::Line) => return None,
            (high, low) if high != low => return Some((keep, gone, stay)),
            _ => {}
        }
        let (here_rel, there_rel) = (here - self.centre, there - self.centre);
        let (cost_here, cost_there) = (quadric.at(here_rel), quadric.at(there_rel));
        let end = match cost_there < cost_here {
            true => Placement {
                at: there,
                share: 1.0,
            },
            false => stay,
        };
        let cost_end = cost_here.min(cost_there);
        let length = here.distance_squared(there);
        // An end is as good when the best point would be nearer by next to nothing.
        if cost_end <= 1e-12 * quadric.weight() * length {
            return Some((keep, gone, end));
        }
        let middle = (here_rel + there_rel) / 2.0;
        let best = quadric
            .least_near(middle)
            .filter(|best| best.distance_squared(middle) <= 4.0 * length)
            .filter(|best| quadric.at(*best) < cost_end)
            .map(|best| {
                let along = (best - here_rel).dot(there - here) / length;
                Placement {
                    at: best + self.centre,
                    share: along.clamp(0.0, 1.0) as f32,
                }
            });
        Some((keep, gone, best.unwrap_or(end)))
    }

    fn try_collapse(&mut self, a: u32, b: u32) -> bool {
        let quadric = self.quadrics[a as usize] + self.quadrics[b as usize];
        let Some((keep, gone, placement)) = self.placed(a, b, &quadric) else {
            return false;
        };
        let gone_is = self.kinds[gone as usize];
        let both_border = gone_is >= Kind::Border;
        let leaves_line = gone_is == Kind::Line && {
            let wedges = self.wedges.as_ref();
            wedges.is_some_and(|wedges| !wedges.is_line(&self.net, keep, gone))
        };
        if leaves_line
            || !may_collapse(&self.net, &mut self.marks, keep, gone, both_border)
            || !self.keeps_faces(keep, gone, placement.at)
        {
            return false;
        }
        if let Some(wedges) = &mut self.wedges {
            let Some(merge) = wedges.merge(&self.net, keep, gone, placement.at) else {
                return false;
            };
            wedges.apply(&self.net, gone, &merge);
        }
        self.net.collapse(keep, gone);
        self.net.positions[keep as usize] = placement.at;
        self.quadrics[keep as usize] = quadric;
        self.went_to[gone as usize] = keep;
        let age = self.ages[keep as usize].wrapping_add(self.ages[gone as usize]);
        self.ages[keep as usize] = age.wrapping_add(1);
        if let Some(colors) = &mut self.colors {
            let (from, to) = (colors[keep as usize], colors[gone as usize]);
            let mixed = [0, 1, 2, 3].map(|i| from[i] + (to[i] - from[i]) * placement.share);
            colors[keep as usize] = mixed;
        }
        true
    }

    /// Whether no face would turn over or lose its shape.
    fn keeps_faces(&self, keep: u32, gone: u32, at: DVec3) -> bool {
        [(keep, gone), (gone, keep)]
            .into_iter()
            .all(|(here, other)| {
                let from = self.net.positions[here as usize];
                if from == at {
                    return true;
                }
                self.net.around(here).all(|(_, [_, x, y])| {
                    if x == other || y == other {
                        return true;
                    }
                    let [p, q] = [x, y].map(|v| self.net.positions[v as usize]);
                    let before = (p - from).cross(q - from);
                    let after = (p - at).cross(q - at);
                    let sizes = before.length() * after.length();
                    let turned = before.dot(after) < LEAN * sizes;
                    if (turned && before != DVec3::ZERO) || after == DVec3::ZERO {
                        return false;
                    }
                    let shape = quality([at, p, q]);
                    shape >= self.worst_quality || shape >= quality([from, p, q])
                })
            })
    }
}
