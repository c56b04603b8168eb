//! Rebuilding into a solid: a new skin, and what it may be reduced to.

use super::super::decimate as reduction;
use crate::operation::{Context, Outcome};
use crate::quantity::Budget;
use crate::record::StepReport;
use crate::text;
use crate::text::shorten;
use anyhow::{Result, bail};
use hurmo_core::Model;
use hurmo_core::audit::SortedAnalysis;
use hurmo_core::decimate::{self, FeatureWeights};
use hurmo_core::mesh::PartId;
use hurmo_core::progress::Observer;
use hurmo_core::remesh::dual_contouring::{self, ReskinOptions, ReskinOutcome};
use hurmo_core::remesh::{DetailOptions, bring_back_detail};
use hurmo_core::units::Length;
use std::str::FromStr;

/// With a budget, the skin is first made of so many times as many triangles.
const FINER: f64 = 3.0;
/// Sheets that close in nothing get walls of so many cells.
pub const WALL: f64 = 2.0;
/// So many places are told.
const PLACES: usize = 3;

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
    /// All the rest; its cell is not looked at.
    pub options: ReskinOptions,
}

/// How large cells are.
#[derive(Clone, Copy)]
pub enum Cells {
    /// Of this length.
    Of(f64),
    /// Such that there are so many triangles in the end.
    To(usize),
    /// Such that the skin stays within a distance.
    Within(f64),
}

/// What a skin is reduced to.
#[derive(Clone, Copy, Debug)]
pub enum Then {
    /// So many triangles.
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
    let own;
    let analysis = match context.analysis {
        Some(analysis) => analysis,
        None => {
            own = SortedAnalysis::of(context.model, context.observer);
            &own
        }
    };
    let context = &Context {
        analysis: Some(analysis),
        ..*context
    };
    let mut used = fineness.options.clone();
    let (cell, outcome, too_far) = match fineness.cells {
        Cells::Within(distance) => {
            let options = &fineness.options;
            let found =
                dual_contouring::reskin_within(analysis, options, distance, context.observer)?;
            let too_far = (found.off > distance).then_some((found.off, distance));
            (found.cell, found.outcome, too_far)
        }
        Cells::Of(cell) => (
            cell,
            skin(analysis, &mut used, cell, context.observer)?,
            None,
        ),
        Cells::To(to) => {
            let cell = dual_contouring::cell_for(context.audit.mesh.area, FINER * to as f64);
            (
                cell,
                skin(analysis, &mut used, cell, context.observer)?,
                None,
            )
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
        first.did.push(format!(
            "it closes in nothing, so its sheets have walls of {}; --min-thickness sets how thick",
            text::measure(wall)
        ));
    }
    if let Some((off, distance)) = too_far {
        first.left.push(format!(
            "it lies {} off, not within {}: finer cells don't fit, or walls and gaps are thinner",
            text::measure(off),
            text::measure(distance)
        ));
    }
    let mut steps = vec![first];
    let mut missed = Vec::new();
    if let Some((off, distance)) = too_far {
        missed.push(format!(
            "{} was asked for, it lies {} off",
            text::measure(distance),
            text::measure(off)
        ));
    }
    let mut model = outcome.model;
    if fineness.levels > 0 {
        let (finer, step) = with_detail(context, &model, cell, fineness)?;
        steps.push(step);
        model = finer;
    }
    let then = fineness.then.or(match fineness.cells {
        Cells::To(to) => Some(Then::To(Budget::Count(to))),
        _ => None,
    });
    if let Some(then) = then {
        let (reduced, step, budget) = reduced(context, &model, then)?;
        steps.push(step);
        model = reduced;
        missed.extend(budget);
    }
    let mut lost = Vec::new();
    if context.model.attributes.uvs.is_some() {
        lost.push("UVs: a new skin has none; `hurmo transfer` brings colours to vertices, `hurmo bake` a texture".into());
    }
    if context.model.attributes.normals.is_some() {
        lost.push("normals of corners: a new skin has its own".into());
    }
    Ok(Outcome {
        lost,
        missed,
        ..Outcome::new(model, steps)
    })
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
        format!(
            "{} of {} levels: at the next, faces would meet",
            outcome.levels, options.levels
        )
    });
    let held = (outcome.held > 0).then(|| {
        let held = text::counted(outcome.held, "vertex");
        format!(
            "{held} off the model: it is further than {} away there, or faces would fold or meet",
            text::measure(options.reach)
        )
    });
    let rebuilt = context.rebuilt(mesh);
    let step = StepReport {
        did: vec![
            format!(
                "detail brought back: {} → {} triangles",
                text::count(skin.mesh.face_count()),
                text::count(mesh.face_count())
            ),
            format!("{} on the model", text::counted(outcome.on_model, "vertex")),
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
) -> Result<(Model, StepReport, Option<String>)> {
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

fn report(
    context: &Context<'_>,
    cell: f64,
    outcome: &ReskinOutcome,
    options: &ReskinOptions,
) -> StepReport {
    let skin = &outcome.model.mesh;
    let mut did = vec![format!(
        "{} → a new skin of {}, through cells of {}",
        text::counted(outcome.before, "face"),
        text::counted(skin.face_count(), "triangle"),
        text::measure(cell),
    )];
    if outcome.closing > 0 {
        let share = 100.0 * outcome.closing as f64 / outcome.points as f64;
        did.push(format!("{share:.1}% of it closes openings"));
    }
    if outcome.small_components > 0 {
        let small = text::counted(outcome.small_components, "small component");
        did.push(format!("{small} thinner than half a cell left out"));
    }
    did.extend(changed(outcome, options));
    let mut single = named(&outcome.buried, "lies inside the skin of others");
    shorten(&mut single, 6);
    let mut left = named(
        &outcome.lost,
        "has no skin: smaller than a cell, or a sheet that closes in nothing",
    );
    shorten(&mut left, 6);
    if outcome.thin_count > 0 {
        let places = outcome.thin.iter().take(PLACES);
        let places: Vec<String> = places.map(|&place| text::position(place)).collect();
        let more = match outcome.thin_count > PLACES {
            true => " and elsewhere",
            false => "",
        };
        left.push(format!(
            "walls or gaps thinner than a cell are gone, at {} of the grid: {}{more}",
            text::counted(outcome.thin_count, "edge"),
            places.join(", "),
        ));
    }
    if !fills_voids(options) {
        left.extend(voids(outcome, "enclosed; --fill-voids fills"));
    }
    let rebuilt = context.rebuilt(skin);
    StepReport {
        did,
        single,
        left,
        moved: rebuilt
            .as_ref()
            .map(|rebuilt| rebuilt.deviation.new_from_old.max),
        rebuilt: rebuilt.map(Box::new),
        ..StepReport::of("reskin")
    }
}

/// What was added to what the model fills.
fn changed(outcome: &ReskinOutcome, options: &ReskinOptions) -> Vec<String> {
    let mut changed = Vec::new();
    changed.extend(options.offset.map(|away| {
        format!(
            "all faces, whichever way they look, enclosed at a distance of {}",
            text::measure(away)
        )
    }));
    if let (Some(least), Some(walls)) = (options.min_thickness, outcome.thickened) {
        let thinnest = match walls.across > 0.0 {
            true => format!("the thinnest was {}", text::measure(walls.across)),
            false => "sheets among them".into(),
        };
        changed.push(format!(
            "walls thinner than {} made as thick: {thinnest}, at {}",
            text::measure(least),
            text::position(walls.at)
        ));
    }
    if let (Some(widest), Some(gaps)) = (options.close_gaps, outcome.bridged) {
        changed.push(format!(
            "gaps up to {} filled: the widest was {}, at {}",
            text::measure(widest),
            text::measure(gaps.across),
            text::position(gaps.at)
        ));
    }
    if fills_voids(options) {
        changed.extend(voids(outcome, "filled"));
    }
    changed
}

fn fills_voids(options: &ReskinOptions) -> bool {
    options.fill_voids || options.offset.is_some()
}

/// The voids, and what is or can be done with them.
fn voids(outcome: &ReskinOutcome, what: &str) -> Option<String> {
    let largest = outcome.voids.first()?;
    let which = match outcome.voids.len() {
        1 => "it is".to_string(),
        _ => "the largest is".into(),
    };
    let it = if outcome.voids.len() == 1 {
        "it"
    } else {
        "them"
    };
    let it = if what.ends_with("fills") {
        format!(" {it}")
    } else {
        String::new()
    };
    Some(format!(
        "{} {what}{it}; {which} {} across, at {}",
        text::counted(outcome.voids.len(), "void"),
        text::measure(largest.across),
        text::position(largest.at)
    ))
}

fn named(parts: &[PartId], what: &str) -> Vec<String> {
    parts.iter().map(|part| format!("{part} {what}")).collect()
}
