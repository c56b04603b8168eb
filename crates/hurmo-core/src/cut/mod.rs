//! A model cut by planes into closed pieces, and pegs that hold these together.
//!
//! ```text
//! planes ─▶ half-spaces, each a tetrahedron that holds all of the model below its plane (half_space)
//!        ─▶ arranged with the model (boolean) ─▶ a piece for each choice of sides ─▶ caps named (caps)
//! ```
//!
//! The half-spaces are solids like any other, so that cuts are as exact as booleans are: a plane
//! through vertices, along edges or in faces is no special case. An open model is cut as a sheet, and
//! its sections stay open.

mod bed;
mod caps;
mod half_space;
mod pegs;

pub use bed::{Fit, fit};
pub use pegs::{Pegged, Pegs, put_pegs};

use crate::boolean::{
    BooleanError, BooleanOutcome, Filled, MayMeet, Rounding, Rule, Solids, Windings, resolve_each,
};
use crate::measure::{bounds, volume};
use crate::mend;
use crate::mesh::{FaceId, Model};
use crate::progress::{Failure, Observer};
use glam::DVec3;

/// A plane: the places `p` with `normal · p = at`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Plane {
    /// Of length one; it points above.
    pub normal: DVec3,
    /// How far along the normal, from the origin.
    pub at: f64,
}

/// How a model is cut.
#[derive(Clone, Copy, Debug, Default)]
#[non_exhaustive]
pub struct CutOptions {
    /// By which winding numbers a place is inside of the model.
    pub filled: Filled,
    /// Whether a model in single precision stays so where cut faces don't settle in it.
    pub only_single: bool,
}

/// What is above a plane or below it.
#[derive(Clone, Debug)]
pub struct Piece {
    /// For each row of planes, how many of them the piece lies above.
    pub place: Vec<usize>,
    /// The piece.
    pub model: Model,
    /// Which of its faces close it where it was cut.
    pub is_cap: Vec<bool>,
    /// What it fills, in cubic units; none of a sheet.
    pub volume: Option<f64>,
    /// Vertices of cuts that were joined with others beside them, between which faces would have no area.
    pub joined: usize,
    /// Triangles that meet others still, since rounding makes what is cut there cross anew.
    pub meeting: usize,
}

/// A model that was cut.
#[derive(Clone, Debug)]
pub struct Pieces {
    /// Those that have faces, by their places.
    pub pieces: Vec<Piece>,
    /// How many edges of the model are open: then it was cut as a sheet.
    pub open_edges: usize,
    /// What the model fills, in cubic units; none of a sheet.
    pub volume: Option<f64>,
}

/// The group that caps are in.
pub const CAP: &str = "cut";

impl Piece {
    /// Clears faces without area and non-manifold edges, as cuts right beside vertices and through
    /// surfaces that touch make them; how many changes that took.
    pub fn tidy(&mut self) -> usize {
        let (model, changes) = mend::tidied_after_cuts(&self.model);
        if changes > 0 {
            self.become_model(model);
        }
        changes
    }

    /// Takes what has become of the model in its place; caps are known by their group.
    fn become_model(&mut self, model: Model) {
        let tags = &model.attributes.tags;
        let is_cap = |face: FaceId| {
            let group = tags.of(face).and_then(|tag| tag.group.as_deref());
            group == Some(CAP)
        };
        self.is_cap = model.mesh.face_ids().map(is_cap).collect();
        self.volume = self.volume.map(|_| volume(&model.mesh));
        self.model = model;
    }
}

/// Cuts a model by rows of parallel planes, each row by rising place. Of planes that don't go through
/// the model nothing comes. Faces that no plane meets, and that meet no others, stay as they are.
///
/// # Errors
/// When the observer says to stop.
pub fn cut(
    model: &Model,
    rows: &[Vec<Plane>],
    options: &CutOptions,
    observer: &dyn Observer,
) -> Result<Pieces, Failure> {
    let filled = options.filled;
    let Some(bounds) = bounds(&model.mesh) else {
        return Ok(Pieces {
            pieces: Vec::new(),
            open_edges: 0,
            volume: None,
        });
    };
    let planes: Vec<Plane> = rows.iter().flatten().copied().collect();
    let (all, of_face) = half_space::with_half_spaces(model, &planes, &bounds);
    let inside = |windings: &Windings, place: &[usize]| {
        let mut first = 1;
        rows.iter().zip(place).all(|(row, &above)| {
            let own = first;
            first += row.len();
            (0..row.len()).all(|plane| (windings[own + plane] > 0) == (plane >= above))
        })
    };
    let places = places(rows);
    let is_plane = |face: FaceId| of_face[face.index()] > 0;
    let only_planes: Vec<bool> = all.mesh.face_ids().map(is_plane).collect();
    let resolved = |sheet: Option<usize>, join_within: f64| {
        let rules: Vec<Box<Rule<'_>>> = (places.iter())
            .map(|place| -> Box<Rule<'_>> {
                let inside = &inside;
                match sheet {
                    Some(_) => Box::new(move |windings| inside(windings, place)),
                    None => Box::new(move |windings| {
                        filled.holds(windings[0]) && inside(windings, place)
                    }),
                }
            })
            .collect();
        let rules: Vec<&Rule<'_>> = rules.iter().map(|rule| &**rule).collect();
        let solids = Solids {
            count: 1 + planes.len(),
            of: &|face| Some(of_face[face.index()] as usize),
            group: Solids::ONE_GROUP,
            // What a sheet has crossing itself is none of the planes' business.
            may_meet: match sheet {
                Some(_) => MayMeet::WithMarked(&only_planes),
                None => MayMeet::Any,
            },
            inside: &|_| false,
            filled: Some(filled),
            sheet,
            rounding: Rounding::of(&model.mesh, options.only_single),
            join_within,
        };
        resolve_each(&all, &solids, &rules, observer)
    };
    let ((relations, mut outcomes), open_edges) = match resolved(None, 0.0) {
        Ok(made) => (made, 0),
        Err(BooleanError::Open { edges, .. }) => {
            let sheet = resolved(Some(0), 0.0);
            (sheet.unwrap_or_default(), edges)
        }
        Err(BooleanError::Failed(failure)) => return Err(failure),
    };
    if open_edges == 0 && mend::may_be_joined(model) {
        let joined_within = |distance| resolved(None, distance).map_or(Vec::new(), |made| made.1);
        join_what_is_left(model, &mut outcomes, joined_within);
    }
    let pieces = (places.into_iter().zip(outcomes))
        .filter_map(|(place, outcome)| Piece::of(place, outcome, is_plane, open_edges == 0));
    observer.check()?;
    Ok(Pieces {
        pieces: pieces.collect(),
        open_edges,
        volume: relations
            .filter(|_| open_edges == 0)
            .map(|relations| relations.volume(0)),
    })
}

impl Piece {
    /// Of what resolving made; `None` where nothing lies there. `is_plane`: whether a face is of a
    /// plane.
    fn of(
        place: Vec<usize>,
        outcome: BooleanOutcome,
        is_plane: impl Fn(FaceId) -> bool,
        is_closed: bool,
    ) -> Option<Self> {
        let sources = outcome.sources.iter();
        let is_cap: Vec<bool> = sources.map(|source| is_plane(source.face)).collect();
        let mut model = outcome.model;
        if model.mesh.face_count() == 0 {
            return None;
        }
        caps::name(&mut model, &is_cap);
        Some(Self {
            place,
            volume: is_closed.then(|| volume(&model.mesh)),
            model,
            is_cap,
            joined: outcome.tally.joined,
            meeting: outcome.tally.meeting,
        })
    }
}

/// Where tidying would leave something in a piece, takes the one that is made with cuts joined within
/// a distance, the shortest that leaves least.
fn join_what_is_left(
    model: &Model,
    outcomes: &mut [BooleanOutcome],
    joined_within: impl Fn(f64) -> Vec<BooleanOutcome>,
) {
    let left = |made: &BooleanOutcome| mend::left_after_tidying(&made.model, made.tally.meeting);
    let mut least: Vec<usize> = outcomes.iter().map(left).collect();
    for distance in mend::joining_distances(model) {
        if least.iter().all(|&left| left == 0) {
            break;
        }
        for (i, made) in joined_within(distance).into_iter().enumerate() {
            let left = if least[i] > 0 { left(&made) } else { 0 };
            if left < least[i] {
                (outcomes[i], least[i]) = (made, left);
            }
        }
    }
}

/// Every choice of how many planes of each row a piece lies above.
fn places(rows: &[Vec<Plane>]) -> Vec<Vec<usize>> {
    let mut places = vec![Vec::new()];
    for row in rows {
        places = (places.into_iter())
            .flat_map(|place| {
                (0..=row.len()).map(move |above| {
                    let mut place = place.clone();
                    place.push(above);
                    place
                })
            })
            .collect();
    }
    places
}
