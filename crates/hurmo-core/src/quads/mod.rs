//! Quads that follow the form.
//!
//! ```text
//! model ─▶ even triangles ─▶ field of crosses ─▶ frames, cut ─▶ map to whole numbers ─▶ quads
//!                │                                                   ▲        │
//!                │                          finer where lines are too far apart
//!                └─▶ paired and divided: a part for which no map is found
//! ```
//!
//! A part is rebuilt whole: its quads have the topology of the surface, or another way is taken. Crosses follow
//! features exactly and curvature where it is clear; so do the edges of quads.
//!
//! ```
//! use hurmo_core::quads::{QuadOptions, QuadTarget, quads};
//! use hurmo_core::{Model, shapes};
//!
//! let ring = Model::from(shapes::torus(1.0, 0.4, 48, 24));
//! let made = quads(&ring, &QuadOptions::of(QuadTarget::Edge(0.15)), &())?;
//! assert!(made.model.mesh.faces().all(|(_, face)| face.len() == 4));
//! assert_eq!(made.irregular, 0);
//! # Ok::<(), hurmo_core::remesh::RemeshError>(())
//! ```

mod cleaning;
mod cones;
mod cross_field;
mod curvature;
mod elimination;
mod extraction;
mod frames;
mod grid_map;
mod lengths;
mod pairing;
mod piece;
mod placement;
mod rounding;
mod surface;
mod unknowns;

use crate::attribute_transfer::Carried;
use crate::measure;
use crate::mesh::{Mesh, Model, VertexId};
use crate::progress::Observer;
use crate::remesh::{
    self, DEFAULT_CREASE, EvenSurface, RemeshError, RemeshOptions, ShortFeatures, Target,
};
use crate::spatial::TriangleTree;
use crate::topology::Parts;
use cleaning::QuadMesh;
use glam::DVec3;
use piece::Piece;
use rustc_hash::FxHashSet;
use surface::Surface;

/// How fine the triangles are, against the sides of quads.
const FINER: f64 = 0.55;
/// A count is met if the number of quads is no further off than this share.
const MET: f64 = 0.02;
/// How often lengths are changed to meet a count.
const TRIES: usize = 4;

/// How fine.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum QuadTarget {
    /// Sides of about this length, in model units.
    Edge(f64),
    /// About this many quads.
    Count(usize),
}

/// How to rebuild with quads.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct QuadOptions {
    /// How fine.
    pub target: QuadTarget,
    /// Edges whose faces meet at more than this angle, in degrees, are creases.
    pub crease: f64,
    /// Feature edges that are not kept.
    pub short_features: ShortFeatures,
}

impl QuadOptions {
    /// With creases of the default angle.
    pub fn of(target: QuadTarget) -> Self {
        Self {
            target,
            crease: DEFAULT_CREASE,
            short_features: ShortFeatures::Noise,
        }
    }
}

/// A model of quads.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct QuadOutcome {
    /// The model.
    pub model: Model,
    /// The wanted length of sides, in model units.
    pub edge: f64,
    /// Parts of the surface.
    pub parts: usize,
    /// Parts for which no map was found, so that their quads are divided pairs of triangles.
    pub parts_paired: usize,
    /// Quads of these.
    pub quads_paired: usize,
    /// Vertices inside the surface with another number of quads than four.
    pub irregular: usize,
    /// Edges of quads on feature lines.
    pub feature_edges: usize,
}

/// Rebuilds a model with quads.
///
/// # Errors
/// When there is nothing to rebuild, the result would be too large, an option makes no sense, or the observer
/// says to stop.
pub fn quads(
    model: &Model,
    options: &QuadOptions,
    observer: &dyn Observer,
) -> Result<QuadOutcome, RemeshError> {
    let area = measure::area(&model.mesh);
    let edge = match options.target {
        QuadTarget::Edge(edge) => edge,
        QuadTarget::Count(count) => (area / count as f64).sqrt(),
    };
    let whole = Parts::of(&model.mesh);
    let even = even_enough(model, &whole, options, edge, observer)?;
    let even = surface::with_free_corners(even);
    observer.begin("laying out quads", 0);
    // By part of the model: whether a piece of its surface can't be mapped. All of the part is paired then, so
    // that what hangs together at edges of three sides, or at vertices, still does.
    let mut is_paired = vec![false; whole.len()];
    let part_of = |surface: &Surface| {
        let face = even.faces[surface.origins[0] as usize];
        whole
            .of_face(&model.mesh, face)
            .map_or(0, |part| part.index())
    };
    let is_branching = surface::branching(&even);
    let mut pieces = Vec::new();
    for surface in Surface::parts_of(&even) {
        let part = part_of(&surface);
        match surface.origins.iter().any(|&t| is_branching[t as usize]) {
            true => is_paired[part] = true,
            false => pieces.push((part, Piece::of(surface, edge))),
        }
        observer.check()?;
    }
    let mut made = Vec::new();
    let mut scale = 1.0;
    for _ in 0..TRIES {
        made.clear();
        for (part, piece) in &mut pieces {
            let mesh = if is_paired[*part] {
                None
            } else {
                piece.quads(scale)
            };
            is_paired[*part] |= mesh.is_none();
            made.extend(mesh.map(|mesh| (*part, mesh)));
            observer.check()?;
        }
        let found: usize = made.iter().map(|(_, mesh)| mesh.quads.len()).sum();
        match options.target {
            QuadTarget::Count(count) if found > 0 && !is_paired.contains(&true) => {
                let ratio = found as f64 / count as f64;
                if (ratio - 1.0).abs() < MET {
                    break;
                }
                scale *= ratio.sqrt();
            }
            _ => break,
        }
    }
    let carried = Carried::by(model);
    let mut outcome = Assembled::default();
    for (_, mesh) in made.iter().filter(|(part, _)| !is_paired[*part]) {
        outcome.add(mesh, &carried);
    }
    let parts_paired = is_paired.iter().filter(|paired| **paired).count();
    if parts_paired > 0 {
        let is_left = |face| {
            whole
                .of_face(&model.mesh, face)
                .is_some_and(|part| is_paired[part.index()])
        };
        let (rest, _) = model.without_faces(|face| !is_left(face));
        outcome.add_paired(&rest, options, edge * scale, &carried, observer)?;
    }
    let mut model = Model::from(outcome.mesh);
    carried.give_to(&mut model);
    Ok(QuadOutcome {
        model,
        edge: edge * scale,
        parts: whole.len(),
        parts_paired,
        quads_paired: outcome.quads_paired,
        irregular: outcome.irregular,
        feature_edges: outcome.feature_edges,
    })
}

fn even_options(options: &QuadOptions, edge: f64) -> RemeshOptions {
    let mut even = RemeshOptions::of(Target::Edge(edge));
    even.crease = options.crease;
    even.short_features = options.short_features;
    even
}

/// Even triangles for quads with sides of a length, smaller where the surface bends sharply: once to see how it
/// bends, and once more if it does so anywhere.
fn even_enough(
    model: &Model,
    parts: &Parts,
    options: &QuadOptions,
    edge: f64,
    observer: &dyn Observer,
) -> Result<EvenSurface, RemeshError> {
    let mut lengths = lengths_by_part(&model.mesh, parts, edge * FINER);
    let mut finer = even_options(options, edge * FINER);
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

/// What parts make together.
#[derive(Default)]
struct Assembled {
    mesh: Mesh,
    quads_paired: usize,
    irregular: usize,
    feature_edges: usize,
}

impl Assembled {
    fn add(&mut self, mesh: &QuadMesh, carried: &Carried<'_>) {
        let places = placement::placed(mesh, carried);
        self.irregular += mesh.irregular();
        self.feature_edges += mesh.feature_edges.len();
        self.push(&places, &mesh.quads);
    }

    fn push(&mut self, places: &[DVec3], quads: &[[u32; 4]]) {
        let base = self.mesh.vertex_count() as u32;
        places.iter().for_each(|&place| {
            self.mesh.push_vertex(place);
        });
        for quad in quads {
            self.mesh.push_face(quad.map(|v| VertexId(v + base)));
        }
    }

    /// Adds what is left of a model as divided pairs of triangles.
    fn add_paired(
        &mut self,
        rest: &Model,
        options: &QuadOptions,
        edge: f64,
        carried: &Carried<'_>,
        observer: &dyn Observer,
    ) -> Result<(), RemeshError> {
        // Two triangles make four quads: with sides half as long, of the same area.
        let coarse = even_options(options, 2.0 * edge * 1.07);
        let coarse = remesh::even_surface(rest, &coarse, observer)?;
        let kept: FxHashSet<[u32; 2]> = coarse.feature_edges.iter().copied().collect();
        let made = pairing::divided(&coarse.positions, &coarse.triangles, |ends| {
            kept.contains(&ends)
        });
        let places: Vec<DVec3> = (made.positions.iter().enumerate())
            .map(|(v, &at)| match v < made.corners {
                true => at,
                false => carried
                    .tree()
                    .closest(at)
                    .map_or(at, |closest| closest.point),
            })
            .collect();
        self.quads_paired += made.quads.len();
        self.push(&places, &made.quads);
        Ok(())
    }
}

#[cfg(test)]
mod tests;
