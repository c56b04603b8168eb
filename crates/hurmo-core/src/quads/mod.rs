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

mod assembled;
mod cleaning;
mod cones;
mod cross_field;
mod curvature;
mod elimination;
mod even;
mod extraction;
mod frames;
mod grid_map;
mod guides;
mod layout;
mod lengths;
mod pairing;
mod piece;
mod placement;
mod rounding;
mod surface;
mod symmetric;
mod unknowns;

pub use symmetric::quads_symmetric;

use crate::attribute_transfer::Carried;
use crate::measure;
use crate::mesh::Model;
use crate::progress::Observer;
use crate::remesh::{DEFAULT_CREASE, RemeshError, ShortFeatures, Target};
use crate::topology::Parts;
use glam::DVec3;
use guides::ByTriangle;
use layout::Layout;
use lengths::Lengths;

/// How fine.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum QuadTarget {
    /// Sides of about this length, in model units.
    Edge(f64),
    /// About this many quads.
    Count(usize),
    /// As long as leaves the surface by about so much, where it bends.
    Within {
        /// How far quads may leave the surface, in model units.
        distance: f64,
        /// No side should be shorter.
        shortest: f64,
        /// Nor longer.
        longest: f64,
    },
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
    /// Whether borders of groups and materials are feature lines.
    pub follow_groups: bool,
    /// Pieces of lines near the surface along which quads run as far as they can, by their ends.
    pub guides: Vec<[DVec3; 2]>,
}

impl QuadOptions {
    /// With creases of the default angle.
    pub fn of(target: QuadTarget) -> Self {
        Self {
            target,
            crease: DEFAULT_CREASE,
            short_features: ShortFeatures::Noise,
            follow_groups: true,
            guides: Vec::new(),
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
    /// Quads that cross others where the model has no crossings: where it is thinner than they are long.
    pub crossing: usize,
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
    let (edge, by_triangle) = match options.target {
        QuadTarget::Edge(edge) => (edge, false),
        QuadTarget::Count(count) => ((area / count as f64).sqrt(), false),
        QuadTarget::Within { longest, .. } => (longest, true),
    };
    let whole = Parts::of(&model.mesh);
    let even = even::even_enough(model, &whole, options, edge, observer)?;
    let even = surface::with_free_corners(even);
    observer.begin("laying out quads", 0);
    let lengths = Lengths { edge, by_triangle };
    let guides = ByTriangle::of(&even, &options.guides, edge);
    let mut layout = Layout::of(model, &whole, &even, lengths, &guides, observer)?;
    layout.lay_out(options.target, observer)?;
    let carried = Carried::by(model);
    let mut made = layout.placed(&carried, observer)?;
    let edge = edge * layout.scale;
    if let Some(rest) = layout.unmapped() {
        // Two triangles make four quads: with sides half as long, of the same area.
        let coarse = even::even_options(options, Target::Edge(2.0 * edge * 1.07));
        let rest = even::followed(&rest, options);
        made.add_paired(&rest, &coarse, &carried, observer)?;
    }
    let mut model = Model::from(made.mesh);
    carried.give_to(&mut model);
    Ok(QuadOutcome {
        model,
        edge,
        parts: whole.len(),
        parts_paired: layout.is_paired.iter().filter(|paired| **paired).count(),
        quads_paired: made.quads_paired,
        irregular: made.irregular,
        feature_edges: made.feature_edges,
        crossing: made.crossing,
    })
}

#[cfg(test)]
mod option_tests;
#[cfg(test)]
mod tests;
