//! The reduction itself: which collapses are allowed, and where the new vertex goes.

use super::care::Care;
use super::crossing::Boxes;
use super::quadric::Quadric;
use super::regions::reduce_in_regions;
use super::surroundings::{Ground, Kind, surroundings};
use super::sweep::{Next, Sweep};
use super::wedges::Wedges;
use crate::measure::Bounds;
use crate::mesh::{Mesh, VertexId};
use crate::mirror::Mirror;
use crate::progress::Observer;
use crate::topology::{Marks, TriangleNet, may_collapse};
use crate::triangulate::quality;
use glam::DVec3;
use rayon::prelude::*;
use std::cmp::Ordering;

/// A face may lean over by at most this (cosine) in one collapse.
const LEAN: f64 = 0.2;
/// Twice the area, as a share of the square of the diagonal, that is too near to none: ten times
/// what the audit takes for none.
const NO_AREA: f64 = 2e-11;
/// No face may get worse than this, unless it was, while there are other ways.
const WORST_QUALITY: f64 = 0.05;
/// Shorter edges go first where the surface doesn't care.
const SHORT_FIRST: f64 = 1e-8;

/// Where a collapse puts its vertex.
#[derive(Clone, Copy)]
pub(super) struct Placement {
    pub at: DVec3,
    /// How far along from the vertex that stays to the one that goes.
    pub share: f32,
    /// The quadric there.
    pub error: f64,
}

/// A surface on its way to fewer triangles.
#[derive(Clone)]
pub(super) struct Reduction {
    pub net: TriangleNet,
    pub colors: Option<Vec<[f32; 4]>>,
    pub wedges: Option<Wedges>,
    pub quadrics: Vec<Quadric>,
    pub kinds: Vec<Kind>,
    /// By the place of a triangle, which of the model's it is.
    pub origins: Vec<u32>,
    pub rules: Rules,
    /// What budgets there are for some triangles each.
    pub shares: Option<Counted>,
    /// By vertex, how far its part reaches across, if it may go; none where no part may.
    pub small: Option<Vec<Option<f32>>>,
    /// The boxes of all faces, where none may come to cross another.
    pub boxes: Option<Boxes>,
    marks: Marks,
}

/// Budgets, and what is left of each.
#[derive(Clone)]
pub(super) struct Counted {
    /// By the model's triangle, which budget it counts towards.
    pub of_origin: Vec<u32>,
    pub living: Vec<usize>,
    pub budgets: Vec<usize>,
}

/// What a reduction keeps to.
#[derive(Clone, Copy, Debug)]
pub(super) struct Rules {
    /// What places in quadrics are measured from, for precision.
    pub centre: DVec3,
    /// Only what lies so near to all planes that its vertices have taken in may go, as a root of
    /// the mean square.
    pub flat: Option<f64>,
    /// Twice the area below which a face counts as one without: none may fall below it.
    pub least_area: f64,
    /// No face may get worse than this, unless it was.
    pub worst_quality: f64,
    /// Where the half of a symmetric surface ends: what lies on it stays on it.
    pub mirror: Option<Mirror>,
    /// How many triangles a region has, at most.
    pub region: usize,
}

impl Counted {
    /// Whether each is within its budget.
    pub fn are_reached(&self) -> bool {
        let mut pairs = self.living.iter().zip(&self.budgets);
        pairs.all(|(living, budget)| living <= budget)
    }
}

impl Rules {
    /// The rules without any that were asked for.
    pub fn plain(bounds: Option<Bounds>, region: usize) -> Self {
        let square = bounds.map_or(0.0, |bounds| bounds.diagonal().powi(2));
        Self {
            centre: bounds.map_or(DVec3::ZERO, |bounds| bounds.middle()),
            least_area: NO_AREA * square,
            flat: None,
            mirror: None,
            worst_quality: WORST_QUALITY,
            region,
        }
    }
}

impl Reduction {
    pub fn new(
        net: TriangleNet,
        wedges: Option<Wedges>,
        colors: Option<Vec<[f32; 4]>>,
        rules: Rules,
        (care, face, tags): (&Care, &(dyn Fn(u32) -> usize + Sync), &[u32]),
    ) -> Self {
        let count = net.positions.len();
        let ground = Ground {
            net: &net,
            wedges: wedges.as_ref(),
            care,
            face,
            tags,
            centre: rules.centre,
            mirror: rules.mirror,
        };
        let (quadrics, kinds) = (0..count as u32)
            .into_par_iter()
            .with_min_len(1024)
            .map(|v| surroundings(&ground, v))
            .unzip();
        Self {
            colors,
            wedges,
            quadrics,
            kinds,
            origins: (0..net.places() as u32).collect(),
            rules,
            marks: Marks::new(count),
            shares: None,
            small: None,
            boxes: None,
            net,
        }
    }

    /// Some of the triangles by themselves: a net over these vertices, in which those of these
    /// kinds are.
    pub fn part(
        &self,
        net: TriangleNet,
        (vertices, triangles): (&[u32], &[u32]),
        kinds: Vec<Kind>,
        wedges: Option<Wedges>,
    ) -> Self {
        Self {
            marks: Marks::new(net.positions.len()),
            net,
            colors: self.colors.as_ref().map(|all| pick(all, vertices)),
            wedges,
            quadrics: pick(&self.quadrics, vertices),
            kinds,
            origins: pick(&self.origins, triangles),
            rules: self.rules,
            shares: self.shares.clone(),
            small: self.small.as_ref().map(|all| pick(all, vertices)),
            boxes: None,
        }
    }

    /// Whether an edge may never go, since it isn't flat.
    pub fn is_no_flat(&self, a: u32, b: u32) -> bool {
        let Some(within) = self.rules.flat else {
            return false;
        };
        let quadric = self.quadrics[a as usize] + self.quadrics[b as usize];
        let placed = self.placed(a, b, &quadric);
        placed.is_none_or(|(_, _, placement)| placement.error > within * within * quadric.weight())
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
            if self.rules.worst_quality > 0.0 {
                self.rules.worst_quality = 0.0;
            } else if now == before {
                return false;
            }
        }
    }

    fn run_once(&mut self, target: usize, begin: usize, observer: &dyn Observer) {
        if self.net.living() <= target {
            return;
        }
        reduce_in_regions(self, target, begin, observer);
        Sweep::new(self).advance(self, f64::INFINITY, target, |now| {
            observer.at(begin.saturating_sub(now.living()) as u64);
            match observer.cancelled() {
                true => Next::Stop,
                false => Next::GoOn,
            }
        });
    }

    /// Moves vertices, and their UVs along.
    pub fn shift(&mut self, moves: &[DVec3]) {
        if let Some(wedges) = &mut self.wedges {
            wedges.shift(&self.net, moves);
        }
        for (at, by) in self.net.positions.iter_mut().zip(moves) {
            *at += *by;
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

    /// What the collapse of an edge costs; `None` when its ends may never become one.
    pub fn cost(&self, a: u32, b: u32) -> Option<f64> {
        let quadric = self.quadrics[a as usize] + self.quadrics[b as usize];
        let (_, _, placement) = self.placed(a, b, &quadric)?;
        let length =
            self.net.positions[a as usize].distance_squared(self.net.positions[b as usize]);
        Some(placement.error + SHORT_FIRST * quadric.weight() * length)
    }

    /// Which end stays, which goes, and where the vertex is put.
    fn placed(&self, a: u32, b: u32, quadric: &Quadric) -> Option<(u32, u32, Placement)> {
        let (kind_a, kind_b) = (self.kinds[a as usize], self.kinds[b as usize]);
        let (keep, gone) = match (kind_a.cmp(&kind_b), self.on_mirror(b)) {
            (Ordering::Less, _) => (b, a),
            (Ordering::Equal, true) if !self.on_mirror(a) => (b, a),
            _ => (a, b),
        };
        let here = self.net.positions[keep as usize];
        let there = self.net.positions[gone as usize];
        let here_rel = here - self.rules.centre;
        let stay = || Placement {
            at: here,
            share: 0.0,
            error: quadric.at(here_rel),
        };
        match (kind_a.max(kind_b), kind_a.min(kind_b)) {
            (Kind::Held, _) | (Kind::Meeting, Kind::Meeting) | (Kind::Border, Kind::Line) => {
                return None;
            }
            _ if self.on_mirror(gone) && !self.on_mirror(keep) => return None,
            (high, low) if high != low => return Some((keep, gone, stay())),
            _ if self.on_mirror(keep) && !self.on_mirror(gone) => {
                return Some((keep, gone, stay()));
            }
            _ => {}
        }
        let stay = stay();
        let there_rel = there - self.rules.centre;
        let error_there = quadric.at(there_rel);
        let end = match error_there < stay.error {
            true => Placement {
                at: there,
                share: 1.0,
                error: error_there,
            },
            false => stay,
        };
        let length = here.distance_squared(there);
        // An end is as good when the best point would be nearer by next to nothing.
        if end.error <= 1e-12 * quadric.weight() * length {
            return Some((keep, gone, end));
        }
        let middle = (here_rel + there_rel) / 2.0;
        let best = quadric
            .least_near(middle)
            .filter(|best| best.distance_squared(middle) <= 4.0 * length)
            .and_then(|best| self.beside_mirror(best + self.rules.centre, keep))
            .map(|at| {
                let along = (at - here).dot(there - here) / length;
                Placement {
                    at,
                    share: along.clamp(0.0, 1.0) as f32,
                    error: quadric.at(at - self.rules.centre),
                }
            })
            .filter(|best| best.error < end.error);
        Some((keep, gone, best.unwrap_or(end)))
    }

    /// Whether an edge may never go, since what lies at it is within its budget.
    pub fn is_done(&self, a: u32, b: u32) -> bool {
        self.shares.as_ref().is_some_and(|shares| {
            self.net.on_edge(a, b).any(|(t, _)| {
                let share = shares.of_origin[self.origins[t as usize] as usize] as usize;
                shares.living[share] <= shares.budgets[share]
            })
        })
    }

    /// Makes one vertex of an edge's two, if that is allowed; says which stayed and which went.
    pub fn try_collapse(&mut self, a: u32, b: u32) -> Option<(u32, u32)> {
        let quadric = self.quadrics[a as usize] + self.quadrics[b as usize];
        let (keep, gone, mut placement) = self.placed(a, b, &quadric)?;
        self.care_for_volume(keep, gone, &mut placement, &quadric);
        let gone_is = self.kinds[gone as usize];
        let both_border = gone_is >= Kind::Cut;
        let leaves_line = gone_is == Kind::Line && {
            let wedges = self.wedges.as_ref();
            wedges.is_some_and(|wedges| !wedges.is_line(&self.net, keep, gone))
        };
        if leaves_line
            || self.would_touch_mirror(keep, gone)
            || !may_collapse(&self.net, &mut self.marks, keep, gone, both_border)
            || !self.keeps_faces(keep, gone, placement.at)
            || self.would_cross(keep, gone, placement.at)
        {
            return None;
        }
        if let Some(wedges) = &mut self.wedges {
            let merge = wedges.merge(&self.net, keep, gone, placement.at)?;
            wedges.apply(&self.net, gone, &merge);
        }
        if let Some(shares) = &mut self.shares {
            for (t, _) in self.net.on_edge(keep, gone) {
                let share = shares.of_origin[self.origins[t as usize] as usize];
                shares.living[share as usize] -= 1;
            }
        }
        self.move_boxes(keep, gone, placement.at);
        self.net.collapse(keep, gone);
        self.net.positions[keep as usize] = placement.at;
        self.quadrics[keep as usize] = quadric;
        if let Some(colors) = &mut self.colors {
            let (from, to) = (colors[keep as usize], colors[gone as usize]);
            let mixed = [0, 1, 2, 3].map(|i| from[i] + (to[i] - from[i]) * placement.share);
            colors[keep as usize] = mixed;
        }
        Some((keep, gone))
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
                    let area = after.length_squared();
                    let along = before.dot(after);
                    let leans =
                        along < 0.0 || along * along < LEAN * LEAN * area * before.length_squared();
                    let least = self.rules.least_area.powi(2);
                    let vanishes = area <= least && before.length_squared() > least;
                    if (leans && before != DVec3::ZERO) || area == 0.0 || vanishes {
                        return false;
                    }
                    // As `quality` has it, without its root.
                    let sides =
                        at.distance_squared(p) + p.distance_squared(q) + q.distance_squared(at);
                    12.0 * area >= (self.rules.worst_quality * sides).powi(2)
                        || quality([at, p, q]) >= quality([from, p, q])
                })
            })
    }
}

/// Those of a list that are asked for.
pub(super) fn pick<T: Copy>(all: &[T], which: &[u32]) -> Vec<T> {
    which.iter().map(|&i| all[i as usize]).collect()
}
