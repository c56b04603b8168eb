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

mod apart;
mod assembled;
mod cleaning;
mod cones;
mod cross_field;
mod crossings;
mod curvature;
mod elimination;
mod even;
mod exact_rims;
mod extraction;
mod flow;
mod followed;
mod frames;
mod grid_map;
mod guide_paths;
mod guides;
mod layout;
mod lengths;
mod noise;
mod paired;
mod pairing;
mod piece;
mod pinches;
mod placement;
mod rounding;
mod surface;
mod symmetric;
mod unknowns;
mod wedges;

pub use flow::Flow;
pub use followed::{FOLLOWED, GuidesFollowed};
pub use symmetric::quads_symmetric;

use crate::attribute_transfer::Carried;
use crate::measure;
use crate::mesh::{Model, VertexId};
use crate::mirror::Mirror;
use crate::progress::Observer;
use crate::remesh::{DEFAULT_CREASE, RemeshError, ShortFeatures, Target};
use crate::spatial::LineTree;
use crate::topology::Parts;
use crossings::Crossings;
use glam::DVec3;
use guides::ByTriangle;
use layout::Layout;
use lengths::Lengths;
use paired::Paired;

/// A count of pairs is met if it is no further off than this share.
const PAIRED_MET: f64 = 0.03;
/// How often their sizes are changed to meet one.
const PAIRED_TRIES: usize = 4;

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

/// What faces there may be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum QuadFaces {
    /// Quads only.
    Only,
    /// Triangles as well, where quads would be bad.
    Mostly {
        /// Whether the edges and vertices of rims stay as they are: few have the numbers that quads take.
        rims_exact: bool,
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
    /// What faces there may be.
    pub faces: QuadFaces,
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
            faces: QuadFaces::Only,
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
    /// Parts for which no map was found, so that their faces are pairs of triangles, divided as a rule.
    pub parts_paired: usize,
    /// Faces of these.
    pub faces_paired: usize,
    /// Rims that are not as they were, where they should be.
    pub rims_lost: usize,
    /// Vertices inside the surface with another number of quads than four, of parts that were mapped.
    pub irregular: usize,
    /// Edges of quads on feature lines, by their ends.
    pub feature_edges: Vec<[VertexId; 2]>,
    /// Vertices where feature lines meet, end or turn.
    pub corners: Vec<VertexId>,
    /// The plane across which it is its own image to the last bit, where it was made of a half.
    pub mirror: Option<Mirror>,
    /// Quads that cross others where the model has no crossings: where it is thinner than they are long.
    pub crossing: usize,
    /// Vertices that were moved, most of them off the model, so that quads do not cross.
    pub moved_apart: usize,
}

/// Crossings of the model no further off than this many sides of quads are those that quads have.
const NEAR: f64 = 2.0;

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
    let mut even = surface::with_free_corners(even);
    let laid = guide_paths::lay(&mut even, &options.guides, edge);
    observer.begin("laying out quads", 0);
    let lengths = Lengths { edge, by_triangle };
    let guides = ByTriangle::of(&even, &options.guides, edge);
    let mut layout = Layout::of(model, &whole, &even, &lengths, &guides, observer)?;
    layout.lay_out(options.target, observer)?;
    let carried = Carried::by(model);
    let edge = edge * layout.scale;
    let crossings = Crossings::of(&model.mesh, NEAR * edge);
    let mut made = layout.placed(&carried, &crossings, observer)?;
    pinches::join(&mut made, layout.pinches());
    if let Some(rest) = layout.unmapped() {
        let rest = even::followed(&rest, options);
        let wanted = match options.target {
            QuadTarget::Count(count) => count.checked_sub(made.mesh.face_count()),
            _ => None,
        };
        let paired = paired_as_wanted(&rest, options, (edge, wanted), &carried, observer)?;
        made.add_paired(&paired);
    }
    made.drop_guides(&laid, edge);
    let crossing = match made.feature_edges.is_empty() {
        true => crossings.new_in(&made.mesh),
        false => {
            let before = made.mesh.positions().to_vec();
            made.put_on(&LineTree::of(even::lines(model, options, edge)));
            apart::take_back(&mut made, &before, &crossings)
        }
    };
    let mut crossing = apart::move_apart(&mut made, crossing, &crossings, &carried).len();
    let mut rims_lost = 0;
    if let QuadFaces::Mostly { rims_exact } = options.faces {
        if rims_exact {
            rims_lost = exact_rims::give(&mut made, &model.mesh);
        }
        made.split_bad();
        crossing = crossings.new_in(&made.mesh).faces.len();
    }
    let mut model = Model::from(made.mesh);
    carried.give_to(&mut model);
    Ok(QuadOutcome {
        model,
        edge,
        parts: whole.len(),
        parts_paired: layout.is_paired.iter().filter(|paired| **paired).count(),
        faces_paired: made.faces_paired,
        rims_lost,
        irregular: made.irregular,
        feature_edges: made.feature_edges,
        corners: made.corners,
        mirror: None,
        crossing,
        moved_apart: made.moved_apart,
    })
}

/// Pairs of triangles with sides of about `edge`, or as many as wanted.
fn paired_as_wanted(
    rest: &Model,
    options: &QuadOptions,
    (mut edge, wanted): (f64, Option<usize>),
    carried: &Carried<'_>,
    observer: &dyn Observer,
) -> Result<Paired, RemeshError> {
    let how = even::even_options(options, Target::Edge(edge));
    let is_divided = options.faces == QuadFaces::Only;
    let mut best: Option<(f64, Paired)> = None;
    for _ in 0..PAIRED_TRIES {
        let made = Paired::of(rest, how.clone(), (edge, is_divided), carried, observer)?;
        let Some(wanted) = wanted.filter(|&wanted| wanted > 0) else {
            return Ok(made);
        };
        let ratio = made.faces.len() as f64 / wanted as f64;
        let off = ratio.ln().abs();
        if best.as_ref().is_none_or(|(least, _)| off < *least) {
            best = Some((off, made));
        }
        if off < PAIRED_MET || ratio == 0.0 {
            break;
        }
        edge *= ratio.sqrt();
    }
    let (_, made) = best.expect("tried at least once");
    Ok(made)
}

/// The lines of a model that quads with sides of about `edge` follow, as pieces.
pub fn feature_lines(model: &Model, options: &QuadOptions, edge: f64) -> Vec<[DVec3; 2]> {
    even::lines(model, options, edge)
}

#[cfg(test)]
mod apart_tests;
#[cfg(test)]
mod option_tests;
#[cfg(test)]
mod rough_tests;
#[cfg(test)]
mod sharp_tests;
#[cfg(test)]
mod tests;
