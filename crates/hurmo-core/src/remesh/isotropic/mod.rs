//! Even triangles (Botsch & Kobbelt 2004; lengths by curvature: Dunyach et al. 2013).
//!
//! ```text
//!          ┌─────────────────── rounds, in regions ───────────────────┐
//! model ─▶ split long edges ─▶ collapse short ones ─▶ flip to even valence
//!          ▲                                                           │
//!          └── back onto the input surface ◀── relax along the surface ◀┘
//! ```
//!
//! First with edges twice as long as they are to be; then every triangle becomes four, and as a rule
//! one round more will do. In the end lines are spaced out evenly, and what few narrow triangles are
//! left are looked at by themselves.
//!
//! Kept: borders, edges where sheets meet, creases, and the borders of groups, materials and UV
//! charts (*lines*). A line is walked by its length: its vertices lie on the line as the model
//! has it, divided evenly; where lines end, meet or turn sharply the vertex stays. No edge gets
//! a third side, no face turns over, what was apart stays apart. Vertices inside are put back on
//! the input surface by closest points, so that rounds don't shrink it.
//! Cost: a closest-point query a vertex and round.

mod borders;
mod collapse;
mod feature_edges;
mod feature_polylines;
mod finish;
mod flip;
mod one_to_four;
mod options;
mod regions;
mod settle;
mod sheet;
mod short_features;
mod sizing_field;
mod smoothing_alone;
mod spacing;
mod split;
mod start;
mod tangential_smoothing;
mod thin;
mod walk;

pub use borders::relax_borders;
pub(crate) use options::Evening;
pub use options::{DEFAULT_CREASE, RemeshOptions, Target};
pub use short_features::ShortFeatures;
pub use smoothing_alone::{RelaxOptions, Relaxed, relax};

use super::RemeshError;
use crate::attribute_transfer::Carried;
use crate::mesh::{FaceId, Model};
use crate::progress::{Failure, Observer};
use crate::topology::LinkedMesh;
use feature_edges::Found;
use glam::DVec3;
use sheet::{ReferenceSurface, Sheet};
use sizing_field::SizingField;
use start::{freeze_border, freeze_rims, sheet_of};

/// The most triangles that one run makes: more would not fit in memory.
pub const MOST_TRIANGLES: usize = 200_000_000;

/// A remeshed model.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct RemeshOutcome {
    /// The model.
    pub model: Model,
    /// For each of its faces, the one before that it is or was part of.
    pub sources: Vec<FaceId>,
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
    pub short_features: usize,
    /// How many triangles are given the group and material of those round them, in whose place they
    /// were short features.
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

/// The edge length of this many even triangles of an area.
pub(crate) fn edge_for(area: f64, triangles: f64) -> f64 {
    (area / triangles / (3f64.sqrt() / 4.0)).sqrt()
}

/// How long edges are to be at first.
fn first_edge(target: &Target, area: f64) -> Result<f64, RemeshError> {
    if !(area > 0.0 && area.is_finite()) {
        return Err(RemeshError::NoSurface);
    }
    let edge = match target {
        Target::Edge(edge) => *edge,
        Target::Count(count) => edge_for(area, *count as f64),
        Target::Within { shortest, .. } => *shortest,
        Target::ByVertex { lengths, .. } => lengths.iter().copied().fold(f64::INFINITY, f64::min),
    };
    if !(edge > 0.0 && edge.is_finite()) {
        return Err(RemeshError::NoLength);
    }
    if matches!(target, Target::Edge(_) | Target::Count(_)) {
        fits(triangles_of(area, edge), edge, area)?;
    }
    Ok(edge)
}

/// About how many triangles there will be.
fn expected(
    sizing: Option<&SizingField>,
    linked: &LinkedMesh,
    area: f64,
    edge: f64,
) -> Result<f64, RemeshError> {
    let Some(sizing) = sizing else {
        return Ok(triangles_of(area, edge));
    };
    let expected = sizing.triangles(linked);
    let [shortest, _] = sizing.extremes();
    fits(expected, shortest, area)?;
    Ok(expected)
}

/// Refuses what would not fit in memory.
fn fits(triangles: f64, edge: f64, area: f64) -> Result<(), RemeshError> {
    match triangles > MOST_TRIANGLES as f64 {
        true => Err(RemeshError::TooFine {
            edge,
            count: triangles,
            shortest: edge_for(area, MOST_TRIANGLES as f64),
        }),
        false => Ok(()),
    }
}

/// Remeshes a model, or some of its faces, into even triangles.
///
/// # Errors
/// When there is nothing to remesh, the result would be too large, an option makes no sense, or the
/// observer says to stop.
pub fn remesh(
    model: &Model,
    options: &RemeshOptions,
    observer: &dyn Observer,
) -> Result<RemeshOutcome, RemeshError> {
    settled(model, options, observer, |settled| {
        let (sheet, reference) = (settled.sheet, settled.reference);
        let (remeshed, sources) =
            finish::model_of(model, sheet, settled.touched, reference, settled.pieces);
        RemeshOutcome {
            model: remeshed,
            sources,
            before: settled.before,
            after: sheet.linked.living(),
            edges: match (&options.target, reference.sizing) {
                (Target::Within { .. } | Target::ByVertex { .. }, Some(sizing)) => {
                    sizing.extremes()
                }
                (_, Some(_)) => [settled.edge * sheet.edge; 2],
                (_, None) => [sheet.edge; 2],
            },
            lines: reference.chains.len(),
            line_edges: sheet.lines.len(),
            short_features: settled.short_features,
            recolored: settled.recolored,
            touched: settled.touched.iter().filter(|touched| **touched).count(),
            belt: settled.belt,
        }
    })
}

/// Even triangles with the feature edges that were kept: what further work on the surface needs.
pub(crate) struct EvenSurface {
    /// Where its vertices are.
    pub positions: Vec<DVec3>,
    /// The vertices of its triangles.
    pub triangles: Vec<[u32; 3]>,
    /// For each triangle, the face of the model that it is or was part of.
    pub faces: Vec<FaceId>,
    /// The edges on lines, by their ends.
    pub feature_edges: Vec<[u32; 2]>,
}

/// A whole model as even triangles, with the feature edges that were kept.
///
/// # Errors
/// Those of [`remesh`].
pub(crate) fn even_surface(
    model: &Model,
    options: &RemeshOptions,
    observer: &dyn Observer,
) -> Result<EvenSurface, RemeshError> {
    settled(model, options, observer, |settled| {
        let sheet = settled.sheet;
        let living = (0..sheet.linked.places() as u32)
            .filter_map(|t| Some((sheet.linked.triangle(t)?, sheet.origins[t as usize])));
        let (triangles, faces) = living
            .map(|(triangle, face)| (triangle, FaceId::new(face as usize)))
            .unzip();
        let mut feature_edges: Vec<[u32; 2]> = sheet.lines.all().map(|(a, b, _)| [a, b]).collect();
        feature_edges.sort_unstable();
        EvenSurface {
            positions: sheet.linked.positions.clone(),
            triangles,
            faces,
            feature_edges,
        }
    })
}

/// The lines of a model that are kept where it is remeshed into edges of a length, as pieces.
pub(crate) fn kept_lines(model: &Model, options: &RemeshOptions, edge: f64) -> Vec<[DVec3; 2]> {
    let positions = model.mesh.positions();
    let link = |triangles: &_| LinkedMesh::new(positions.to_vec(), triangles);
    let (carried, linked) = Carried::with(model, link);
    let origins: Vec<u32> = carried.faces().iter().map(|face| face.0).collect();
    let found = feature_edges::find(&linked, &origins, &options.making(model, edge, None));
    let mut ends: Vec<[u32; 2]> = found.lines.all().map(|(a, b, _)| [a, b]).collect();
    ends.sort_unstable();
    let place = |v: u32| linked.positions[v as usize];
    ends.into_iter().map(|ends| ends.map(place)).collect()
}

/// A surface that was made even, before it becomes a model.
struct Settled<'s> {
    sheet: &'s Sheet,
    reference: &'s ReferenceSurface<'s>,
    /// By face of the model: whether it was remeshed.
    touched: &'s [bool],
    pieces: Option<&'s finish::Pieces>,
    /// Triangles before.
    before: usize,
    /// The edge length, or what lengths are multiples of.
    edge: f64,
    short_features: usize,
    recolored: usize,
    belt: usize,
}

/// Makes triangles even, for whatever is made of them.
fn settled<R>(
    model: &Model,
    options: &RemeshOptions,
    observer: &dyn Observer,
    make: impl FnOnce(&Settled<'_>) -> R,
) -> Result<R, RemeshError> {
    Failure::unless_angle("crease", options.crease)?;
    let mesh = &model.mesh;
    let all = || vec![true; mesh.face_count()];
    let mut touched = options.faces.clone().unwrap_or_else(all);
    let area = options.area(mesh);
    let edge = first_edge(&options.target, area)?;
    let link = |triangles: &_| LinkedMesh::new(mesh.positions().to_vec(), triangles);
    let (carried, mut linked) = Carried::with(model, link);
    let joined = start::collapse_zero_length(&mut linked, options);
    let mut origins: Vec<u32> = carried.faces().iter().map(|face| face.0).collect();
    let mut sizing = options.sizing(&linked);
    let Found {
        lines,
        chains,
        mut constraints,
        short_features,
    } = {
        let making = options.making(model, edge, sizing.as_ref());
        feature_edges::find(&linked, &origins, &making)
    };
    let same_length = || SizingField::all(edge, linked.positions.len());
    if options.rims_exact {
        freeze_rims(&linked, &mut constraints);
    }
    let mut belt = 0;
    if options.faces.is_some() {
        let lengths = sizing.get_or_insert_with(same_length);
        let more = lengths.join_to_rest(&linked, &origins, &touched);
        belt = more.len();
        more.iter().for_each(|&face| touched[face as usize] = true);
    }
    for face in &options.held {
        touched[face.index()] = false;
    }
    if touched.contains(&false) {
        freeze_border(&linked, &origins, &touched, &mut constraints);
    }
    if options.rims_exact {
        let lengths = sizing.get_or_insert_with(same_length);
        lengths.join_to_frozen(&linked, &constraints);
    }
    let expected = expected(sizing.as_ref(), &linked, area, edge)?;
    let mut recolored = 0;
    if short_features > 0 {
        recolored = short_features::take_in_crumbs(&linked, &mut origins, &lines, model);
    }
    let pieces = (model.attributes.has_corner_layers()).then(|| {
        finish::Pieces::of(
            &start::renamed(carried.triangles(), joined.as_deref()),
            &lines,
        )
    });
    let reference = ReferenceSurface {
        carried: &carried,
        linked: &linked,
        chains: &chains,
        sizing: sizing.as_ref(),
        most_rise: options.most_rise(),
    };
    let held = (constraints, lines);
    let mut sheet = sheet_of(&linked, origins, &touched, held, &reference, edge);
    let before = sheet.linked.living();
    match options.evening {
        Some(evening) => settle::even_out(&mut sheet, &reference, evening.rounds, observer),
        None => settle::settle(&mut sheet, &reference, &options.target, expected, observer),
    }
    observer.check()?;
    Ok(make(&Settled {
        sheet: &sheet,
        reference: &reference,
        touched: &touched,
        pieces: pieces.as_ref(),
        before,
        edge,
        short_features,
        recolored,
        belt,
    }))
}

#[cfg(test)]
mod carry_tests;
#[cfg(test)]
mod coarse_tests;
#[cfg(test)]
mod short_features_tests;
#[cfg(test)]
mod tests;
#[cfg(test)]
mod wreck_tests;
