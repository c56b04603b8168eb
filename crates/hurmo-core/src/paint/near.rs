//! What an original looks like nearest to a place.

use super::{Original, Source};
use crate::mesh::CornerLayer;
use glam::DVec3;

/// The place of an original that is nearest to another.
#[derive(Clone, Copy, Debug)]
pub struct Near {
    /// Its triangle.
    pub triangle: u32,
    /// Where it is.
    pub point: DVec3,
    /// How far off.
    pub off: f64,
    /// Its colour: red, green, blue, alpha; nothing where nothing gives it one.
    pub color: Option<[f32; 4]>,
    /// Which way the triangle faces.
    pub facing: DVec3,
}

impl Original<'_> {
    /// What lies nearest to a place, no further than a limit; found sooner from a triangle that is near.
    pub fn near(&self, place: DVec3, within: f64, from: Option<u32>) -> Option<Near> {
        let found = self.carried.closest_from(place, from.unwrap_or(u32::MAX))?;
        let off = found.distance_squared.sqrt();
        if off > within {
            return None;
        }
        let (color, source) = self.color(found.triangle, found.point);
        Some(Near {
            triangle: found.triangle,
            point: found.point,
            off,
            color: (source != Source::Nothing).then_some(color),
            facing: self.carried.normal(found.triangle).normalize_or_zero(),
        })
    }

    /// The normal there, by those of the corners; where there are none, that of the triangle.
    pub fn normal(&self, near: &Near, layer: &CornerLayer<DVec3>) -> DVec3 {
        let corners = self.corners(near.triangle);
        let shares = self.carried.shares(near.triangle, near.point);
        let normals = corners.into_iter().zip(shares).map(|(corner, share)| {
            let normal = corner.and_then(|corner| layer.at(corner));
            normal.map(|normal| normal * share)
        });
        let sum: Option<DVec3> = normals.sum();
        sum.and_then(DVec3::try_normalize).unwrap_or(near.facing)
    }

    /// The corners of a triangle's face that it has.
    pub(super) fn corners(&self, triangle: u32) -> [Option<usize>; 3] {
        let mesh = &self.carried.model().mesh;
        let face = self.carried.faces()[triangle as usize];
        self.carried.triangles()[triangle as usize].map(|vertex| {
            let mut of_face = mesh.face_range(face);
            of_face.find(|&corner| mesh.corners()[corner] == vertex)
        })
    }
}
