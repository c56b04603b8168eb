//! Mending: clearing faults by kind, in an order in which no cure undoes the one before it.
//!
//! ```text
//! weld ─▶ zero-area faces ─▶ lamina faces ─▶ T-junctions ─▶ facing ─▶ crossings ─▶ non-manifold edges
//!      ─▶ pinched vertices ─▶ scraps ─▶ nested parts ─▶ buried faces ─▶ slivers
//!      ─▶ bad polygons ─▶ n-gons ─▶ stray edges ─▶ stray vertices
//! ```
//!
//! Welding comes first because every other fault is a matter of which vertices are shared. It
//! can collapse faces, so those go next; what is then left on the same vertices is a lamina
//! face, and each of those makes its edges non-manifold. Which sides of a non-manifold edge belong
//! together depends on which way they face, so that faces turn first; where taking sheets apart
//! joins patches anew, they turn again in the next round. Only then is it clear what is inside. Dropped faces and line
//! elements leave vertices behind: those go last. What one cure leaves, another may have made
//! curable, so rounds go on until nothing changes, three at most; but what was taken apart is
//! not welded again.
//!
//! To add a cure: write a file here with one [`Cure`] and name it in [`CURES`].
//!
//! ```
//! use hurmo_core::mend::{MendOptions, mend};
//! use hurmo_core::{Mesh, Model, VertexId};
//! use glam::DVec3;
//!
//! // Two triangles beside each other, each with corners of its own: a weld joins two pairs.
//! let corners = [(0., 0.), (1., 0.), (0., 1.), (1., 0.), (1., 1.), (0., 1.)];
//! let corners = corners.map(|(x, y)| DVec3::new(x, y, 0.0));
//! let triangles = [[0, 1, 2], [3, 4, 5]].map(|face| face.map(VertexId::new));
//! let model = Model::from(Mesh::from_triangles(corners.to_vec(), &triangles).unwrap());
//! let mended = mend(&model, &MendOptions::default(), &()).unwrap();
//! assert_eq!(mended.model.mesh.vertex_count(), 4);
//! assert_eq!(mended.changes[0].agreeing(), "vertices welded");
//! ```

mod after_cuts;
mod change;
mod crossings;
mod interior;
mod lamina;
mod ngons;
mod nonmanifold;
mod one_sided;
mod orientation;
mod polygons;
mod removed;
mod side_pairs;
mod slivers;
mod stray;
mod stray_edges;
mod t_junctions;
mod thin_triangles;
mod unusable;
mod vertex_splits;
mod visible_side;
mod weld;
mod weld_candidates;
mod weld_trials;
mod zero_area;

pub use after_cuts::{
    joining_distances, left_after_tidying, may_be_joined, tidied_after_cuts, tidiest,
};
pub use change::Change;
pub use interior::OPENED;
pub use nonmanifold::ODD_SIDES;
pub use orientation::ONE_SIDED;
pub use removed::Removed;
pub use weld::LEFT_APART;
pub use weld_trials::{WeldTrial, best_weld, weld_trials};

use crate::boolean::Filled;
use crate::measure::PartMeasure;
use crate::mesh::{Mesh, Model};
use crate::progress::{Cancelled, Failure, Observer};
use crate::triangulate::Which;

/// One kind of repair.
pub struct Cure {
    /// The checks whose findings it clears.
    pub clears: &'static [&'static str],
    /// Whether it is done when nothing is named: it changes no shape and loses nothing.
    pub safe: bool,
    /// Whether it drops surface, and so is done only when its check is named.
    pub drops: bool,
    apply: fn(&mut Model, &MendOptions) -> Result<Step, MendError>,
}

/// All cures, in the order in which they are done.
pub const CURES: &[Cure] = &[
    unusable::CURE,
    weld::CURE,
    zero_area::CURE,
    lamina::CURE,
    t_junctions::CURE,
    orientation::CURE,
    crossings::CURE,
    nonmanifold::EDGES,
    nonmanifold::VERTICES,
    interior::FLOATING,
    interior::NESTED,
    interior::INTERIOR,
    slivers::CURE,
    polygons::CONCAVE,
    polygons::NON_PLANAR,
    ngons::CURE,
    stray_edges::CURE,
    stray::CURE,
];

/// Where sheets are taken apart, the new vertices move by this share of the diagonal, so that no weld and
/// no format that joins equal positions ties them together again: what [`MendOptions::gap`] is made of.
const GAP: f64 = 1e-5;
/// And by no less than this many steps of single precision, where a file holds no more.
const STEPS: f64 = 2.0;

/// How far new vertices must move for a file not to join them again, which may hold `single` precision only:
/// far from the origin its numbers are coarse.
pub fn gap_for(mesh: &Mesh, single: bool) -> f64 {
    let Some(bounds) = crate::measure::bounds(mesh) else {
        return 0.0;
    };
    let farthest = bounds.min.abs().max(bounds.max.abs()).max_element();
    let step = f64::from(f32::EPSILON) * farthest;
    let least = if single { STEPS * step } else { 0.0 };
    least.max(GAP * bounds.diagonal())
}

/// The model with closed parts facing outward and hollows inward; and how many faces were turned for that.
pub fn facing_outward(model: Model) -> (Model, usize) {
    let options = MendOptions {
        clear: ["misoriented-edges", "reversed-faces"]
            .map(String::from)
            .into(),
        ..MendOptions::default()
    };
    match mend(&model, &options, &()) {
        Ok(outcome) => {
            let turned = outcome.changes.iter().map(|change| change.count).sum();
            (outcome.model, turned)
        }
        Err(_) => (model, 0),
    }
}

/// The checks that some cure clears, in the order of the cures.
pub fn curable() -> impl Iterator<Item = &'static str> {
    CURES.iter().flat_map(|cure| cure.clears).copied()
}

/// The checks that are cleared when nothing is named.
pub fn safe() -> impl Iterator<Item = &'static str> {
    let safe = CURES.iter().filter(|cure| cure.safe);
    safe.flat_map(|cure| cure.clears).copied()
}

/// What to mend.
#[derive(Clone, Debug, Default)]
#[non_exhaustive]
pub struct MendOptions {
    /// Names of checks to clear; empty: all that is safe.
    pub clear: Vec<String>,
    /// Names of checks not to clear all the same.
    pub keep: Vec<String>,
    /// Checks that an audit of this very model has no finding of: until something has been
    /// changed, their cures have nothing to do.
    pub found_nothing: Vec<&'static str>,
    /// Weld vertices up to this far apart, in model units, rather than equal ones only.
    pub near: Option<f64>,
    /// Weld only vertices on open edges.
    pub seams_only: bool,
    /// Weld even where that collapses faces.
    pub force: bool,
    /// Cut polygons into triangles; `None`: only n-gons, only when `ngons` is named, and into
    /// quads where these come out well.
    pub triangulate: Option<Which>,
    /// Triangles this many times as long as high are slivers; `None`: 50 times.
    pub sliver_ratio: Option<f64>,
    /// Turn open parts, consistent ones too, so that the side that is seen is the front.
    pub turn_outward: bool,
    /// Cut one-sided patches open, so that they can be made consistent.
    pub cut_one_sided: bool,
    /// Take sheets apart also along edges with an odd number of sides, which opens edges.
    pub may_open: bool,
    /// What counts as inside where surfaces that meet are resolved.
    pub filled: Filled,
    /// Before that, round coordinates to single precision: for files that hold no more, since rounding
    /// makes cut faces cross anew.
    pub single: bool,
    /// When sheets are taken apart: move the new vertices this far into their own sheet, in
    /// model units, so that formats without shared vertices don't join them again.
    pub gap: f64,
}

impl MendOptions {
    /// Whether a cure is known to have nothing to do on a model as it was audited.
    fn is_idle(&self, cure: &Cure) -> bool {
        let beyond_findings = match cure.clears {
            clears if clears == weld::CURE.clears => self.near.is_some_and(|near| near > 0.0),
            clears if clears == orientation::CURE.clears => self.turn_outward,
            clears if clears == ngons::CURE.clears => self.triangulate.is_some(),
            _ => false,
        };
        let is_clear = |check: &&str| self.found_nothing.contains(check);
        !beyond_findings && cure.clears.iter().all(is_clear)
    }

    fn wants(&self, cure: &Cure) -> bool {
        let names = |list: &[String], check: &&str| list.iter().any(|name| name == check);
        let wanted = match self.clear.is_empty() {
            true => cure.safe,
            false => cure.clears.iter().any(|check| names(&self.clear, check)),
        };
        wanted && !cure.clears.iter().all(|check| names(&self.keep, check))
    }
}

/// What one cure did.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Step {
    /// How many elements it changed or took away, by what was done.
    done: Vec<(&'static str, usize)>,
    /// What it left, and why.
    left: Option<(usize, &'static str)>,
    /// What groups the faces that it dropped were of.
    removed: Vec<Removed>,
    /// The parts that it dropped.
    dropped: Vec<PartMeasure>,
    /// Parts that it might have dropped.
    perhaps_wanted: Vec<PartMeasure>,
}

impl Step {
    fn did(what: &'static str, count: usize) -> Self {
        Self {
            done: vec![(what, count)],
            ..Self::default()
        }
    }
}

/// A mended model.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct MendOutcome {
    /// The model.
    pub model: Model,
    /// What was done, in order; nothing that was done to none.
    pub changes: Vec<Change>,
    /// What was left alone, with the reason.
    pub left: Vec<Change>,
    /// What groups dropped faces were of.
    pub removed: Vec<Removed>,
    /// Parts that were dropped, as they were named then.
    pub dropped: Vec<PartMeasure>,
    /// Floating parts that were left, since they are closed and lie within the bounds of the
    /// main part: buttons rather than crumbs.
    pub perhaps_wanted: Vec<PartMeasure>,
}

impl MendOutcome {
    fn take(&mut self, step: Step) {
        for (what, count) in step.done.into_iter().filter(|(_, count)| *count > 0) {
            match self
                .changes
                .iter_mut()
                .find(|change| change.pattern == what)
            {
                Some(change) => change.count += count,
                None => self.changes.push(Change::new(what, count)),
            }
        }
        for removed in step.removed {
            removed::add(&mut self.removed, removed);
        }
        self.dropped.extend(step.dropped);
    }
}

/// How a cure went when it was last tried.
#[derive(Clone, Default)]
struct Run {
    /// The how manieth try of any cure it was; 0 if it was not tried.
    at: usize,
    left: Option<(usize, &'static str)>,
    perhaps_wanted: Vec<PartMeasure>,
}

/// Checks whose cures leave no more to do than was there before them.
const SETTLED: [&str; 5] = [
    "duplicate-vertices",
    "reversed-faces",
    "ngons",
    "stray-edges",
    "stray-vertices",
];

/// How often all cures are done at most.
const ROUNDS: usize = 5;

/// Why a model was not mended.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum MendError {
    /// A weld would collapse faces.
    #[error(
        "a weld at {distance} would collapse {faces} faces; the largest safe distance is {safe}"
    )]
    WeldTooFar {
        /// The distance asked for.
        distance: f64,
        /// How many faces would lose a side or more.
        faces: usize,
        /// The largest distance found that collapses nothing.
        safe: f64,
    },
    /// There is no result for another reason.
    #[error(transparent)]
    Failed(#[from] Failure),
}

impl From<Cancelled> for MendError {
    fn from(cancelled: Cancelled) -> Self {
        Self::Failed(cancelled.into())
    }
}

/// Mends a model.
///
/// # Errors
/// When a weld within a distance would collapse faces and that isn't forced, an option makes no sense,
/// or the observer says to stop.
pub fn mend(
    model: &Model,
    options: &MendOptions,
    observer: &dyn Observer,
) -> Result<MendOutcome, MendError> {
    Failure::unless_length("near", options.near)?;
    Failure::unless_length("gap", options.gap)?;
    Failure::unless_length("sliver_ratio", options.sliver_ratio)?;
    let mut outcome = MendOutcome {
        model: model.clone(),
        changes: Vec::new(),
        left: Vec::new(),
        removed: Vec::new(),
        dropped: Vec::new(),
        perhaps_wanted: Vec::new(),
    };
    let wanted: Vec<&Cure> = CURES
        .iter()
        .filter(|cure| {
            options.wants(cure)
                || (options.triangulate.is_some() && cure.clears == ngons::CURE.clears)
        })
        .collect();
    observer.begin("mending", (ROUNDS * wanted.len()) as u64);
    let mut as_audited = true;
    let mut runs = vec![Run::default(); wanted.len()];
    // Counts cures that were tried; when one last changed what others may have to do with.
    let (mut now, mut last_change) = (0, 0);
    for round in 0..ROUNDS {
        let mut changed = false;
        for (i, cure) in wanted.iter().enumerate() {
            observer.at((round * wanted.len() + i) as u64);
            let is_done = round > 0 && cure.clears == weld::CURE.clears;
            let is_up_to_date = round > 0 && runs[i].at > last_change;
            if is_done || is_up_to_date || as_audited && options.is_idle(cure) {
                continue;
            }
            observer.check()?;
            let step = (cure.apply)(&mut outcome.model, options)?;
            let did = !step.dropped.is_empty() || step.done.iter().any(|(_, count)| *count > 0);
            now += 1;
            as_audited &= !did;
            if did && !cure.clears.iter().any(|check| SETTLED.contains(check)) {
                changed = true;
                last_change = now;
            }
            runs[i] = Run {
                at: now,
                left: step.left,
                perhaps_wanted: step.perhaps_wanted.clone(),
            };
            outcome.take(step);
        }
        if !changed {
            break;
        }
    }
    for run in runs {
        let left = run.left.map(|(count, reason)| Change::new(reason, count));
        outcome.left.extend(left);
        outcome.perhaps_wanted.extend(run.perhaps_wanted);
    }
    Ok(outcome)
}

#[cfg(test)]
mod wreck_tests;
