//! Even triangles (Botsch & Kobbelt 2004; lengths by curvature: Dunyach et al. 2013).
//!
//! ```text
//!          ┌────────────────────── some rounds, in regions ───────────┐
//! model ─▶ split long edges ─▶ collapse short ones ─▶ flip to even valence
//!          ▲                                                           │
//!          └── back onto the input surface ◀── relax along the surface ◀┘
//! ```
//!
//! Kept: borders, edges where sheets meet, creases, and the borders of groups, materials and UV
//! charts (*lines*). A line is walked by its length: its vertices lie on the line as the model
//! has it, divided evenly; where lines end, meet or turn sharply the vertex stays. No edge gets
//! a third side, no face turns over, what was apart stays apart. Vertices inside are put back on
//! the input surface by closest points, so that rounds don't shrink it.
//! Cost: a closest-point query a vertex and round.

mod chains;
mod collapse;
mod finish;
mod flip;
mod lines;
mod regions;
mod relax;
mod relaxing;
mod sheet;
mod split;
mod walk;
mod wanted;

pub use relaxing::{RelaxOptions, Relaxed, relax};

use super::RemeshError;
use crate::carried::Carried;
use crate::measure::vector_area;
use crate::mesh::{Model, VertexId};
use crate::progress::Observer;
use crate::topology::{Marks, TriangleNet};
use glam::DVec3;
use lines::{Found, Hold, Making};
use sheet::{Ground, NEW, Sheet};
use wanted::{Bend, Wanted};

/// How fine.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Target {
    /// Edges of about this length, in model units.
    Edge(f64),
    /// About so many triangles.
    Count(usize),
    /// As long as leaves the surface by about so much, where it bends.
    Within {
        /// How far edges may leave the surface, in model units.
        distance: f64,
        /// No edge should be shorter.
        shortest: f64,
        /// Nor longer.
        longest: f64,
    },
}

/// How to remesh.
#[derive(Clone, Debug)]
pub struct Options {
    /// How fine.
    pub target: Target,
    /// Edges whose faces meet at more than this angle, in degrees, are creases.
    pub crease: f64,
    /// Creases and borders of groups shorter than this in all, or from a loose end on, are not
    /// kept; in model units.
    pub crumbs_under: f64,
    /// Whether vertices on open rims, and the edges between them, stay as they are.
    pub rims_exact: bool,
    /// The faces to remesh, by number; all where `None`. Round them, as many more are remeshed
    /// as it takes for lengths to change gently.
    pub faces: Option<Vec<bool>>,
}

/// The angle, in degrees, above which an edge is a crease if nothing else is said.
pub const DEFAULT_CREASE: f64 = 40.0;

impl Options {
    /// Everything, with creases of [`DEFAULT_CREASE`].
    pub fn of(target: Target) -> Self {
        Self {
            target,
            crease: DEFAULT_CREASE,
            crumbs_under: 0.0,
            rims_exact: false,
            faces: None,
        }
    }
}

/// The most triangles that one run makes: more would not fit in memory.
pub const MOST_TRIANGLES: usize = 200_000_000;
/// How many rounds are done, each time that regions are cut.
const ROUNDS: [usize; 3] = [2, 1, 1];
/// A count is met within this share.
const CLOSE: f64 = 0.02;
/// Where the count changes by less than this share in a time, the surface has settled.
const SETTLED: f64 = 0.1;
/// Or else rounds go on as long as this share more of the angles becomes even ...
const WORTH: f64 = 0.003;
/// ... until this share is.
const EVEN_ENOUGH: f64 = 0.97;
/// Until it has settled, and a count is met, so many times more.
const MORE_TIMES: usize = 12;

/// A remeshed model.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// The model.
    pub model: Model,
    /// How many triangles there were, of the faces that were touched.
    pub before: usize,
    /// How many there are in their place.
    pub after: usize,
    /// The edge length that was aimed at, in model units; the shortest and the longest where it
    /// differs.
    pub edges: [f64; 2],
    /// How many lines were kept.
    pub lines: usize,
    /// How many edges are on them now.
    pub line_edges: usize,
    /// How many lines were too short to be kept.
    pub crumbs: usize,
    /// How many triangles are given the group and material of those round them, in whose place they
    /// were crumbs.
    pub recolored: usize,
    /// How many faces of the model were touched.
    pub touched: usize,
    /// How many faces beyond those asked for were remeshed, so that lengths change gently.
    pub belt: usize,
}

/// Triangles that even ones of this edge length make of an area.
fn triangles_of(area: f64, edge: f64) -> f64 {
    area / (edge * edge * 3f64.sqrt() / 4.0)
}

fn edge_for(area: f64, triangles: f64) -> f64 {
    (area / triangles / (3f64.sqrt() / 4.0)).sqrt()
}

/// Remeshes a model, or some of its faces, into even triangles.
///
/// # Errors
/// When there is nothing to remesh, or the result would be too large.
pub fn remesh(
    model: &Model,
    options: &Options,
    observer: &dyn Observer,
) -> Result<Outcome, RemeshError> {
    let mesh = &model.mesh;
    let asked = match &options.faces {
        Some(faces) => faces.clone(),
        None => vec![true; mesh.face_count()],
    };
    let area_of = |faces: &[bool]| -> f64 {
        let those = mesh.face_ids().filter(|face| faces[face.index()]);
        those.map(|face| vector_area(mesh, face).length()).sum()
    };
    let area = area_of(&asked);
    if !(area > 0.0 && area.is_finite()) {
        return Err(RemeshError::NoSurface);
    }
    let edge = match options.target {
        Target::Edge(edge) => edge,
        Target::Count(count) => edge_for(area, count as f64),
        Target::Within { shortest, .. } => shortest,
    };
    if !(edge > 0.0 && edge.is_finite()) {
        return Err(RemeshError::NoLength);
    }
    let fits = |expected: f64| match expected > MOST_TRIANGLES as f64 {
        true => Err(RemeshError::TooFine {
            edge,
            count: expected,
            shortest: edge_for(area, MOST_TRIANGLES as f64),
        }),
        false => Ok(()),
    };
    if !matches!(options.target, Target::Within { .. }) {
        fits(triangles_of(area, edge))?;
    }
    let carried = Carried::by(model);
    let mut origins: Vec<u32> = carried.faces().iter().map(|face| face.0).collect();
    let net = TriangleNet::new(mesh.positions().to_vec(), carried.triangles());
    let within = match options.target {
        Target::Within { distance, .. } => Some(distance),
        _ => None,
    };
    let mut wanted = match options.target {
        Target::Within {
            distance,
            shortest,
            longest,
        } => Some(Wanted::by_bend(
            &net,
            &Bend {
                within: distance,
                shortest,
                longest,
                crease: options.crease,
            },
        )),
        _ => None,
    };
    let Found {
        lines,
        chains,
        mut holds,
        crumbs,
    } = lines::find(
        &net,
        &origins,
        &Making {
            model,
            crease: options.crease,
            crumbs_under: options.crumbs_under,
            within: wanted.as_ref().zip(within),
        },
    );
    if options.rims_exact {
        freeze_rims(&net, &mut holds);
    }
    let mut touched = asked;
    let mut belt = 0;
    if options.faces.is_some() {
        let lengths = wanted.get_or_insert_with(|| Wanted::all(edge, net.positions.len()));
        let more = lengths.join_to_rest(&net, &origins, &touched);
        belt = more.len();
        more.iter().for_each(|&face| touched[face as usize] = true);
        freeze_border(&net, &origins, &touched, &mut holds);
    }
    if options.rims_exact {
        let lengths = wanted.get_or_insert_with(|| Wanted::all(edge, net.positions.len()));
        lengths.join_to_frozen(&net, &holds);
    }
    if let Some(wanted) = &wanted {
        fits(wanted.triangles(&net))?;
    }
    let recolored = match crumbs > 0 {
        true => lines::take_in_crumbs(&net, &mut origins, &lines, model),
        false => 0,
    };
    let pieces = (model.attributes.uvs.is_some() || model.attributes.normals.is_some())
        .then(|| finish::Pieces::of(carried.triangles(), &lines));
    let ground = Ground {
        carried: &carried,
        net: &net,
        chains: &chains,
        wanted: wanted.as_ref(),
        most_rise: within.unwrap_or(f64::INFINITY),
    };
    let mut sheet = sheet_of(&net, origins, &touched, holds, lines, &ground, edge);
    let before = sheet.net.living();
    let share = |sheet: &Sheet| match options.target {
        Target::Count(count) => sheet.net.living() as f64 / count as f64,
        _ => 1.0,
    };
    observer.begin("remeshing", ROUNDS.len() as u64);
    let (mut is_settled, mut is_even, mut even) = (false, false, 0.0);
    for time in 0..ROUNDS.len() + MORE_TIMES {
        let is_met = (share(&sheet) - 1.0).abs() <= CLOSE;
        if observer.cancelled() || (time >= ROUNDS.len() && is_settled && is_even && is_met) {
            break;
        }
        if is_settled && !is_met {
            sheet.edge *= share(&sheet).powf(0.7);
        }
        let rounds = ROUNDS.get(time).copied().unwrap_or(1);
        let was = (sheet.net.living() as f64, even);
        regions::rounds(&mut sheet, &ground, (time, rounds), observer);
        even = sheet.even_angles();
        is_settled = (sheet.net.living() as f64 / was.0 - 1.0).abs() < SETTLED;
        is_even = even > EVEN_ENOUGH || even < was.1 + WORTH;
        observer.at((time as u64 + 1).min(ROUNDS.len() as u64));
    }
    Ok(Outcome {
        model: finish::model_of(model, &sheet, &touched, &ground, pieces.as_ref()),
        before,
        after: sheet.net.living(),
        edges: match &wanted {
            Some(wanted) => wanted.extremes(),
            None => [sheet.edge; 2],
        },
        lines: chains.len(),
        line_edges: sheet.lines.len(),
        crumbs,
        recolored,
        touched: touched.iter().filter(|touched| **touched).count(),
        belt,
    })
}

/// Freezes the vertices on open rims.
fn freeze_rims(net: &TriangleNet, holds: &mut [Hold]) {
    for t in 0..net.places() as u32 {
        let Some([a, b, c]) = net.triangle(t) else {
            continue;
        };
        for (p, q) in [(a, b), (b, c), (c, a)] {
            if net.on_edge(p, q).nth(1).is_none() {
                holds[p as usize] = Hold::Frozen;
                holds[q as usize] = Hold::Frozen;
            }
        }
    }
}

/// Freezes the vertices between faces that are touched and others.
fn freeze_border(net: &TriangleNet, origins: &[u32], touched: &[bool], holds: &mut [Hold]) {
    for t in 0..net.places() as u32 {
        if let Some(triangle) = net.triangle(t)
            && !touched[origins[t as usize] as usize]
        {
            triangle
                .iter()
                .for_each(|&v| holds[v as usize] = Hold::Frozen);
        }
    }
}

/// The sheet of the faces that are touched.
fn sheet_of(
    net: &TriangleNet,
    origins: Vec<u32>,
    touched: &[bool],
    holds: Vec<Hold>,
    lines: lines::Lines,
    ground: &Ground<'_>,
    edge: f64,
) -> Sheet {
    let first = |v| net.around(v).next().map_or(NEW, |(t, _)| t);
    let vertices = 0..net.positions.len() as u32;
    let near: Vec<u32> = vertices.clone().map(first).collect();
    let bounds = net
        .positions
        .iter()
        .fold((DVec3::INFINITY, DVec3::NEG_INFINITY), |(low, high), &p| {
            (low.min(p), high.max(p))
        });
    let living = (0..net.places() as u32)
        .filter(|&t| touched[ground.carried.faces()[t as usize].index()])
        .filter_map(|t| Some((t, net.triangle(t)?)));
    let (own, triangles): (Vec<u32>, Vec<[VertexId; 3]>) = living
        .map(|(t, triangle)| (origins[t as usize], triangle.map(VertexId)))
        .unzip();
    Sheet {
        marks: Marks::new(net.positions.len()),
        wanted: match ground.wanted {
            Some(wanted) => (0..net.positions.len())
                .map(|v| wanted.of_vertex(v))
                .collect(),
            None => Vec::new(),
        },
        edge: if ground.wanted.is_some() { 1.0 } else { edge },
        net: TriangleNet::new(net.positions.clone(), &triangles),
        origins: own,
        holds,
        near,
        source: vertices.collect(),
        lines,
        bounds,
    }
}

#[cfg(test)]
mod tests;
