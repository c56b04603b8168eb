//! What solids fill, together or against each other: the boundary of it, exactly.
//!
//! ```text
//! faces ─▶ triangles cut where they meet (arrange) ─▶ patches between cut lines (patches)
//!       ─▶ winding numbers on both sides of each (windings) ─▶ those with the inside on one side
//!          stay ─▶ model (assemble) ─▶ once more, where rounding made new crossings
//! ```
//!
//! Faces that meet nothing stay as they are, n-gons too; pieces of the others take their UVs, normals,
//! colours and tags from their own face. Zhou, Grinspun, Zorin & Jacobson 2016 (Mesh
//! Arrangements for Solid Geometry).

mod assemble;
mod patches;
mod settle;
mod shards;
mod windings;

use crate::mesh::{FaceId, Mesh, Model, VertexId};
use crate::progress::Observer;
use crate::spatial::{Border, exact_weld};
use crate::topology::Edges;
use rayon::prelude::*;
use shards::Shards;

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

/// Which faces bound which solid.
pub struct Solids<'s> {
    /// How many solids.
    pub count: usize,
    /// The solid that a face bounds, from 0; faces of none stay as they are.
    pub of: &'s (dyn Fn(FaceId) -> Option<usize> + Sync),
    /// The group of a face. Only solids of one group count for each other; faces of different groups
    /// must not meet.
    pub group: &'s (dyn Fn(FaceId) -> u32 + Sync),
    /// For every face, whether it may meet others, where that is known.
    pub may_meet: Option<&'s [bool]>,
    /// Whether a place is inside, by how often each solid of its group winds round it.
    pub inside: &'s (dyn Fn(&[i32]) -> bool + Sync),
}

impl Solids<'_> {
    /// The group of which all faces are.
    pub const ONE_GROUP: &'static (dyn Fn(FaceId) -> u32 + Sync) = &|_| 0;
}

/// What came of it.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// The model.
    pub model: Model,
    /// What was done.
    pub tally: Tally,
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
    /// Patches left out since they are thinner than doubles tell apart, so that no place in them
    /// could be told.
    pub untold: usize,
    /// How often crossings that rounding made were cut again.
    pub again: usize,
    /// Triangles that meet others all the same: rounding makes what is cut there cross anew.
    pub meeting: usize,
}

/// Why solids could not be told from what they lie in.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum BooleanError {
    /// Faces don't close.
    #[error(
        "{edges} edges are not run as often one way as the other: the surface has an inside only where it is closed"
    )]
    Open {
        /// How many.
        edges: usize,
    },
}

/// So often what rounding made to cross is cut again.
const ROUNDS: usize = 10;

/// When so many times as many triangles meet as met at best, cutting them makes more to cut.
const GROWN: usize = 2;

/// The boundary of what is inside, out of the faces of some solids. New positions are rounded to
/// single precision where all that are there are, unless that makes them cross again and again.
///
/// # Errors
/// When the faces of a solid don't close.
pub fn resolve(
    model: &Model,
    solids: &Solids<'_>,
    observer: &dyn Observer,
) -> Result<Outcome, BooleanError> {
    let outcome = resolve_in(model, solids, is_single(&model.mesh), observer)?;
    if outcome.tally.meeting == 0 || !is_single(&model.mesh) {
        return Ok(outcome);
    }
    let finer = resolve_in(model, solids, false, observer)?;
    Ok(match finer.tally.meeting < outcome.tally.meeting {
        true => finer,
        false => outcome,
    })
}

/// The same, in single or double precision.
fn resolve_in(
    model: &Model,
    solids: &Solids<'_>,
    single: bool,
    observer: &dyn Observer,
) -> Result<Outcome, BooleanError> {
    let mut tally = Tally::default();
    let first = Round {
        single,
        again: false,
        young: &[],
    };
    let made = once(model, solids, &first, &mut tally, observer)?;
    let mut result = made.expect("the first round is always done");
    let rounding = match single {
        true => f64::from(f32::EPSILON),
        false => f64::EPSILON,
    };
    let sizes = model.mesh.positions().iter().map(|p| p.abs().max_element());
    let last_place = sizes.fold(0.0, f64::max) * rounding;
    let mut least = tally.meeting;
    while !observer.cancelled() {
        // Rounding may have made new pieces meet. What is there now is one solid of each group.
        settle::snap(&mut result, last_place * f64::from(1u32 << tally.again));
        let group = &result.group;
        let is_of = |face: FaceId| group[face.index()].map(|_| 0);
        let union = Solids {
            count: 1,
            of: &is_of,
            group: &|face| group[face.index()].unwrap_or(0),
            may_meet: Some(&result.is_new),
            inside: &|windings| windings[0] > 0,
        };
        let round = Round {
            single,
            again: true,
            young: &result.young,
        };
        let mut more = Tally::default();
        let next = once(&result.model, &union, &round, &mut more, observer)?;
        tally.meeting = more.meeting;
        let Some(next) = next else {
            break;
        };
        if tally.again == ROUNDS || more.meeting > GROWN * least {
            break;
        }
        result = next;
        least = least.min(more.meeting);
        tally.again += 1;
        tally.untold += more.untold;
    }
    settle::drop_unused(&mut result);
    if tally.untold > 0 {
        // What was left out may have been needed.
        let place = exact_weld(result.model.mesh.positions());
        let group = &result.group;
        let is_of = |face: FaceId| group[face.index()].map(|_| 0);
        let edges = open_edges(&result.model.mesh, 1, &is_of, &place);
        if edges > 0 {
            return Err(BooleanError::Open { edges });
        }
    }
    Ok(Outcome {
        model: result.model,
        tally,
    })
}

/// What a round knows of the one before.
struct Round<'r> {
    /// Round new positions to single precision.
    single: bool,
    /// Whether it only cuts again what rounding made.
    again: bool,
    /// Vertices that rounds before made.
    young: &'r [bool],
}

fn is_single(mesh: &Mesh) -> bool {
    let is_one = |p: &glam::DVec3| p.as_vec3().as_dvec3() == *p;
    mesh.positions().par_iter().with_min_len(4096).all(is_one)
}

/// What a round made.
struct Resolved {
    model: Model,
    /// Of each face, the group whose solids it bounds, if any.
    group: Vec<Option<u32>>,
    /// Whether a face was cut.
    is_new: Vec<bool>,
    /// Whether a vertex was made.
    young: Vec<bool>,
}

/// One round; nothing if no new face meets another.
fn once(
    model: &Model,
    solids: &Solids<'_>,
    round: &Round<'_>,
    tally: &mut Tally,
    observer: &dyn Observer,
) -> Result<Option<Resolved>, BooleanError> {
    let place = exact_weld(model.mesh.positions());
    observer.begin("cutting where faces meet", 0);
    let shards = Shards::of(&model.mesh, solids, place);
    tally.meeting = shards.meeting();
    if round.again && shards.is_settled() {
        return Ok(None);
    }
    let edges = open_edges(&model.mesh, solids.count, solids.of, &shards.place);
    if edges > 0 {
        return Err(BooleanError::Open { edges });
    }
    let triangles = shards.triangles();
    let arrangement = shards.arrange(&model.mesh, &triangles);
    observer.begin("telling inside from outside", 0);
    let all = shards::All::of(&shards, &triangles, &arrangement);
    let patches = patches::patches(&all, solids.count);
    let fates = windings::fates(&all, &patches, solids, &arrangement);
    tally.untold += fates.untold;
    let rounded = (&arrangement, round.single);
    let fates = &fates.of_shard;
    let made = assemble::assemble(model, &all, fates, solids, rounded, round.young, tally);
    Ok(Some(made))
}

/// How many edges the faces of one solid don't run as often one way as the other.
fn open_edges(
    mesh: &Mesh,
    solids: usize,
    of: &(dyn Fn(FaceId) -> Option<usize> + Sync),
    place: &[VertexId],
) -> usize {
    let edges = Edges::of(mesh);
    let turned = vec![false; mesh.face_count()];
    (0..solids)
        .map(|solid| {
            let is_one = |face: FaceId| of(face) == Some(solid);
            Border::of(mesh, &edges, is_one, &turned, place).len()
        })
        .sum()
}
