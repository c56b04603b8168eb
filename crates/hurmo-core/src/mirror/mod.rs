//! Mirror symmetry: finding the plane, taking one half, and making a whole of it again.
//!
//! ```text
//! model ─▶ plane across x, y or z, through the middle, about which it is its own image
//!       ─▶ half, cut along the plane ─▶ (whatever is done to it) ─▶ half and its image, joined
//! ```
//!
//! A model whose two sides are triangulated differently, or whose triangles straddle the plane,
//! is as good as one that was mirrored when it was made: only its shape is asked. What the two
//! sides carry may differ: groups, materials and colours stay on their own side; UVs must be the
//! same on both, since one place in a texture cannot be distinguished from another by shape.
//! Cost: a query for each vertex; otherwise linear.

mod halve;
mod twins;
mod whole;

pub use halve::{Half, Unfit};
pub(crate) use twins::Twins;
pub use whole::whole;

use crate::measure::{area_samples, bounds};
use crate::mesh::Mesh;
use crate::spatial::TriangleTree;
use crate::triangulate::all_triangles;
use crate::units::Axis;
use glam::DVec3;

/// How far a model may lie from its image, as a share of its diagonal.
pub const SYMMETRIC: f64 = 1e-3;
/// A plane so near to the origin, as a share of the diagonal, goes through it.
const AT_ORIGIN: f64 = 1e-6;
/// The number of points sampled to find the axis.
const FEW: usize = 4_000;
/// The number of points sampled by area, besides all vertices, to measure how far it is off.
const MANY: usize = 100_000;

/// A plane across an axis.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Mirror {
    /// Which axis it stands square to.
    pub axis: Axis,
    /// Where on that axis.
    pub at: f64,
}

/// A mirror that a model was held against.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Symmetry {
    /// The plane.
    pub mirror: Mirror,
    /// How far the model lies from its image at most, at its vertices and some points of its area.
    pub off: f64,
    /// Whether that is near enough.
    pub is_symmetric: bool,
}

impl Mirror {
    /// The image of a point.
    pub fn image(&self, mut point: DVec3) -> DVec3 {
        point[self.axis as usize] = 2.0 * self.at - point[self.axis as usize];
        point
    }

    /// The image of a direction.
    pub fn turned(&self, mut way: DVec3) -> DVec3 {
        way[self.axis as usize] = -way[self.axis as usize];
        way
    }

    /// How far before the plane a point lies, on the side that is kept.
    pub fn before(&self, point: DVec3) -> f64 {
        point[self.axis as usize] - self.at
    }

    /// Whether a point lies on it, to the last bit.
    pub fn holds(&self, point: DVec3) -> bool {
        point[self.axis as usize] == self.at
    }

    /// The point of the plane nearest to another.
    pub fn onto(&self, mut point: DVec3) -> DVec3 {
        point[self.axis as usize] = self.at;
        point
    }
}

/// The plane through a model's middle that it comes nearest to being symmetric about, across one
/// axis or whichever is best. `None` for a model without faces.
pub fn find(mesh: &Mesh, axis: Option<Axis>) -> Option<Symmetry> {
    let bounds = bounds(mesh)?;
    let diagonal = bounds.diagonal();
    let (triangles, _) = all_triangles(mesh);
    let corners = |i: usize| triangles[i].map(|v| mesh.position(v));
    let tree = TriangleTree::new(triangles.len(), corners);
    let off = |mirror: &Mirror, points: &[DVec3]| {
        let images: Vec<DVec3> = points.iter().map(|&point| mirror.image(point)).collect();
        let found = tree.closest_to_each(&images).into_iter().flatten();
        let most = found
            .map(|found| found.distance_squared)
            .fold(0.0, f64::max);
        most.sqrt()
    };
    let across = |axis: Axis| {
        let at = bounds.middle()[axis as usize];
        let at = if at.abs() <= AT_ORIGIN * diagonal {
            0.0
        } else {
            at
        };
        Mirror { axis, at }
    };
    let points = |samples| -> Vec<DVec3> {
        let samples = area_samples(mesh, samples);
        samples.into_iter().map(|(point, _)| point).collect()
    };
    let few = points(FEW);
    let tried = Axis::ALL
        .into_iter()
        .filter(|own| axis.is_none_or(|axis| axis == *own));
    let mirror = tried
        .map(across)
        .min_by(|a, b| off(a, &few).total_cmp(&off(b, &few)))?;
    let mut all = points(MANY);
    let used = mesh.used_vertices();
    let vertices = mesh.positions().iter().zip(used).filter(|(_, used)| *used);
    all.extend(vertices.map(|(point, _)| *point));
    let off = off(&mirror, &all);
    Some(Symmetry {
        mirror,
        off,
        is_symmetric: off <= SYMMETRIC * diagonal,
    })
}

#[cfg(test)]
mod tests;
