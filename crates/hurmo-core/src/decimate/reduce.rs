//! The reduction itself: which collapses are allowed, and where the new vertex goes.

use super::crossing::Boxes;
use super::feature_weights::FeatureWeights;
use super::quadric::Quadric;
use super::regions::reduce_in_regions;
use super::rules::{Counted, Rules};
use super::shape::Verdict;
use super::sweep::{Next, Sweep};
use super::vertex_class::{ClassContext, VertexClass, surroundings};
use super::wedges::Wedges;
use crate::mesh::{Mesh, VertexId};
use crate::progress::Observer;
use crate::topology::{Along, LinkedMesh, Marks, bares_a_double, may_collapse};
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::FxHashMap;
use smallvec::SmallVec;
use std::cmp::Ordering;

/// A vertex is put no further from the middle of its edge than this many times its length.
const REACH: f64 = 1.0;
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

/// What came of trying a collapse.
#[derive(Clone, PartialEq, Debug)]
pub(super) enum Tried {
    Done {
        keep: u32,
        gone: u32,
        /// Vertices that may go where they could not before.
        freed: SmallVec<[u32; 4]>,
    },
    /// It costs this, once the shape of the faces round it is counted.
    Dearer(f64),
    /// It would make the mesh wrong as it is now.
    Refused,
}

/// A surface on its way to fewer triangles.
#[derive(Clone)]
pub(super) struct Reduction {
    pub linked: LinkedMesh,
    pub colors: Option<Vec<[f32; 4]>>,
    pub wedges: Option<Wedges>,
    pub quadrics: Vec<Quadric>,
    pub kinds: Vec<VertexClass>,
    /// By the place of a triangle, which of the model's it is.
    pub origins: Vec<u32>,
    pub rules: Rules,
    /// What budgets there are for some triangles each.
    pub shares: Option<Counted>,
    /// By vertex, how far its part reaches across, if it may go; none where no part may.
    pub small: Option<Vec<Option<f32>>>,
    /// By vertex, how far from the planes that it has taken in it may lie, as a root of the mean square;
    /// where it is negative, the vertex stays. None where only `rules` say so.
    pub tolerances: Option<Vec<f32>>,
    /// The boxes of all faces, where none may come to cross another.
    pub boxes: Option<Boxes>,
    /// By vertex at which very many triangles meet, how often it has been passed over since what
    /// meets there was looked at.
    pub passed_over: FxHashMap<u32, usize>,
    /// What the last collapse cost.
    pub last_cost: f64,
    marks: Marks,
}

impl Reduction {
    pub fn new(
        linked: LinkedMesh,
        wedges: Option<Wedges>,
        colors: Option<Vec<[f32; 4]>>,
        rules: Rules,
        (weights, face, tags): (&FeatureWeights, &(dyn Fn(u32) -> usize + Sync), &[u32]),
    ) -> Self {
        let count = linked.positions.len();
        let context = ClassContext {
            linked: &linked,
            wedges: wedges.as_ref(),
            weights,
            face,
            tags,
            centre: rules.centre,
            mirror: rules.mirror,
        };
        let (quadrics, kinds) = (0..count as u32)
            .into_par_iter()
            .with_min_len(1024)
            .map(|v| surroundings(&context, v))
            .unzip();
        Self {
            colors,
            wedges,
            quadrics,
            kinds,
            origins: (0..linked.places() as u32).collect(),
            rules,
            marks: Marks::new(count),
            shares: None,
            small: None,
            tolerances: None,
            boxes: None,
            passed_over: FxHashMap::default(),
            last_cost: 0.0,
            linked,
        }
    }

    /// Some of the triangles by themselves: a linked mesh over these vertices, in which those of these
    /// kinds are.
    pub fn part(
        &self,
        linked: LinkedMesh,
        (vertices, triangles): (&[u32], &[u32]),
        kinds: Vec<VertexClass>,
        wedges: Option<Wedges>,
    ) -> Self {
        Self {
            marks: Marks::new(linked.positions.len()),
            linked,
            colors: self.colors.as_ref().map(|all| pick(all, vertices)),
            wedges,
            quadrics: pick(&self.quadrics, vertices),
            kinds,
            origins: pick(&self.origins, triangles),
            rules: self.rules,
            shares: self.shares.clone(),
            small: self.small.as_ref().map(|all| pick(all, vertices)),
            tolerances: self.tolerances.as_ref().map(|all| pick(all, vertices)),
            boxes: None,
            passed_over: FxHashMap::default(),
            last_cost: 0.0,
        }
    }

    /// Whether an edge may never go, since what it has taken in isn't flat enough.
    pub fn is_no_flat(&self, a: u32, b: u32) -> bool {
        let own = self.tolerances.as_ref().map(|all| {
            let [a, b] = [a, b].map(|v| all[v as usize]);
            f64::from(a.min(b))
        });
        let Some(within) = own.or(self.rules.flat) else {
            return false;
        };
        if within < 0.0 {
            return true;
        }
        let quadric = self.quadrics[a as usize] + self.quadrics[b as usize];
        let placed = self.placed(a, b, &quadric);
        placed.is_none_or(|(_, _, placement)| placement.error > within * within * quadric.weight())
    }

    /// Collapses until at most `target` triangles are left; says whether that was reached.
    pub fn run(&mut self, target: usize, observer: &dyn Observer) -> bool {
        let begin = self.linked.living();
        observer.begin("decimating", begin.saturating_sub(target) as u64);
        loop {
            let before = self.linked.living();
            self.run_once(target, begin, observer);
            let now = self.linked.living();
            if now <= target || observer.cancelled() {
                return now <= target;
            }
            // Where sheets meet in many ways, joints are left when all lines between them are gone.
            if !self.rules.joints_may_go {
                self.rules.joints_may_go = true;
            } else if now == before {
                return false;
            }
        }
    }

    fn run_once(&mut self, target: usize, begin: usize, observer: &dyn Observer) {
        if self.linked.living() <= target {
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
            wedges.shift(&self.linked, moves);
        }
        for (at, by) in self.linked.positions.iter_mut().zip(moves) {
            *at += *by;
        }
    }

    /// How many triangles are left.
    pub fn living(&self) -> usize {
        self.linked.living()
    }

    /// The surface as it is now.
    pub fn surface(&self) -> Mesh {
        let linked = &self.linked;
        let places = (0..linked.places() as u32).filter_map(|t| linked.triangle(t));
        let triangles: Vec<_> = places.map(|triangle| triangle.map(VertexId)).collect();
        Mesh::from_triangles(linked.positions.clone(), &triangles)
            .expect("a net holds sound triangles")
    }

    /// What the collapse of an edge costs; `None` when its ends may never become one.
    pub fn cost(&self, a: u32, b: u32) -> Option<f64> {
        let quadric = self.quadrics[a as usize] + self.quadrics[b as usize];
        let (_, _, placement) = self.placed(a, b, &quadric)?;
        Some(self.cost_at(a, b, &quadric, &placement))
    }

    fn cost_at(&self, a: u32, b: u32, quadric: &Quadric, placement: &Placement) -> f64 {
        let [a, b] = [a, b].map(|v| self.linked.positions[v as usize]);
        placement.error + SHORT_FIRST * quadric.weight() * a.distance_squared(b)
    }

    /// Which end stays, which goes, and where the vertex is put.
    fn placed(&self, a: u32, b: u32, quadric: &Quadric) -> Option<(u32, u32, Placement)> {
        let (kind_a, kind_b) = (self.kinds[a as usize], self.kinds[b as usize]);
        let (keep, gone) = match (kind_a.cmp(&kind_b), self.on_mirror(b)) {
            (Ordering::Less, _) => (b, a),
            (Ordering::Equal, true) if !self.on_mirror(a) => (b, a),
            _ => (a, b),
        };
        let here = self.linked.positions[keep as usize];
        let there = self.linked.positions[gone as usize];
        let here_rel = here - self.rules.centre;
        let stay = || Placement {
            at: here,
            share: 0.0,
            error: quadric.at(here_rel),
        };
        match (kind_a.max(kind_b), kind_a.min(kind_b)) {
            (VertexClass::Held, _)
            | (VertexClass::Kept, VertexClass::Kept)
            | (VertexClass::Border, VertexClass::Line) => return None,
            (VertexClass::Seam, VertexClass::Line | VertexClass::Cut | VertexClass::Border) => {
                return None;
            }
            (_, VertexClass::Meeting) if !self.rules.joints_may_go => return None,
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
            .map(|best| middle + (best - middle).clamp_length_max(REACH * length.sqrt()))
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
            self.linked.on_edge(a, b).any(|(t, _)| {
                let share = shares.of_origin[self.origins[t as usize] as usize] as usize;
                shares.living[share] <= shares.budgets[share]
            })
        })
    }

    /// Makes one vertex of an edge's two, if that is allowed and no dearer than `most`.
    pub fn try_collapse(&mut self, a: u32, b: u32, most: f64) -> Tried {
        let quadric = self.quadrics[a as usize] + self.quadrics[b as usize];
        let Some((keep, gone, placement)) = self.placed(a, b, &quadric) else {
            return Tried::Refused;
        };
        let Some((keep, gone, mut placement)) = self.beside_crowd(keep, gone, placement, &quadric)
        else {
            return Tried::Refused;
        };
        let cost = self.cost_at(a, b, &quadric, &placement);
        self.care_for_volume(keep, gone, &mut placement, &quadric);
        let gone_is = self.kinds[gone as usize];
        let along = match gone_is {
            VertexClass::Inside | VertexClass::Line => Along::Sheet,
            VertexClass::Cut | VertexClass::Border => Along::Border,
            VertexClass::Seam => Along::Meeting,
            _ => Along::Any,
        };
        let leaves_line = gone_is == VertexClass::Line && {
            let wedges = self.wedges.as_ref();
            wedges.is_some_and(|wedges| !wedges.is_line(&self.linked, keep, gone))
        };
        if leaves_line
            || self.would_touch_mirror(keep, gone)
            || !may_collapse(&self.linked, &mut self.marks, keep, gone, along)
            || self.kinds[keep as usize] >= VertexClass::Cut
                && bares_a_double(&self.linked, keep, gone)
        {
            return Tried::Refused;
        }
        match self.verdict([keep, gone], placement.at, &quadric, cost) {
            Verdict::Wrong => return Tried::Refused,
            Verdict::Priced(price) if cost + price > most => return Tried::Dearer(cost + price),
            Verdict::Priced(_) => {}
        }
        if self.would_cross(keep, gone, placement.at) {
            return Tried::Refused;
        }
        if let Some(wedges) = &mut self.wedges {
            let Some(merge) = wedges.merge(&self.linked, keep, gone, placement.at) else {
                return Tried::Refused;
            };
            wedges.apply(&self.linked, gone, &merge);
        }
        if let Some(shares) = &mut self.shares {
            for (t, _) in self.linked.on_edge(keep, gone) {
                let share = shares.of_origin[self.origins[t as usize] as usize];
                shares.living[share as usize] -= 1;
            }
        }
        self.move_boxes(keep, gone, placement.at);
        self.linked.collapse(keep, gone);
        self.linked.positions[keep as usize] = placement.at;
        self.quadrics[keep as usize] = quadric;
        if let Some(tolerances) = &mut self.tolerances {
            tolerances[keep as usize] = tolerances[keep as usize].min(tolerances[gone as usize]);
        }
        if let Some(colors) = &mut self.colors {
            let (from, to) = (colors[keep as usize], colors[gone as usize]);
            let mixed = [0, 1, 2, 3].map(|i| from[i] + (to[i] - from[i]) * placement.share);
            colors[keep as usize] = mixed;
        }
        let freed = self.freed_at(keep);
        Tried::Done { keep, gone, freed }
    }
}

/// Those of a list that are asked for.
pub(super) fn pick<T: Copy>(all: &[T], which: &[u32]) -> Vec<T> {
    which.iter().map(|&i| all[i as usize]).collect()
}
