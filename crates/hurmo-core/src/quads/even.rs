//! Even triangles for quads: finer than these, and finer still where the surface bends sharply.

use super::noise::{Crease, leave_out_noise};
use super::piece;
use super::{QuadOptions, QuadTarget};
use crate::measure;
use crate::mesh::{Mesh, Model};
use crate::progress::Observer;
use crate::remesh::{self, EvenSurface, RemeshError, RemeshOptions, Target};
use crate::spatial::TriangleTree;
use crate::topology::Parts;
use glam::DVec3;

/// How fine the triangles are, against the sides of quads.
pub(super) const FINER: f64 = 0.62;
/// A quad of side L on a surface of radius R is off by about L²/4R, a triangle by an eighth: the triangle's share
/// of the distance, for a side that is [`FINER`]; a little less, as some sides come out longer.
const OF_DISTANCE: f64 = 0.9 * FINER * FINER / 2.0;

/// Lines that noise makes are longer than triangles would have it, by this factor: about four sides of quads.
const NOISE: f64 = 3.6;

/// How triangles are made.
pub(super) fn even_options(options: &QuadOptions, target: Target) -> RemeshOptions {
    let mut even = RemeshOptions::of(target);
    even.crease = options.crease;
    even.short_features = options.short_features;
    even.noise = NOISE;
    even
}

/// The model with no more than what quads follow: charts of UVs they do not, as new quads have none.
pub(super) fn followed(model: &Model, options: &QuadOptions) -> Model {
    let mut plain = Model::from(model.mesh.clone());
    if options.follow_groups {
        plain.attributes.tags = model.attributes.tags.clone();
    }
    plain
}

/// The lines of a model that quads with sides of a length follow, as pieces.
pub(super) fn lines(model: &Model, options: &QuadOptions, edge: f64) -> Vec<[DVec3; 2]> {
    let even = even_options(options, Target::Edge(edge * FINER));
    remesh::kept_lines(&followed(model, options), &even, edge * FINER)
}

/// Even triangles for quads with sides of a length, and the feature edges that are more than noise at that size.
pub(super) fn even_enough(
    model: &Model,
    parts: &Parts,
    options: &QuadOptions,
    edge: f64,
    observer: &dyn Observer,
) -> Result<EvenSurface, RemeshError> {
    let model = &followed(model, options);
    let mut even = even_triangles(model, parts, options, edge, observer)?;
    let crease = Crease {
        degrees: options.crease,
        side: edge,
        within: match options.target {
            QuadTarget::Within { distance, .. } => Some(distance),
            _ => None,
        },
    };
    leave_out_noise(&mut even, model, &crease);
    Ok(even)
}

/// Even triangles for quads with sides of a length, smaller where the surface bends sharply: once to see how it
/// bends, and once more if it does so anywhere.
fn even_triangles(
    model: &Model,
    parts: &Parts,
    options: &QuadOptions,
    edge: f64,
    observer: &dyn Observer,
) -> Result<EvenSurface, RemeshError> {
    if let QuadTarget::Within {
        distance,
        shortest,
        longest,
    } = options.target
    {
        let target = Target::Within {
            distance: distance * OF_DISTANCE,
            shortest: shortest * FINER,
            longest: longest * FINER,
        };
        return remesh::even_surface(model, &even_options(options, target), observer);
    }
    let mut lengths = lengths_by_part(&model.mesh, parts, edge * FINER);
    let mut finer = even_options(options, Target::Edge(edge * FINER));
    let by_vertex = |lengths: &[f64]| Target::ByVertex {
        lengths: lengths.to_vec(),
        within: f64::INFINITY,
    };
    if lengths.iter().any(|&length| length < edge * FINER) {
        finer.target = by_vertex(&lengths);
    }
    let even = remesh::even_surface(model, &finer, observer)?;
    let sharp = piece::radii(&even);
    if sharp.iter().all(|&radius| radius > edge * piece::ROUND) {
        return Ok(even);
    }
    let corners = |t: usize| even.triangles[t].map(|v| even.positions[v as usize]);
    let tree = TriangleTree::new(even.triangles.len(), corners);
    for (closest, length) in tree
        .closest_to_each(model.mesh.positions())
        .iter()
        .zip(&mut lengths)
    {
        if let Some(closest) = closest {
            let radius = sharp[closest.triangle as usize].max(edge * piece::SHORTEST);
            *length = length.min(radius / piece::ROUND * FINER);
        }
    }
    finer.target = by_vertex(&lengths);
    remesh::even_surface(model, &finer, observer)
}

/// By vertex, how long edges of triangles are: shorter in parts so small that they would have too few quads.
fn lengths_by_part(mesh: &Mesh, parts: &Parts, length: f64) -> Vec<f64> {
    let mut areas = vec![0.0; parts.len()];
    for (face, vertices) in mesh.faces() {
        if let Some(part) = parts.of_vertex(vertices[0]) {
            areas[part.index()] += measure::vector_area(mesh, face).length();
        }
    }
    let longest = |area: f64| piece::edge_for_part(length / FINER, area) * FINER;
    let of_vertex = |v| {
        parts
            .of_vertex(v)
            .map_or(length, |part| longest(areas[part.index()]))
    };
    mesh.vertex_ids().map(of_vertex).collect()
}
