//! Rebuilding into a solid: a new skin, and what it may be reduced to.

use super::super::decimate as reduction;
use crate::operation::{At, Done};
use crate::quantity::Budget;
use crate::record::Step;
use crate::text;
use crate::text::shorten;
use anyhow::{Result, bail};
use hurmo_core::Model;
use hurmo_core::audit::Survey;
use hurmo_core::decimate::{self, Care};
use hurmo_core::mesh::PartId;
use hurmo_core::progress::Observer;
use hurmo_core::remesh::solid::{self, Outcome};
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
    pub options: solid::Options,
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
pub fn apply(at: &At<'_>, fineness: &Fineness) -> Result<Done> {
    let own;
    let survey = match at.survey {
        Some(survey) => survey,
        None => {
            own = Survey::sorted(at.model, at.observer);
            &own
        }
    };
    let at = &At {
        survey: Some(survey),
        ..*at
    };
    let mut used = fineness.options.clone();
    let (cell, outcome, too_far) = match fineness.cells {
        Cells::Within(distance) => {
            let options = &fineness.options;
            let found = solid::solid_within(survey, options, distance, at.observer)?;
            let too_far = (found.off > distance).then_some((found.off, distance));
            (found.cell, found.outcome, too_far)
        }
        Cells::Of(cell) => (cell, skin(survey, &mut used, cell, at.observer)?, None),
        Cells::To(to) => {
            let cell = solid::cell_for(at.audit.mesh.area, FINER * to as f64);
            (cell, skin(survey, &mut used, cell, at.observer)?, None)
        }
    };
    if outcome.model.mesh.face_count() == 0 {
        bail!(
            "there is nothing to put a skin round: the model closes in nothing as large as a cell of {}; \
             --min-thickness LENGTH gives its sheets walls, a smaller --cell finds smaller things",
            text::measure(cell)
        );
    }
    let mut first = told(at, cell, &outcome, &used);
    if let (None, Some(wall)) = (fineness.options.at_least_wall, used.at_least_wall) {
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
        let (finer, step) = with_detail(at, &model, cell, fineness)?;
        steps.push(step);
        model = finer;
    }
    let then = fineness.then.or(match fineness.cells {
        Cells::To(to) => Some(Then::To(Budget::Count(to))),
        _ => None,
    });
    if let Some(then) = then {
        let (reduced, step, budget) = reduced(at, &model, then)?;
        steps.push(step);
        model = reduced;
        missed.extend(budget);
    }
    let mut lost = Vec::new();
    if at.model.attributes.uvs.is_some() {
        lost.push("UVs: a new skin has none; `hurmo transfer` brings colours to vertices, `hurmo bake` a texture".into());
    }
    if at.model.attributes.normals.is_some() {
        lost.push("normals of corners: a new skin has its own".into());
    }
    Ok(Done {
        lost,
        missed,
        ..Done::new(model, steps)
    })
}

/// A skin through cells of a length. Of a model that closes in nothing its sheets get walls: what was
/// asked for is a solid.
fn skin(
    survey: &Survey<'_>,
    options: &mut solid::Options,
    cell: f64,
    observer: &dyn Observer,
) -> Result<Outcome> {
    options.cell = cell;
    let is_whole = options.around.is_some() || options.at_least_wall.is_some();
    if is_whole || solid::encloses_anything(survey, cell) {
        let outcome = solid::solid(survey, options, observer)?;
        if is_whole || outcome.model.mesh.face_count() > 0 {
            return Ok(outcome);
        }
    }
    options.at_least_wall = Some(WALL * cell);
    Ok(solid::solid(survey, options, observer)?)
}

fn with_detail(at: &At<'_>, skin: &Model, cell: f64, fineness: &Fineness) -> Result<(Model, Step)> {
    let options = DetailOptions {
        levels: fineness.levels,
        reach: fineness.max_displacement.unwrap_or(cell),
    };
    let outcome = bring_back_detail(skin, at.model, &options, at.observer)?;
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
    let rebuilt = at.rebuilt(mesh);
    let step = Step {
        step: "reskin",
        did: vec![
            format!(
                "detail brought back: {} → {} triangles",
                text::count(skin.mesh.face_count()),
                text::count(mesh.face_count())
            ),
            format!("{} on the model", text::counted(outcome.on_model, "vertex")),
        ],
        single: Vec::new(),
        left: fewer.into_iter().chain(held).collect(),
        moved: rebuilt
            .as_ref()
            .map(|rebuilt| rebuilt.deviation.new_from_old.max),
        rebuilt: rebuilt.map(Box::new),
        boolean: None,
    };
    Ok((outcome.model, step))
}

fn reduced(at: &At<'_>, skin: &Model, then: Then) -> Result<(Model, Step, Option<String>)> {
    let triangles = skin.mesh.face_count();
    let mut options = decimate::Options {
        no_crossing: true,
        care: Care::default(),
        ..decimate::Options::default()
    };
    match then {
        Then::To(budget) => options.to = Some(budget.of(triangles).max(4)),
        Then::Within(length) => options.within = Some(at.length(length)?),
    }
    let outcome = decimate::decimate(skin, &options, at.observer);
    let skin = At {
        model: skin,
        survey: None,
        ..*at
    };
    let step = reduction::told(&skin, &options, &outcome, "of the skin");
    let missed = reduction::missed(&options, &outcome);
    Ok((outcome.model, step, missed))
}

fn told(at: &At<'_>, cell: f64, outcome: &Outcome, options: &solid::Options) -> Step {
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
    if outcome.crumbs > 0 {
        let crumbs = text::counted(outcome.crumbs, "crumb");
        did.push(format!("{crumbs} thinner than half a cell left out"));
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
    let rebuilt = at.rebuilt(skin);
    Step {
        step: "reskin",
        did,
        single,
        left,
        moved: rebuilt
            .as_ref()
            .map(|rebuilt| rebuilt.deviation.new_from_old.max),
        rebuilt: rebuilt.map(Box::new),
        boolean: None,
    }
}

/// What was added to what the model fills.
fn changed(outcome: &Outcome, options: &solid::Options) -> Vec<String> {
    let mut changed = Vec::new();
    changed.extend(options.around.map(|away| {
        format!(
            "all faces, whichever way they look, enclosed at a distance of {}",
            text::measure(away)
        )
    }));
    if let (Some(least), Some(walls)) = (options.at_least_wall, outcome.thickened) {
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

fn fills_voids(options: &solid::Options) -> bool {
    options.fill_voids || options.around.is_some()
}

/// The voids, and what is or can be done with them.
fn voids(outcome: &Outcome, what: &str) -> Option<String> {
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
