//! Rebuilding into a solid: a new skin, and what it may be reduced to.

use super::super::decimate as reduction;
use super::super::levels::LevelWish;
use super::super::quads;
use super::super::remesh::Faces;
use super::report::report;
use crate::operation::{Context, Outcome};
use crate::quantity::Budget;
use crate::record::{Statement, StepReport};
use crate::said;
use crate::text;
use anyhow::{Result, bail};
use hurmo_core::Model;
use hurmo_core::audit::SortedAnalysis;
use hurmo_core::decimate::{self, FeatureWeights};
use hurmo_core::progress::Observer;
use hurmo_core::quads::QuadTarget;
use hurmo_core::remesh::dual_contouring::{self, ReskinOptions, ReskinOutcome};
use hurmo_core::remesh::{DetailOptions, bring_back_detail};
use hurmo_core::units::Length;
use std::str::FromStr;

/// With a budget, the skin is first made of this many times as many triangles.
const FINER: f64 = 3.0;
/// Sheets that close in nothing get walls of this many cells.
pub const WALL: f64 = 2.0;

/// What a new skin is to be like.
pub struct Fineness {
    /// How large its cells are.
    pub cells: Cells,
    /// How many times it is divided to bring detail back.
    pub levels: usize,
    /// The farthest that a vertex may move for that.
    pub max_displacement: Option<f64>,
    /// What it is reduced to.
    pub then: Option<Then>,
    /// What faces it is rebuilt with.
    pub into: Faces,
    /// All the rest; its cell is not looked at.
    pub options: ReskinOptions,
}

/// How large cells are.
#[derive(Clone, Copy)]
pub enum Cells {
    /// Of this length.
    Of(f64),
    /// Such that there are this many triangles in the end.
    To(usize),
    /// Such that the skin stays within a distance.
    Within(f64),
}

/// What a skin is reduced to.
#[derive(Clone, Copy, Debug)]
pub enum Then {
    /// This many triangles.
    To(Budget),
    /// As few as lie within a distance of it.
    Within(Length),
}

impl std::fmt::Display for Then {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::To(budget) => budget.fmt(f),
            Self::Within(length) => write!(f, "within={length}"),
        }
    }
}

impl FromStr for Then {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        match text.trim().strip_prefix("within") {
            Some(length) => Ok(Self::Within(length.trim_start_matches([' ', '=']).parse()?)),
            None => Ok(Self::To(text.trim().parse()?)),
        }
    }
}

/// Makes a new skin.
pub fn apply(context: &Context<'_>, fineness: &Fineness) -> Result<Outcome> {
    let mut own = None;
    let new = || SortedAnalysis::of(context.model, context.observer);
    let analysis = (context.analysis).unwrap_or_else(|| own.insert(new()));
    let context = &Context {
        analysis: Some(analysis),
        ..*context
    };
    let mut used = fineness.options.clone();
    let watch = context.observer;
    let (cell, outcome, too_far) = match fineness.cells {
        Cells::Within(distance) => {
            let options = &fineness.options;
            let found = dual_contouring::reskin_within(analysis, options, distance, watch)?;
            let too_far = (found.off > distance).then_some((found.off, distance));
            (found.cell, found.outcome, too_far)
        }
        Cells::Of(cell) => (cell, skin(analysis, &mut used, cell, watch)?, None),
        Cells::To(to) => {
            let cell = dual_contouring::cell_for(context.audit.mesh.area, FINER * to as f64);
            (cell, skin(analysis, &mut used, cell, watch)?, None)
        }
    };
    if outcome.model.mesh.face_count() == 0 {
        bail!(
            "there is nothing to put a skin round: the model closes in nothing as large as a cell of {}; \
             --min-thickness LENGTH gives its sheets walls, a smaller --cell finds smaller things",
            text::measure(cell)
        );
    }
    let mut first = report(context, cell, &outcome, &used);
    if let (None, Some(wall)) = (fineness.options.min_thickness, used.min_thickness) {
        first.did.push(said!(
            "sheets-given-walls",
            "it closes in nothing, so its sheets have walls of {thickness}; --min-thickness sets how thick",
            thickness = wall
        ));
    }
    let mut missed = Vec::new();
    if let Some((off, distance)) = too_far {
        first.left.push(said!(
            "not-within",
            "it lies {off} off, not within {within}: finer cells don't fit, or walls and gaps are thinner",
            off = off,
            within = distance,
        ));
        missed.push(said!(
            "distance-missed",
            "{within} was asked for, it lies {off} off",
            within = distance,
            off = off,
        ));
    }
    let mut steps = vec![first];
    let mut levels = Vec::new();
    let mut faces_apart = outcome.is_even;
    let mut model = outcome.model;
    if fineness.levels > 0 && fineness.into == Faces::Triangles {
        faces_apart = false;
        let (finer, step) = with_detail(context, &model, cell, fineness)?;
        steps.push(step);
        model = finer;
    }
    if fineness.into == Faces::Quads {
        faces_apart = false;
        let target = match fineness.cells {
            Cells::To(to) => QuadTarget::Count(to),
            _ => QuadTarget::Edge(cell),
        };
        let detail = LevelWish {
            levels: fineness.levels,
            travel: fineness.max_displacement,
        };
        let rebuilt = quads::of_skin(context, &model, target, &detail)?;
        steps.extend(rebuilt.reports);
        levels = rebuilt.levels;
        model = rebuilt.model;
    }
    let then = fineness.then.or(match fineness.cells {
        _ if fineness.into == Faces::Quads => None,
        Cells::To(to) => Some(Then::To(Budget::Count(to))),
        _ => None,
    });
    if let Some(then) = then {
        faces_apart = false;
        let (reduced, step, budget) = reduced(context, &model, then)?;
        steps.push(step);
        model = reduced;
        missed.extend(budget);
    }
    Ok(Outcome {
        lost: lost(context.model),
        missed,
        faces_apart,
        levels,
        ..Outcome::new(model, steps)
    })
}

/// What a model has that a new skin has not.
fn lost(model: &Model) -> Vec<Statement> {
    let mut lost = Vec::new();
    if model.attributes.uvs.is_some() {
        lost.push(said!(
            "uvs",
            "UVs: a new skin has none; `hurmo transfer` brings colours to vertices, `hurmo bake` a texture"
        ));
    }
    if model.attributes.normals.is_some() {
        lost.push(said!(
            "normals",
            "normals of corners: a new skin has its own"
        ));
    }
    lost
}

/// A skin through cells of a length. Of a model that closes in nothing its sheets get walls: what was
/// asked for is a solid.
fn skin(
    analysis: &SortedAnalysis<'_>,
    options: &mut ReskinOptions,
    cell: f64,
    observer: &dyn Observer,
) -> Result<ReskinOutcome> {
    options.cell = cell;
    let is_whole = options.offset.is_some() || options.min_thickness.is_some();
    if is_whole || dual_contouring::encloses_anything(analysis, cell) {
        let outcome = dual_contouring::reskin(analysis, options, observer)?;
        if is_whole || outcome.model.mesh.face_count() > 0 {
            return Ok(outcome);
        }
    }
    options.min_thickness = Some(WALL * cell);
    Ok(dual_contouring::reskin(analysis, options, observer)?)
}

fn with_detail(
    context: &Context<'_>,
    skin: &Model,
    cell: f64,
    fineness: &Fineness,
) -> Result<(Model, StepReport)> {
    let options = DetailOptions::of(fineness.levels, fineness.max_displacement.unwrap_or(cell));
    let outcome = bring_back_detail(skin, context.model, &options, context.observer)?;
    let mesh = &outcome.model.mesh;
    let fewer = (outcome.levels < options.levels).then(|| {
        said!(
            "fewer-levels",
            "{levels} of {asked} levels: at the next, faces would meet",
            levels = outcome.levels,
            asked = options.levels,
        )
    });
    let held = (outcome.held > 0).then(|| {
        said!(
            "off-the-model",
            "{vertices:vertex} off the model: it is further than {reach} away there, or faces would fold or meet",
            vertices = outcome.held,
            reach = options.reach,
        )
    });
    let rebuilt = context.rebuilt(mesh);
    let step = StepReport {
        did: vec![
            said!(
                "detail-brought-back",
                "detail brought back: {before} → {after} triangles",
                before = skin.mesh.face_count(),
                after = mesh.face_count(),
            ),
            said!(
                "on-the-model",
                "{vertices:vertex} on the model",
                vertices = outcome.on_model
            ),
        ],
        left: fewer.into_iter().chain(held).collect(),
        moved: rebuilt
            .as_ref()
            .map(|rebuilt| rebuilt.deviation.new_from_old.max),
        rebuilt: rebuilt.map(Box::new),
        ..StepReport::of("reskin")
    };
    Ok((outcome.model, step))
}

fn reduced(
    context: &Context<'_>,
    skin: &Model,
    then: Then,
) -> Result<(Model, StepReport, Option<Statement>)> {
    let triangles = skin.mesh.face_count();
    let mut options = decimate::DecimateOptions::default();
    options.no_crossing = true;
    options.weights = FeatureWeights::default();
    match then {
        Then::To(budget) => options.to = Some(budget.of(triangles).max(4)),
        Then::Within(length) => options.within = Some(context.length(length)?),
    }
    let outcome = decimate::decimate(skin, &options, context.observer)?;
    let skin = Context {
        model: skin,
        analysis: None,
        ..*context
    };
    let step = reduction::report(&skin, &options, &outcome, "of the skin");
    let missed = reduction::missed(&options, &outcome);
    Ok((outcome.model, step, missed))
}
