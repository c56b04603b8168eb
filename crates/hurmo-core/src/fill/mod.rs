//! Closing rims with new faces.
//!
//! ```text
//! rim ─┬─ up to 256 edges ──────────────▶ least total area (Barequet & Sharir 1995)
//!      ├─ longer, simple in its plane ──▶ ears cut off in the plane
//!      └─ longer, ragged ───────────────▶ least area over samples, then between them
//!            └─▶ edges flipped ─┬─ flat ──────────────────────────────▶ faces
//!                               ├─ tight: refined, then a soap film ──▶ faces
//!                               └─ round: refined, then curved on ────▶ faces
//!
//! rim of an even number of edges ─▶ grid: quads across, curved on ────▶ faces
//! ```
//!
//! New faces wind like the faces along the rim. No diagonal is laid where the model has an
//! edge already, so that no edge gets a third side; where that leaves no way to close the rim,
//! a new vertex in its middle does. A surface whose faces meet others is held back there,
//! towards its lid; where that isn't enough, it is laid again and plainer. Cost: O(n³) up to 256 edges, O(n²) beyond; the finer surfaces, what their
//! own faces cost.
//!
//! ```
//! use hurmo_core::fill::{FillOptions, fill};
//! use hurmo_core::topology::Edges;
//! use hurmo_core::{FaceId, Model, shapes};
//!
//! // A sphere of which one face is missing is closed again.
//! let ball = Model::from(shapes::sphere(1.0, 2));
//! let (torn, _) = ball.without_faces(|face| face == FaceId::new(7));
//! let filled = fill(&torn, &FillOptions::default(), &())?;
//! assert_eq!(filled.filled.len(), 1);
//! let edges = Edges::of(&filled.model.mesh);
//! assert!(edges.ids().all(|edge| edges.sides(edge).len() == 2));
//! # Ok::<(), hurmo_core::Failure>(())
//! ```

mod border;
mod bridge;
mod close;
mod editable_triangles;
mod fair;
mod grid;
mod height_field;
mod held;
mod insertion;
mod islands;
mod kinds;
mod layer;
mod meets;
mod minimum_area;
mod options;
pub(crate) mod over;
mod patch;
mod reasons;
mod refine;
mod surroundings;
mod trim;
mod values;

pub use bridge::{BridgeError, Bridged, bridge};
pub use islands::Islands;
pub use kinds::{Kind, RimFacts, rims_described};
pub use options::{FillOptions, Surface};
pub use reasons::{LeftBecause, PlainerBecause};

use crate::measure::{PartMeasure, parts_measured};
use crate::mesh::{Model, PartId, RimId};
use crate::progress::{Failure, Observer};
use crate::topology::{Consistent, Edges, Parts, Rim, Rims};
use border::Border;
use std::cell::OnceCell;
use trim::Trimmed;

/// A rim that was closed.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
pub struct Filled {
    /// Its name before.
    pub rim: RimId,
    /// How many edges it had.
    pub edges: usize,
    /// How many islands the new faces took in.
    pub islands: usize,
    /// How many faces were added.
    pub faces: usize,
    /// Their area, in square units.
    pub area: f64,
    /// Their shape.
    pub surface: Surface,
    /// How far a new vertex lies from the rim's plane at most.
    pub rise: f64,
    /// Why it is plainer than what was asked for, if it is.
    pub why_plainer: Option<PlainerBecause>,
    /// Whether parts of it were held back from there, so as not to meet other faces.
    pub held_back: bool,
    /// Whether even this one meets other faces.
    pub meets_others: bool,
}

/// A rim that was left, and why.
#[derive(Clone, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
pub struct Left {
    /// Its name.
    pub rim: RimId,
    /// How many edges it has.
    pub edges: usize,
    /// The reason.
    pub reason: LeftBecause,
}

/// A model with rims closed.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct FillOutcome {
    /// The model.
    pub model: Model,
    /// What was closed, by name.
    pub filled: Vec<Filled>,
    /// What was asked for and could not be closed.
    pub left: Vec<Left>,
    /// Islands that were dropped, as they were named then.
    pub dropped: Vec<PartMeasure>,
    /// How many ragged faces went before that.
    pub trimmed: usize,
    /// How many rims were not asked for.
    pub not_asked: usize,
    /// Parts that float in rims, of which nobody said what becomes of them.
    pub floating: Vec<(RimId, Vec<PartId>)>,
    /// How many chains of open edges are no rims: they end at non-manifold edges.
    pub broken_chains: usize,
}

/// A rim on its way.
struct Task {
    name: RimId,
    /// Without those of its islands.
    edges: usize,
    islands: usize,
    border: Border,
    surface: Surface,
}

/// The rims of a model, and what they lie in.
struct RimContext<'m> {
    model: &'m Model,
    edges: Edges,
    rims: Rims,
    parts: Parts,
    facts: Vec<RimFacts>,
    /// Which surfaces are one-sided, once that was asked.
    facing: OnceCell<Consistent>,
}

impl<'m> RimContext<'m> {
    fn of(model: &'m Model) -> Self {
        let edges = Edges::of(&model.mesh);
        let rims = Rims::of(&model.mesh, &edges);
        let parts = Parts::of(&model.mesh);
        let facts = kinds::described(&model.mesh, &edges, &rims, &parts);
        Self {
            model,
            edges,
            rims,
            parts,
            facts,
            facing: OnceCell::new(),
        }
    }

    fn border(&self, rim: usize) -> Border {
        Border::of(&self.model.mesh, &self.edges, &self.rims.closed[rim])
    }

    /// Whether faces along a border face both ways, and no turning could change that.
    fn goes_round_a_twist(&self, border: &Border) -> bool {
        if border.is_consistent {
            return false;
        }
        let facing = self
            .facing
            .get_or_init(|| Consistent::of(&self.model.mesh, &self.edges));
        facing.is_one_sided(border.faces[0])
    }

    /// What is to be done, and what can't be: of the rims in `asked`, by place and name, with
    /// the islands that they are to be joined to.
    fn tasks(
        &self,
        asked: &[(usize, RimId)],
        joined: &[islands::Found],
        floating: &[islands::Found],
        options: &FillOptions,
    ) -> (Vec<Task>, Vec<Left>) {
        let mesh = &self.model.mesh;
        let (mut tasks, mut left) = (Vec::new(), Vec::new());
        for &(rim, name) in asked {
            if joined.iter().any(|found| found.rims.contains(&rim)) {
                continue;
            }
            let facts = &self.facts[rim];
            let mut border = self.border(rim);
            let floats = floating.iter().any(|found| found.rims.contains(&rim));
            let needs_none = facts
                .kind
                .needs_no_faces()
                .or(floats.then_some(LeftBecause::Floats));
            let mut why = border
                .unfit(mesh)
                .or(needs_none.filter(|_| options.rims.is_empty()))
                .or_else(|| {
                    self.goes_round_a_twist(&border)
                        .then_some(LeftBecause::OneSided)
                });
            let mut surface = options.surface.unwrap_or(Surface::fitting(facts));
            let islands = joined.iter().find(|found| found.rim == rim);
            if let Some(found) = islands {
                let own = found.rims.iter().map(|&rim| self.border(rim)).collect();
                match islands::joined(mesh, border, own) {
                    Some(all) => border = all,
                    None => {
                        why = Some(LeftBecause::IslandFacesAway);
                        border = self.border(rim);
                    }
                }
                if matches!(surface, Surface::Round | Surface::Grid) {
                    surface = Surface::Tight;
                }
            }
            match why {
                Some(reason) => left.push(Left {
                    rim: name,
                    edges: facts.edges,
                    reason,
                }),
                None => tasks.push(Task {
                    name,
                    edges: facts.edges,
                    islands: islands.map_or(0, |found| found.rims.len()),
                    border,
                    surface,
                }),
            }
        }
        (tasks, left)
    }
}

/// Closes rims.
///
/// # Errors
/// When an option makes no sense, or the observer says to stop.
pub fn fill(
    model: &Model,
    options: &FillOptions,
    observer: &dyn Observer,
) -> Result<FillOutcome, Failure> {
    Failure::unless_length("up_to_length", options.up_to_length)?;
    let outcome = filled(model, options, observer);
    observer.check()?;
    Ok(outcome)
}

fn filled(model: &Model, options: &FillOptions, observer: &dyn Observer) -> FillOutcome {
    let context = RimContext::of(model);
    let diagonal = crate::measure::bounds(&model.mesh).map_or(0.0, |b| b.diagonal());
    let chosen = options.chosen(&context.facts, diagonal * 1e-6);
    let not_asked = context.facts.len() - chosen.len();
    let broken_chains = context.rims.broken.len();
    let asked: Vec<_> = chosen.iter().map(|&i| (i, RimId::new(i))).collect();

    let mut dropped = Vec::new();
    let cleared = (options.islands == Some(Islands::Drop))
        .then(|| context.without_islands(&asked, &mut dropped));
    let (context, asked) = match &cleared {
        Some(cleared) => cleared.context(&asked),
        None => (context, asked),
    };
    let trimmed = (options.trim > 0).then(|| {
        let rims: Vec<&Rim> = asked
            .iter()
            .map(|&(i, _)| &context.rims.closed[i])
            .collect();
        trim::trimmed(context.model, &rims, options.trim)
    });
    let (context, asked) = match &trimmed {
        Some(trimmed) => trimmed.context(&asked),
        None => (context, asked),
    };
    let found = match options.islands {
        Some(Islands::Drop) => Vec::new(),
        _ => islands::open_ones(&context, asked.iter().map(|&(rim, _)| rim)),
    };
    let (joined, floating) = match options.islands {
        Some(_) => (found, Vec::new()),
        None => (Vec::new(), found),
    };
    let (tasks, mut left) = context.tasks(&asked, &joined, &floating, options);
    let closed = context.close(tasks, options.leave_crossing, observer);
    left.extend(closed.left);
    left.sort_by_key(|left| left.rim);
    FillOutcome {
        model: closed.model,
        filled: closed.filled,
        left,
        dropped,
        trimmed: trimmed.as_ref().map_or(0, |trimmed| trimmed.faces),
        not_asked,
        floating: floating
            .into_iter()
            .filter_map(|found| {
                let (_, name) = asked.iter().find(|(rim, _)| *rim == found.rim)?;
                Some((*name, found.parts))
            })
            .collect(),
        broken_chains,
    }
}

impl RimContext<'_> {
    /// The model without what floats in some rims; says what that is.
    fn without_islands(&self, asked: &[(usize, RimId)], dropped: &mut Vec<PartMeasure>) -> Trimmed {
        let mesh = &self.model.mesh;
        let parts = &self.parts;
        let found = islands::found(self, asked.iter().map(|&(rim, _)| rim));
        let mut goes = vec![false; parts.len()];
        for part in found.iter().flat_map(|found| &found.parts) {
            goes[part.index()] = true;
        }
        let measures = parts_measured(mesh, parts).into_iter();
        dropped.extend(measures.filter(|measure| goes[measure.part.index()]));
        let gone: Vec<bool> = mesh
            .face_ids()
            .map(|face| {
                parts
                    .of_face(mesh, face)
                    .is_some_and(|part| goes[part.index()])
            })
            .collect();
        let mut of_rim = vec![None; mesh.vertex_count()];
        for (i, &(rim, _)) in asked.iter().enumerate() {
            for vertex in &self.rims.closed[rim].vertices {
                of_rim[vertex.index()] = Some(i);
            }
        }
        trim::without_faces(self.model, &gone, of_rim)
    }
}

impl Trimmed {
    /// The rims of what is left, and which of them come of those that were asked for.
    fn context(&self, asked: &[(usize, RimId)]) -> (RimContext<'_>, Vec<(usize, RimId)>) {
        let context = RimContext::of(&self.model);
        let mut left: Vec<(usize, RimId)> = (0..context.facts.len())
            .filter_map(|i| {
                let first = context.rims.closed[i].vertices.first()?;
                Some((i, asked[self.of_rim[first.index()]?].1))
            })
            .collect();
        left.sort_by_key(|(_, name)| *name);
        (context, left)
    }
}

#[cfg(test)]
mod tests;
