//! Remeshing into even triangles (Botsch & Kobbelt 2004).
//!
//! ```text
//!          ┌────────────────────── a few rounds ──────────────────────┐
//! model ─▶ split long edges ─▶ collapse short ones ─▶ flip to even valence
//!          ▲                                                           │
//!          └── back onto the input surface ◀── relax along the surface ◀┘
//! ```
//!
//! Kept: borders, edges where sheets meet, creases and the borders of groups and materials
//! (*lines*), divided evenly along their length; where lines end, meet or turn sharply the
//! vertex stays. No edge gets a third side, and no face turns over. Vertices inside are put
//! back on the input surface by closest points, so that rounds don't shrink it.
//! Cost: a closest-point query a vertex and round.

mod isotropic;
mod lines;
pub mod solid;

use crate::decimate::model_of;
use crate::measure::area;
use crate::mesh::Model;
use crate::progress::Observer;
use crate::spatial::TriangleTree;
use crate::topology::TriangleNet;
use crate::triangulate::all_triangles;
use isotropic::Remeshing;
use rayon::prelude::*;

/// How fine.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Target {
    /// Edges of about this length, in model units.
    Edge(f64),
    /// About so many triangles.
    Count(usize),
}

/// How to remesh.
#[derive(Clone, Debug)]
pub struct Options {
    /// How fine.
    pub target: Target,
    /// Edges whose faces meet at more than this angle, in degrees, are creases.
    pub crease: f64,
}

/// The angle, in degrees, above which an edge is a crease if nothing else is said.
pub const DEFAULT_CREASE: f64 = 40.0;

/// The most triangles that one run makes: more would not fit in memory.
pub const MOST_TRIANGLES: usize = 200_000_000;

/// A remeshed model.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// The model, all triangles.
    pub model: Model,
    /// How many triangles there were.
    pub before: usize,
    /// The edge length that was aimed at, in model units.
    pub edge: f64,
    /// How many edges are lines that were kept.
    pub line_edges: usize,
    /// What could not be carried over.
    pub lost: Vec<&'static str>,
}

/// Why a model was not remeshed.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum RemeshError {
    /// There is no surface.
    #[error("the model has no faces with area")]
    NoSurface,
    /// The edge length is not one.
    #[error("an edge length must be larger than 0")]
    NoLength,
    /// Far more triangles than could be handled.
    #[error(
        "edges of {edge} would make about {count:.0} triangles; \
         the shortest edge that fits is about {shortest}"
    )]
    TooFine {
        /// The edge length asked for.
        edge: f64,
        /// How many triangles that would take.
        count: f64,
        /// The shortest edge that fits.
        shortest: f64,
    },
    /// Far more cells than could be handled.
    #[error("cells of {cell} would not fit in memory; the smallest that do are about {finest:.3e}")]
    TooManyCells {
        /// The length of a cell asked for.
        cell: f64,
        /// The smallest that fits.
        finest: f64,
    },
}

/// Triangles that even ones of this edge length make of an area.
fn triangles_of(area: f64, edge: f64) -> f64 {
    area / (edge * edge * 3f64.sqrt() / 4.0)
}

fn edge_for(area: f64, triangles: f64) -> f64 {
    (area / triangles / (3f64.sqrt() / 4.0)).sqrt()
}

/// Remeshes a model into even triangles.
///
/// # Errors
/// When there is nothing to remesh, or the result would be too large.
pub fn remesh(
    model: &Model,
    options: &Options,
    observer: &dyn Observer,
) -> Result<Outcome, RemeshError> {
    let surface = area(&model.mesh);
    if !(surface > 0.0 && surface.is_finite()) {
        return Err(RemeshError::NoSurface);
    }
    let mut edge = match options.target {
        Target::Edge(edge) => edge,
        Target::Count(count) => edge_for(surface, count as f64),
    };
    if !(edge > 0.0 && edge.is_finite()) {
        return Err(RemeshError::NoLength);
    }
    let expected = triangles_of(surface, edge);
    if expected > MOST_TRIANGLES as f64 {
        return Err(RemeshError::TooFine {
            edge,
            count: expected,
            shortest: edge_for(surface, MOST_TRIANGLES as f64),
        });
    }
    let (triangles, from) = all_triangles(&model.mesh);
    let before = triangles.len();
    let positions = model.mesh.positions();
    let tree = TriangleTree::new(
        triangles
            .par_iter()
            .map(|t| t.map(|v| positions[v.index()])),
    );
    let net = TriangleNet::new(positions.to_vec(), &triangles);
    let tags = &model.attributes.tags;
    let tag_of = from
        .iter()
        .map(|face| match tags.is_empty() {
            true => 0,
            false => tags.of_face[face.index()],
        })
        .collect();
    let mut work = Remeshing::new(net, tag_of, model.attributes.colors.clone(), options.crease);
    work.rounds(edge, 5, &tree, observer);
    if let Target::Count(count) = options.target {
        for _ in 0..4 {
            let share = work.net.living() as f64 / count as f64;
            if (share - 1.0).abs() <= 0.025 || observer.cancelled() {
                break;
            }
            edge *= share.sqrt();
            work.rounds(edge, 1, &tree, observer);
        }
    }
    let line_edges = work.line_edges();
    let Remeshing {
        net, tags, colors, ..
    } = work;
    Ok(Outcome {
        model: model_of(&net, colors, |t| tags[t], model),
        before,
        edge,
        line_edges,
        lost: model.attributes.clone().drop_corner_layers(),
    })
}

#[cfg(test)]
mod tests;
