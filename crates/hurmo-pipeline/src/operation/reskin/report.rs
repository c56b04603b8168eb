//! What is said of a new skin.

use crate::operation::Context;
use crate::record::{Statement, StepReport, Value, shorten};
use crate::said;
use crate::text;
use hurmo_core::remesh::dual_contouring::{ReskinOptions, ReskinOutcome};

/// The most places that are reported.
const PLACES: usize = 3;

/// The step that made it, through cells of this length.
pub fn report(
    context: &Context<'_>,
    cell: f64,
    outcome: &ReskinOutcome,
    options: &ReskinOptions,
) -> StepReport {
    let skin = &outcome.model.mesh;
    let mut did = vec![said!(
        "new-skin",
        "{faces:face} → a new skin of {triangles:triangle}, through cells of {cell}",
        faces = outcome.before,
        triangles = skin.face_count(),
        cell = cell,
    )];
    if outcome.closing > 0 {
        let share = 100.0 * outcome.closing as f64 / outcome.points as f64;
        did.push(said!(
            "closes-openings",
            "{share}% of it closes openings",
            share = (share, format!("{share:.1}"))
        ));
    }
    if outcome.small_components > 0 {
        did.push(said!(
            "small-components",
            "{count:small component} thinner than half a cell left out",
            count = outcome.small_components
        ));
    }
    did.extend(changed(outcome, options));
    let buried = outcome.buried.iter().map(|part| {
        said!(
            "buried",
            "{part} lies inside the skin of others",
            part = part.to_string()
        )
    });
    let mut single: Vec<Statement> = buried.collect();
    shorten(&mut single, 6);
    let lost = outcome.lost.iter().map(|part| {
        said!(
            "without-skin",
            "{part} has no skin: smaller than a cell, or a sheet that closes in nothing",
            part = part.to_string()
        )
    });
    let mut left: Vec<Statement> = lost.collect();
    shorten(&mut left, 6);
    if options.even && !outcome.is_even {
        left.push(said!(
            "not-even",
            "triangles are as cells made them: its walls are too thin to even them out"
        ));
    }
    if outcome.held > 0 {
        left.push(said!(
            "held-by-thin-walls",
            "{faces:face} at thin walls as cells made them, the rest evened out",
            faces = outcome.held
        ));
    }
    if outcome.thin_count > 0 {
        let places = outcome.thin.iter().take(PLACES);
        let places: Vec<String> = places.map(|&place| text::position(place)).collect();
        let more = outcome.thin_count > PLACES;
        left.push(said!(
            "thinner-than-a-cell",
            "walls or gaps thinner than a cell are gone, at {edges:edge} of the grid: {places}{more}",
            edges = outcome.thin_count,
            places = places,
            more = more.then(|| said!("more", " and elsewhere")),
        ));
    }
    if !fills_voids(options) {
        left.extend(voids(outcome, false));
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
fn changed(outcome: &ReskinOutcome, options: &ReskinOptions) -> Vec<Statement> {
    let mut changed = Vec::new();
    changed.extend(options.offset.map(|away| {
        said!(
            "offset",
            "all faces, whichever way they look, enclosed at a distance of {distance}",
            distance = away
        )
    }));
    if let (Some(least), Some(walls)) = (options.min_thickness, outcome.thickened) {
        let thinnest = match walls.across > 0.0 {
            true => said!(
                "thinnest",
                "the thinnest was {thickness}",
                thickness = walls.across
            ),
            false => said!("sheets", "sheets among them"),
        };
        changed.push(said!(
            "walls-thickened",
            "walls thinner than {thickness} made as thick: {thinnest}, at {at}",
            thickness = least,
            thinnest = thinnest,
            at = walls.at,
        ));
    }
    if let (Some(widest), Some(gaps)) = (options.close_gaps, outcome.bridged) {
        changed.push(said!(
            "gaps-filled",
            "gaps up to {width} filled: the widest was {widest}, at {at}",
            width = widest,
            widest = gaps.across,
            at = gaps.at,
        ));
    }
    if fills_voids(options) {
        changed.extend(voids(outcome, true));
    }
    changed
}

fn fills_voids(options: &ReskinOptions) -> bool {
    options.fill_voids || options.offset.is_some()
}

/// The voids, and what was or can be done with them.
fn voids(outcome: &ReskinOutcome, are_filled: bool) -> Option<Statement> {
    let largest = outcome.voids.first()?;
    let (which, them) = match outcome.voids.len() {
        1 => ("it is", "it"),
        _ => ("the largest is", "them"),
    };
    Some(match are_filled {
        true => said!(
            "voids-filled",
            "{voids:void} filled; {which} {across} across, at {at}",
            voids = outcome.voids.len(),
            which = Value::Grammar(which),
            across = largest.across,
            at = largest.at,
        ),
        false => said!(
            "voids-enclosed",
            "{voids:void} enclosed; --fill-voids fills {them}; {which} {across} across, at {at}",
            voids = outcome.voids.len(),
            them = Value::Grammar(them),
            which = Value::Grammar(which),
            across = largest.across,
            at = largest.at,
        ),
    })
}
