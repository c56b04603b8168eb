//! How a surface lies in its texture: the layout of UVs, its islands, and what lies on what.
//!
//! ```text
//! UVs of corners ─▶ Layout: triangles in the plane, of the faces all of whose corners have UVs
//!     ├─▶ islands (faces joined across edges at which their UVs agree)
//!     ├─▶ overlaps (pairs of triangles whose insides meet, by exact predicates)
//!     └─▶ the share of the tile that is used (sampled)
//! surface ─▶ charts, flattened and packed: a new layout (`atlas`)
//! ```

pub mod atlas;
mod coverage;
mod islands;
mod overlap;

pub use coverage::tile_used;
pub use islands::Islands;
pub use overlap::{LITTLE, Overlaps};

use crate::mesh::{CornerLayer, FaceId, Mesh, Model};
use crate::triangulate::polygon;
use glam::{DVec2, DVec3};

/// A surface in the plane of its texture.
pub struct Layout<'m> {
    mesh: &'m Mesh,
    /// The UVs by corner.
    pub layer: &'m CornerLayer<DVec2>,
    /// Triangles by their corners in the mesh: faces, and polygons cut up as their shape asks.
    triangles: Vec<[u32; 3]>,
    /// By triangle its face.
    of: Vec<FaceId>,
    /// By face its area in the plane, negative where it runs clockwise; nothing where a corner has no
    /// UV.
    areas: Vec<Option<f64>>,
}

impl<'m> Layout<'m> {
    /// The layout of a model by its first set of UVs; none without.
    pub fn of(model: &'m Model) -> Option<Self> {
        Self::of_set(model, 0)
    }

    /// The layout of a model by one of its sets of UVs, from 0; none without.
    pub fn of_set(model: &'m Model, set: usize) -> Option<Self> {
        let layer = model.attributes.uv_set(set)?;
        let mesh = &model.mesh;
        let mut layout = Self {
            mesh,
            layer,
            triangles: Vec::with_capacity(mesh.face_count()),
            of: Vec::with_capacity(mesh.face_count()),
            areas: Vec::with_capacity(mesh.face_count()),
        };
        for face in mesh.face_ids() {
            let range = mesh.face_range(face);
            let area = layout.area_of(face);
            layout.areas.push(area);
            if area.is_none() || range.len() < 3 {
                continue;
            }
            let first = range.start as u32;
            if range.len() == 3 {
                layout.add(face, [first, first + 1, first + 2]);
                continue;
            }
            let points: Vec<DVec3> = mesh.face_points(face).collect();
            for triangle in polygon(&points) {
                layout.add(face, triangle.map(|corner| first + corner));
            }
        }
        Some(layout)
    }

    fn add(&mut self, face: FaceId, corners: [u32; 3]) {
        self.triangles.push(corners);
        self.of.push(face);
    }

    /// The area of a polygon (Gauss's formula), if all its corners have UVs that are numbers.
    fn area_of(&self, face: FaceId) -> Option<f64> {
        let mut twice = 0.0;
        let range = self.mesh.face_range(face);
        let first = self.layer.at(range.start)?;
        for corner in range {
            let here = self.layer.at(corner)?;
            let next = self.layer.at(self.mesh.next_corner(face, corner))?;
            // About the first corner, so that far from the tile nothing is lost.
            twice += (here - first).perp_dot(next - first);
        }
        twice.is_finite().then_some(twice / 2.0)
    }

    /// A face's area in the plane, negative where it runs clockwise: mirrored. None without UVs.
    pub fn area(&self, face: FaceId) -> Option<f64> {
        self.areas[face.index()]
    }

    /// A face's UVs, in order.
    pub fn corners(&self, face: FaceId) -> impl Iterator<Item = DVec2> + '_ {
        let range = self.mesh.face_range(face);
        range.filter_map(|corner| self.layer.at(corner))
    }

    /// How many triangles there are.
    pub fn len(&self) -> usize {
        self.triangles.len()
    }

    /// Whether no face has UVs.
    pub fn is_empty(&self) -> bool {
        self.triangles.is_empty()
    }

    /// A triangle's UVs.
    pub fn triangle(&self, triangle: usize) -> [DVec2; 3] {
        self.triangles[triangle].map(|corner| self.layer.values[self.index(corner)])
    }

    /// The face of a triangle.
    pub fn face(&self, triangle: usize) -> FaceId {
        self.of[triangle]
    }

    fn index(&self, corner: u32) -> usize {
        self.layer.index[corner as usize] as usize
    }
}

#[cfg(test)]
mod tests;
