//! Decimation: to a budget of triangles, by collapsing the edge that costs least, again and
//! again (Garland & Heckbert 1997).
//!
//! ```text
//! model ─▶ triangles ─▶ quadrics by vertex ─▶ queue of edges ─▶ collapses ─▶ placing ─▶ model
//! ```
//!
//! Kept at every collapse: no edge gets a third side and no sheet closes on itself (link
//! condition, Dey et al. 1999); no face turns over; a border vertex stays on the border,
//! and one on a line where sheets meet stays on that; where such lines come together vertices go
//! last. The shape of faces is a price (see `shape`). A border weighs like a wall that stands on it,
//! so that straight borders and sharp edges keep their place exactly: where an end of the edge
//! costs nothing, the new vertex is put there and not beside it. UV seams, borders of groups and
//! materials and hard edges weigh, too, and stay lines; UVs, normals, colours, groups and
//! materials come along (see `wedges`). Open edges that lie on each other are reduced as one
//! (see `cracks`).
//! Every collapse inside a surface keeps the volume (after Lindstrom & Turk 1998, but along the
//! normal), since quadrics alone make round shapes larger; and where few triangles are left, they
//! are fitted to the first surface in the end (see `vertex_refit`). Large surfaces are reduced in
//! regions, many at once (see `regions`).
//! Cost: O(n log n) time; about 250 bytes a triangle.
//!
//! ```
//! use hurmo_core::decimate::{DecimateOptions, decimate};
//! use hurmo_core::{Model, shapes};
//!
//! let ball = Model::from(shapes::sphere(1.0, 4));
//! let reduced = decimate(&ball, &DecimateOptions::to(500), &())?;
//! assert!(reduced.model.mesh.face_count() <= 500);
//! # Ok::<(), hurmo_core::Failure>(())
//! ```

mod cracks;
mod crossing;
mod edge_flip;
mod feature_weights;
mod fit;
mod freed;
mod hubs;
mod left_over;
mod links;
mod quadric;
mod queue;
mod reduce;
mod reference_surface;
mod regions;
mod rules;
mod samples;
mod shape;
mod small;
mod sweep;
mod symmetric;
mod textbook;
mod uv_set;
mod vertex_class;
mod vertex_refit;
mod volume;
mod wedges;
mod within;
mod work;

pub use feature_weights::{FeatureWeights, Shares, Weight};
pub use left_over::cheaper_left;
pub use symmetric::{decimate_symmetric, ladder_symmetric};
pub use textbook::textbook;

use crate::compare::stay_within;
use crate::mesh::{FaceId, Mesh, Model, PartId};
use crate::progress::{Cancelled, Failure, Observer};
use crate::spatial::Contacts;
use crate::triangulate::all_triangles;
use reduce::Reduction;
use regions::REGION;
use work::Work;

/// What to reach; of several, what comes first.
#[derive(Clone, Debug, Default)]
#[non_exhaustive]
pub struct DecimateOptions {
    /// This many triangles, or one fewer.
    pub to: Option<usize>,
    /// As few as stay within this distance of the model, both ways, in model units.
    pub within: Option<f64>,
    /// Only what lies flat or straight goes: it is proved that no point lies further off than this,
    /// either way, in model units. Not together with parts that may go.
    pub flat: Option<f64>,
    /// What is kept more carefully than the rest.
    pub weights: FeatureWeights,
    /// Budgets for some faces each, beside that for all.
    pub shares: Option<Shares>,
    /// Parts that reach less far across than this, in model units, may go where that costs
    /// least, once they are reduced as far as can be; without, none does.
    pub may_drop_under: Option<f64>,
    /// No face may come to cross another.
    pub no_crossing: bool,
}

/// Why a reduction ended before its budget or distance.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "serde", serde(rename_all = "kebab-case"))]
#[non_exhaustive]
pub enum StoppedBy {
    /// Every collapse that is left is forbidden.
    #[error(
        "every edge left would make a non-manifold edge, turn a face over, take a part away or move a line that is kept"
    )]
    NoEdgeLeft,
    /// The same, where faces must not come to cross.
    #[error(
        "every edge left would make a non-manifold edge, turn a face over, make faces cross, take a part away or move a line that is kept"
    )]
    NoEdgeLeftWithoutCrossing,
    /// A flat reduction may have changed the shape.
    #[error("it could not be proved that the shape stays as it is")]
    ShapeNotProved,
    /// A symmetric reduction may leave the distance.
    #[error("it could not be proved that both halves hold the distance")]
    DistanceNotProved,
}

/// A reduced model.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct DecimateOutcome {
    /// The model, all triangles.
    pub model: Model,
    /// How many triangles there were.
    pub before: usize,
    /// How many polygons were cut into triangles first.
    pub polygons_cut: usize,
    /// Why neither the budget nor the distance was reached, when that is so.
    pub stopped_by: Option<StoppedBy>,
    /// The distance that is proved to be held, where one was asked for.
    pub held: Option<f64>,
    /// The parts of which nothing is left.
    pub dropped: Vec<PartId>,
    /// Whether normals were made anew from the shape; hard edges are kept.
    pub normals_anew: bool,
}

/// Reduces a model.
///
/// # Errors
/// When an option makes no sense, or the observer says to stop.
pub fn decimate(
    model: &Model,
    options: &DecimateOptions,
    observer: &dyn Observer,
) -> Result<DecimateOutcome, Failure> {
    options.check()?;
    let outcome = decimate_in_regions(model, options, REGION, observer);
    observer.check()?;
    Ok(outcome)
}

impl DecimateOptions {
    /// To this many triangles, or one fewer.
    pub fn to(triangles: usize) -> Self {
        Self {
            to: Some(triangles),
            ..Self::default()
        }
    }

    fn check(&self) -> Result<(), Failure> {
        Failure::unless_length("within", self.within)?;
        Failure::unless_length("flat", self.flat)?;
        Failure::unless_length("may_drop_under", self.may_drop_under)
    }
}

/// Reduces a model in regions of this many triangles.
fn decimate_in_regions(
    model: &Model,
    options: &DecimateOptions,
    region: usize,
    observer: &dyn Observer,
) -> DecimateOutcome {
    let least = options.to.unwrap_or(1);
    if let Some(flat) = options.flat {
        return reduce_flat(model, options, flat, region, observer);
    }
    let (work, mut reduction) = match Work::begin(model, least, options, region) {
        Ok(begun) => begun,
        Err(triangles) => return untouched(model, triangles),
    };
    let (reached, held) = match options.within {
        None => {
            let whole = reduction.run(least, observer);
            let reached = match &reduction.shares {
                Some(shares) => shares.are_reached(),
                None => whole,
            };
            fit_in_the_end(&mut reduction, &model.mesh);
            (reached, None)
        }
        Some(within) => {
            let first = &model.mesh;
            within::reduce_within(&mut reduction, first, within, least, observer);
            (true, Some(within))
        }
    };
    work.end(reduction, reached, held)
}

/// Fits what few triangles are left to the model, unless that makes faces cross that may not.
fn fit_in_the_end(reduction: &mut Reduction, first: &Mesh) {
    if reduction.boxes.is_none() {
        return vertex_refit::place(reduction, first);
    }
    let unfitted = reduction.clone();
    vertex_refit::place(reduction, first);
    let crossing = |reduction: &Reduction| {
        let surface = reduction.surface();
        let faces: Vec<FaceId> = surface.face_ids().collect();
        Contacts::meeting(&surface, &faces).len()
    };
    match crossing(reduction) > crossing(&unfitted) {
        true => *reduction = unfitted,
        // What was fitted is another net.
        false => reduction.forbid_crossing(),
    }
}

/// How often what lies flat is taken by a stricter measure, where the first does not hold.
const STRICTER: usize = 4;

/// Takes what lies flat, and proves that nothing lies further off than that. A root of a mean square
/// says little of the farthest point: where that is off, a stricter one is tried.
fn reduce_flat(
    model: &Model,
    options: &DecimateOptions,
    flat: f64,
    region: usize,
    observer: &dyn Observer,
) -> DecimateOutcome {
    let least = options.to.unwrap_or(1);
    let mut by = flat;
    for _ in 0..STRICTER {
        let stricter = DecimateOptions {
            flat: Some(by),
            ..options.clone()
        };
        let (work, mut reduction) = match Work::begin(model, least, &stricter, region) {
            Ok(begun) => begun,
            Err(triangles) => return untouched(model, triangles),
        };
        reduction.run(least, observer);
        observer.begin("proving", 0);
        let outcome = work.end(reduction, true, Some(flat));
        let holds = || stay_within(&model.mesh, &outcome.model.mesh, flat);
        if outcome.model.mesh.face_count() == work.before || observer.cancelled() || holds() {
            return outcome;
        }
        by /= 3.0;
    }
    let mut outcome = untouched(model, all_triangles(&model.mesh).0.len());
    outcome.stopped_by = Some(StoppedBy::ShapeNotProved);
    outcome
}

/// Reduces a model to several budgets, the largest first, on one way down.
///
/// # Errors
/// When the observer says to stop.
pub fn ladder(
    model: &Model,
    budgets: &[usize],
    weights: &FeatureWeights,
    observer: &dyn Observer,
) -> Result<Vec<DecimateOutcome>, Cancelled> {
    let options = &DecimateOptions {
        weights: weights.clone(),
        ..DecimateOptions::default()
    };
    debug_assert!(budgets.is_sorted_by(|a, b| a >= b));
    let Some(&least) = budgets.last() else {
        return Ok(Vec::new());
    };
    let (work, mut reduction) = match Work::begin(model, least, options, REGION) {
        Ok(begun) => begun,
        Err(triangles) => return Ok(vec![untouched(model, triangles); budgets.len()]),
    };
    let mut outcomes = Vec::new();
    for &to in budgets {
        if work.before <= to {
            outcomes.push(untouched(model, work.before));
            continue;
        }
        let reached = reduction.run(to, observer);
        observer.check()?;
        // The way down goes on from where quadrics put the vertices.
        let mut rung = regions::compact(&reduction);
        vertex_refit::place(&mut rung, &model.mesh);
        outcomes.push(work.end(rung, reached, None));
    }
    Ok(outcomes)
}

/// What comes of a model that has so few triangles already.
fn untouched(model: &Model, triangles: usize) -> DecimateOutcome {
    DecimateOutcome {
        model: model.clone(),
        before: triangles,
        polygons_cut: 0,
        stopped_by: None,
        held: None,
        dropped: Vec::new(),
        normals_anew: false,
    }
}

#[cfg(test)]
mod accuracy_tests;
#[cfg(test)]
mod attribute_tests;
#[cfg(test)]
mod crack_tests;
#[cfg(test)]
mod crossing_tests;
#[cfg(test)]
mod feature_weights_tests;
#[cfg(test)]
mod harm_tests;
#[cfg(test)]
mod region_tests;
#[cfg(test)]
mod symmetric_tests;
#[cfg(test)]
mod tests;
