//! Reduction of a symmetric model by halves, and what keeps a half fit to be made whole again.
//!
//! ```text
//! half ─▶ reduced, its cut held to the plane ─▶ joined with its image
//! ```
//!
//! Kept at every collapse: a vertex on the plane stays on it, none comes to lie on it or behind it,
//! and no edge but those of the cut joins two that lie on it, since its image would be the same
//! edge again.

use super::reduce::Reduction;
use super::vertex_class::VertexClass;
use super::{DecimateOptions, DecimateOutcome, Shares, decimate, ladder, untouched};
use crate::compare::stay_within;
use crate::mesh::Model;
use crate::mirror::{Half, whole};
use crate::progress::{Cancelled, Failure, Observer};
use crate::triangulate::all_triangles;
use glam::DVec3;

/// Reduces a model that is its own image in a mirror, so that the result is, too, to the last bit.
/// The half is taken from `half`; no part may go. The budget may be missed by three.
///
/// # Errors
/// When an option makes no sense, or the observer says to stop.
pub fn decimate_symmetric(
    model: &Model,
    half: &Half,
    options: &DecimateOptions,
    observer: &dyn Observer,
) -> Result<DecimateOutcome, Failure> {
    let before = all_triangles(&model.mesh).0.len();
    if options.to.is_some_and(|to| before <= to) {
        return Ok(untouched(model, before));
    }
    let limit = options.within.or(options.flat);
    let shares = options.shares.as_ref().map(|shares| Shares {
        of_face: half.of_each(&shares.of_face),
        budgets: shares
            .budgets
            .iter()
            .map(|budget| (budget / 2).max(1))
            .collect(),
    });
    // The other side of the model lies off by as much as it is not symmetric.
    let shorter =
        |limit: Option<f64>| limit.map(|limit| (limit - half.off).max(0.0) * (1.0 - 1e-9));
    let own = DecimateOptions {
        to: options.to.map(|to| (to / 2).max(1)),
        within: shorter(options.within),
        flat: shorter(options.flat),
        shares,
        may_drop_under: None,
        weights: half.weights(&options.weights),
        ..options.clone()
    };
    let reduced = decimate(&half.model, &own, observer)?;
    let outcome = made_whole(model, half, before, reduced);
    Ok(match limit {
        Some(limit) if !stay_within(&model.mesh, &outcome.model.mesh, limit) => DecimateOutcome {
            stopped_by: Some(super::StoppedBy::DistanceNotProved),
            ..untouched(model, before)
        },
        held => DecimateOutcome { held, ..outcome },
    })
}

/// The same to several budgets, the largest first, on one way down.
///
/// # Errors
/// When the observer says to stop.
pub fn ladder_symmetric(
    model: &Model,
    half: &Half,
    budgets: &[usize],
    weights: &super::FeatureWeights,
    observer: &dyn Observer,
) -> Result<Vec<DecimateOutcome>, Cancelled> {
    let before = all_triangles(&model.mesh).0.len();
    let halved: Vec<usize> = budgets.iter().map(|to| (to / 2).max(1)).collect();
    let rungs = ladder(&half.model, &halved, &half.weights(weights), observer)?;
    let each = budgets.iter().zip(rungs);
    let each = each.map(|(&to, rung)| match before <= to {
        true => untouched(model, before),
        false => made_whole(model, half, before, rung),
    });
    Ok(each.collect())
}

fn made_whole(
    model: &Model,
    half: &Half,
    before: usize,
    reduced: DecimateOutcome,
) -> DecimateOutcome {
    DecimateOutcome {
        model: whole(&reduced.model, &half.mirror, half.is_joined, model),
        before,
        polygons_cut: model
            .mesh
            .faces()
            .filter(|(_, face)| face.len() > 3)
            .count(),
        ..reduced
    }
}

impl Half {
    /// What is kept of the whole, for the half.
    fn weights(&self, weights: &super::FeatureWeights) -> super::FeatureWeights {
        super::FeatureWeights {
            mirror: Some(self.mirror),
            focus: self.of_each(&weights.focus),
            ..weights.clone()
        }
    }

    /// What belongs to faces of the whole, by face of the half.
    fn of_each<T: Copy>(&self, of_face: &[T]) -> Vec<T> {
        let from = self.from.iter();
        from.filter_map(|face| of_face.get(face.index()).copied())
            .collect()
    }
}

impl Reduction {
    /// Whether a vertex lies on the plane where a half ends.
    pub(super) fn on_mirror(&self, vertex: u32) -> bool {
        let at = self.linked.positions[vertex as usize];
        self.rules.mirror.is_some_and(|mirror| mirror.holds(at))
    }

    /// Whether a vertex may be put there, as far as the plane is concerned.
    pub(super) fn is_before_mirror(&self, at: DVec3) -> bool {
        self.rules
            .mirror
            .is_none_or(|mirror| mirror.before(at) > 0.0)
    }

    /// A place for an edge's vertex: on the plane if the vertex that stays is, or else before it.
    pub(super) fn beside_mirror(&self, at: DVec3, keep: u32) -> Option<DVec3> {
        match self.rules.mirror {
            Some(mirror) if self.on_mirror(keep) => Some(mirror.onto(at)),
            _ => self.is_before_mirror(at).then_some(at),
        }
    }

    /// Takes from moves what would lead off the plane where a half ends.
    pub(super) fn keep_to_mirror(&self, moves: &mut [DVec3]) {
        let Some(mirror) = self.rules.mirror else {
            return;
        };
        let cut = moves
            .iter_mut()
            .zip(&self.kinds)
            .filter(|(_, kind)| **kind == VertexClass::Cut);
        cut.for_each(|(by, _)| by[mirror.axis as usize] = 0.0);
    }

    /// Whether a collapse would lay an edge along the plane, or a face into it.
    pub(super) fn would_touch_mirror(&self, keep: u32, gone: u32) -> bool {
        if self.rules.mirror.is_none() || !self.on_mirror(keep) || self.on_mirror(gone) {
            return false;
        }
        self.linked.around(gone).any(|(_, [_, x, y])| {
            let others = [x, y]
                .into_iter()
                .filter(|&v| v != keep && self.on_mirror(v));
            let mut count = 0;
            let joins = others
                .inspect(|_| count += 1)
                .any(|v| self.linked.on_edge(keep, v).next().is_none());
            joins || count == 2
        })
    }
}
