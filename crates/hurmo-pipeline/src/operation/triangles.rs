//! Even triangles; vertices evened out; noise taken out.

use super::remesh::{Options, Rims};
use super::{At, Done};
use crate::record::Rebuilt;
use crate::record::Step;
use crate::text::{self, count};
use anyhow::{Result, bail};
use hurmo_core::remesh::{self, Crumbs, Outcome, RelaxOptions, Target};
use hurmo_core::smooth::{self, Kind};
use hurmo_core::units::Length;
use hurmo_core::{Model, compare};

/// Where an edge may leave the surface by so much, none need be shorter than this many times that.
const SHORTEST: f64 = 2.0;
/// Nor longer than this share of the diagonal.
const LONGEST: f64 = 0.1;
/// What was not held is tried again so many times, with this share of the distance.
const TRIES: usize = 3;
const LESS: f64 = 0.6;

/// Rebuilds with even triangles.
pub fn even(options: &Options, at: &At<'_>) -> Result<Done> {
    let faces = options.region.faces(at)?;
    let length = |length: Option<Length>| length.map(|length| at.length(length)).transpose();
    let triangles = match &faces {
        None => at.model.mesh.triangle_count(),
        Some(faces) => {
            let those = at.model.mesh.face_ids().filter(|face| faces[face.index()]);
            those.map(|face| at.model.mesh.face(face).len() - 2).sum()
        }
    };
    let within = length(options.within)?;
    let target = match (length(options.edge)?, within, options.to) {
        (Some(edge), ..) => Target::Edge(edge),
        (_, Some(distance), _) => {
            let shortest = length(options.edge_min)?.unwrap_or(SHORTEST * distance);
            let longest = length(options.edge_max)?.unwrap_or(LONGEST * at.diagonal());
            if shortest > longest {
                bail!("--edge-min is more than --edge-max");
            }
            Target::Within {
                distance,
                shortest,
                longest,
            }
        }
        (.., Some(budget)) => Target::Count(budget.of(triangles).max(1)),
        _ => bail!("say how fine: --edge LENGTH, --within LENGTH or --to BUDGET"),
    };
    let options = remesh::Options {
        target,
        crease: options.crease,
        crumbs: length(options.ignore_lines_under)?.map_or(Crumbs::Noise, Crumbs::Under),
        rims_exact: options.keep_rims == Rims::Exact,
        faces,
        lines: Vec::new(),
    };
    let (outcome, held) = match within {
        Some(limit) => held_within(at, options.clone(), limit)?,
        None => (remesh::remesh(at.model, &options, at.observer)?, true),
    };
    let mut step = told(at, &outcome, options.faces.is_some());
    match (within, held) {
        (Some(limit), true) => {
            let within = text::measure(limit);
            step.did.push(format!("within {within} both ways: proved"));
        }
        (Some(limit), false) => step.left.push(format!(
            "not proved to lie within {}: edges at the shortest length, or lines and thin places, \
             do not follow the surface that closely",
            text::measure(limit)
        )),
        (None, _) => {}
    }
    if let Target::Count(to) = options.target
        && (outcome.after as f64 / to as f64 - 1.0).abs() > 0.03
    {
        step.left.push(format!(
            "{} are not {}: the lines that are kept take more, or fewer",
            text::counted(outcome.after, "triangle"),
            count(to)
        ));
    }
    Ok(Done::new(outcome.model, vec![step]))
}

/// Remeshes until it is proved that both surfaces lie within a distance, with ever less.
fn held_within(at: &At<'_>, mut options: remesh::Options, limit: f64) -> Result<(Outcome, bool)> {
    let mut tries = 0;
    loop {
        let outcome = remesh::remesh(at.model, &options, at.observer)?;
        let held = compare::stay_within(&at.model.mesh, &outcome.model.mesh, limit);
        tries += 1;
        if held || tries == TRIES {
            return Ok((outcome, held));
        }
        if let Target::Within { distance, .. } = &mut options.target {
            *distance *= LESS;
        }
    }
}

fn told(at: &At<'_>, outcome: &Outcome, is_region: bool) -> Step {
    let [shortest, longest] = outcome.edges.map(text::measure);
    let sides = match outcome.edges[0] == outcome.edges[1] {
        true => format!("about {shortest} a side"),
        false => format!("{shortest} to {longest} a side"),
    };
    let mut did = vec![format!(
        "{} → {} triangles of {sides}",
        count(outcome.before),
        count(outcome.after),
    )];
    if outcome.line_edges > 0 {
        did.push(format!(
            "{} kept, divided into {}",
            text::counted(outcome.lines, "line"),
            text::counted(outcome.line_edges, "edge")
        ));
    }
    if outcome.crumbs > 0 {
        let crumbs = text::counted(outcome.crumbs, "line");
        did.push(format!("{crumbs} too short to keep"));
    }
    if outcome.recolored > 0 {
        let faces = text::counted(outcome.recolored, "face");
        did.push(format!("{faces} given the group and material round them"));
    }
    if is_region {
        let rest = at.model.mesh.face_count() - outcome.touched;
        did.push(format!("{} left as they are", text::counted(rest, "face")));
    }
    if outcome.belt > 0 {
        let belt = text::counted(outcome.belt, "face");
        did.push(format!(
            "{belt} round the region remeshed too, so that sizes change gently"
        ));
    }
    rebuilt_step(did, at, &outcome.model)
}

/// Evens the vertices out.
pub fn relax(options: &Options, at: &At<'_>, rounds: usize) -> Result<Done> {
    let relaxing = RelaxOptions {
        rounds,
        crease: options.crease,
        faces: options.region.faces(at)?,
    };
    let outcome = remesh::relax(at.model, &relaxing, at.observer);
    let moved = text::counted(outcome.moved, "vertex");
    let did = vec![format!(
        "{moved} moved along the surface, edges and faces as they were"
    )];
    done(did, at, outcome.model)
}

/// Takes noise out.
pub fn smooth(options: &Options, at: &At<'_>, rounds: usize, hard: bool) -> Result<Done> {
    let smoothing = smooth::Options {
        rounds,
        kind: if hard { Kind::Hard } else { Kind::Soft },
        faces: options.region.faces(at)?,
    };
    let outcome = smooth::smooth(at.model, &smoothing, at.observer);
    let mut lost = Vec::new();
    if at.model.attributes.normals.is_some() && outcome.model.attributes.normals.is_none() {
        lost.push("normals of corners: they were those of the rough surface".into());
    }
    let did = vec![format!(
        "{} moved by up to {}, edges and faces as they were",
        text::counted(outcome.moved, "vertex"),
        text::measure(outcome.furthest)
    )];
    let done = done(did, at, outcome.model)?;
    Ok(Done { lost, ..done })
}

fn done(did: Vec<String>, at: &At<'_>, model: Model) -> Result<Done> {
    let step = rebuilt_step(did, at, &model);
    Ok(Done::new(model, vec![step]))
}

fn rebuilt_step(did: Vec<String>, at: &At<'_>, after: &Model) -> Step {
    let rebuilt = at.rebuilt(&after.mesh);
    Step {
        step: "remesh",
        did,
        single: Vec::new(),
        left: Vec::new(),
        moved: rebuilt.as_ref().map(Rebuilt::moved),
        rebuilt: rebuilt.map(Box::new),
        boolean: None,
    }
}
