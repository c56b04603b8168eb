//! What solids fill, together or against each other: the boundary of it, exactly.
//!
//! ```text
//! faces ─▶ triangles cut where they meet (arrange) ─▶ patches between cut lines (patches)
//!       ─▶ winding numbers on both sides of each (windings, links) ─▶ those with the inside on one
//!          side stay ─▶ model (assemble) ─▶ once more, where rounding made new crossings (rounds)
//! ```
//!
//! Faces that meet nothing stay as they are, n-gons too; pieces of the others take their UVs, normals,
//! colours and tags from their own face. Zhou, Grinspun, Zorin & Jacobson 2016 (Mesh
//! Arrangements for Solid Geometry).
//!
//! ```
//! use glam::DVec3;
//! use hurmo_core::boolean::{Filled, Operation, Solids, resolve};
//! use hurmo_core::parts::joined;
//! use hurmo_core::{Model, measure, shapes};
//!
//! // Two cubes that share an eighth of each.
//! let cube = |at: f64| shapes::cuboid(DVec3::splat(at), DVec3::splat(at + 1.0), 1);
//! let (one, two) = (Model::from(cube(0.0)), Model::from(cube(0.5)));
//! let both = joined(&[("one".into(), &one), ("two".into(), &two)]).model;
//! let faces = one.mesh.face_count();
//! let of = |face: hurmo_core::FaceId| Some(usize::from(face.index() >= faces));
//! let union = |windings: &_| Operation::Union.holds(windings, Filled::Positive, 2);
//! let made = resolve(&both, &Solids::new(2, &of, &union), &()).unwrap();
//! assert!((measure::volume(&made.model.mesh) - 1.875).abs() < 1e-12);
//! ```

mod assemble;
mod capped;
mod closing;
mod convex;
mod cutting;
mod fragments;
mod links;
mod near;
mod of_parts;
mod patches;
mod recut;
mod relations;
mod rounds;
mod small_components;
mod snapping;
mod windings;

pub use capped::Capped;
pub use of_parts::solid_of_parts;
pub use relations::{Cell, Relations};
pub use small_components::{Cleaned, without_small_components};
pub use windings::Windings;

use crate::mesh::{FaceId, Mesh, Model};
use crate::progress::{Cancelled, Failure, Observer};

/// By which winding numbers a place is inside.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Filled {
    /// Over a half: what faces outward encloses.
    #[default]
    Positive,
    /// Further from zero than a half, either way.
    Nonzero,
    /// Odd ones.
    Odd,
}

impl Filled {
    /// Whether a place with this winding number is inside.
    pub fn holds(self, winding: i32) -> bool {
        match self {
            Self::Positive => winding > 0,
            Self::Nonzero => winding != 0,
            Self::Odd => winding % 2 != 0,
        }
    }
}

/// What is made of several solids.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Operation {
    /// What lies in any of them.
    Union,
    /// What lies in the first and in no other.
    Difference,
    /// What lies in all of them.
    Intersection,
}

impl Operation {
    /// Whether a place is inside, by how often each of `count` solids winds round it.
    pub fn holds(self, windings: &Windings, filled: Filled, count: usize) -> bool {
        let mut is_in = windings.iter().filter(|(_, times)| filled.holds(*times));
        match self {
            Self::Union => is_in.next().is_some(),
            Self::Difference => {
                is_in.next().is_some_and(|(first, _)| first == 0) && is_in.next().is_none()
            }
            Self::Intersection => is_in.count() == count,
        }
    }
}

/// Whether a place is inside, by how often each solid winds round it.
pub type Rule<'r> = dyn Fn(&Windings) -> bool + Sync + 'r;

/// What is known of which faces meet, by a mark for every face.
#[derive(Clone, Copy, Debug)]
pub enum MayMeet<'s> {
    /// Nothing: any may.
    Any,
    /// Of two that meet, both have the mark.
    Marked(&'s [bool]),
    /// Of two that meet, one has it at least; or what they make is of no interest.
    WithMarked(&'s [bool]),
}

/// What positions that cutting makes are rounded to.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Rounding {
    /// Double precision.
    #[default]
    Double,
    /// Single precision; double where cut faces cross again and again in that.
    SingleIfSettled,
    /// Single precision, whatever crosses: for files that hold no more.
    Single,
}

impl Rounding {
    /// For a mesh: single precision if all its positions have it, and nothing else then where asked for.
    pub fn of(mesh: &Mesh, only_single: bool) -> Self {
        match mesh.is_single() {
            true if only_single => Self::Single,
            true => Self::SingleIfSettled,
            false => Self::Double,
        }
    }
}

/// Which faces bound which solid.
pub struct Solids<'s> {
    /// How many solids.
    pub count: usize,
    /// The solid that a face bounds, from 0; faces of none stay as they are.
    pub of: &'s (dyn Fn(FaceId) -> Option<usize> + Sync),
    /// The group of a face. Only solids of one group count for each other; faces of different groups
    /// must not meet.
    pub group: &'s (dyn Fn(FaceId) -> u32 + Sync),
    /// Which faces may meet.
    pub may_meet: MayMeet<'s>,
    /// Whether a place is inside, by how often each solid of its group winds round it.
    pub inside: &'s Rule<'s>,
    /// By which winding numbers a place is inside one solid, where [`Relations`] is asked for.
    pub filled: Option<Filled>,
    /// The one that is no solid but a sheet, which need not close: it winds round nothing, and of all that
    /// is cut only its pieces stay, where the place behind them is inside.
    pub sheet: Option<usize>,
    /// What positions that cutting makes are rounded to.
    pub rounding: Rounding,
    /// Vertices that cutting makes join others within this distance, in model units, before what that makes
    /// to cross is cut again: nought, but where faces hardly larger than nothing would be left.
    pub join_within: f64,
}

impl<'s> Solids<'s> {
    /// This many solids of one group, bounded by the faces that `of` says, and what is `inside`. Nothing is known
    /// of which faces meet, positions are rounded to double precision, and nothing more is asked for.
    pub fn new(
        count: usize,
        of: &'s (dyn Fn(FaceId) -> Option<usize> + Sync),
        inside: &'s Rule<'s>,
    ) -> Self {
        Self {
            count,
            of,
            group: Self::ONE_GROUP,
            may_meet: MayMeet::Any,
            inside,
            filled: None,
            sheet: None,
            rounding: Rounding::Double,
            join_within: 0.0,
        }
    }

    /// The group of which all faces are.
    pub const ONE_GROUP: &'static (dyn Fn(FaceId) -> u32 + Sync) = &|_| 0;
}

/// What came of it.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct BooleanOutcome {
    /// The model.
    pub model: Model,
    /// For each of its faces, the one that it is, or was cut from.
    pub sources: Vec<Source>,
    /// What was done.
    pub tally: Tally,
    /// What the solids are to each other, where that was asked for.
    pub relations: Option<Relations>,
}

/// Where a face comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Source {
    /// The face before.
    pub face: FaceId,
    /// What became of it.
    pub how: How,
}

/// What became of a face.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum How {
    /// It is as it was.
    Kept,
    /// It was turned, whole.
    Turned,
    /// It was cut.
    Cut,
}

/// How many faces went which way.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Tally {
    /// Cut, of the faces that were there.
    pub cut: usize,
    /// Left out, whole.
    pub dropped: usize,
    /// Turned, whole.
    pub turned: usize,
    /// Patches left out since they are thinner than double precision resolves, so that no place in them
    /// could be decided.
    pub undecided: usize,
    /// How often crossings that rounding made were cut again.
    pub again: usize,
    /// Made vertices that were joined with others within [`Solids::join_within`].
    pub joined: usize,
    /// Triangles that meet others all the same: rounding makes what is cut there cross anew.
    pub meeting: usize,
}

/// Why solids could not be resolved.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum BooleanError {
    /// Faces don't close.
    #[error(
        "{edges} edges are not run as often one way as the other: the surface has an inside only where it is closed"
    )]
    Open {
        /// How many.
        edges: usize,
        /// The solids whose faces they are.
        solids: Vec<usize>,
    },
    /// There is no result for another reason.
    #[error(transparent)]
    Failed(#[from] Failure),
}

impl From<Cancelled> for BooleanError {
    fn from(cancelled: Cancelled) -> Self {
        Self::Failed(cancelled.into())
    }
}

/// The boundary of what is inside, out of the faces of some solids.
///
/// # Errors
/// When the faces of a solid don't close.
pub fn resolve(
    model: &Model,
    solids: &Solids<'_>,
    observer: &dyn Observer,
) -> Result<BooleanOutcome, BooleanError> {
    let rule = |_: Option<&Relations>| -> Vec<Box<Rule<'_>>> { vec![Box::new(solids.inside)] };
    let (relations, mut made) = rounds::resolve(model, solids, &rule, observer)?;
    let outcome = made.pop().expect("an outcome for the rule");
    Ok(BooleanOutcome {
        relations,
        ..outcome
    })
}

/// The same by several rules, an outcome for each.
///
/// # Errors
/// When the faces of a solid don't close.
pub(crate) fn resolve_each(
    model: &Model,
    solids: &Solids<'_>,
    rules: &[&Rule<'_>],
    observer: &dyn Observer,
) -> Result<(Option<Relations>, Vec<BooleanOutcome>), BooleanError> {
    let each = |_: Option<&Relations>| -> Vec<Box<Rule<'_>>> {
        rules
            .iter()
            .map(|&rule| -> Box<Rule<'_>> { Box::new(rule) })
            .collect()
    };
    rounds::resolve(model, solids, &each, observer)
}

/// Each of the [cells](Relations::cells) that solids of one group make, as a model of its own. Those that
/// lie side by side have the wall between them in common.
///
/// # Errors
/// When the faces of a solid don't close.
pub fn pieces(
    model: &Model,
    solids: &Solids<'_>,
    filled: Filled,
    observer: &dyn Observer,
) -> Result<(Relations, Vec<BooleanOutcome>), BooleanError> {
    let solids = Solids {
        filled: Some(filled),
        ..*solids
    };
    let by_cell = |relations: Option<&Relations>| -> Vec<Box<Rule<'_>>> {
        let cells = relations.into_iter().flat_map(|relations| &relations.cells);
        let rule = |of: Vec<usize>| -> Box<Rule<'_>> {
            Box::new(move |windings: &Windings| {
                let which = windings.iter();
                let which = which.filter(|(_, times)| filled.holds(*times));
                which.map(|(solid, _)| solid).eq(of.iter().copied())
            })
        };
        cells.map(|cell| rule(cell.of.clone())).collect()
    };
    let (relations, made) = rounds::resolve(model, &solids, &by_cell, observer)?;
    Ok((relations.unwrap_or_default(), made))
}
