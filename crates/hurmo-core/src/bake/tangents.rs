//! Tangent space: which way a texture runs on a surface.
//!
//! At each corner the ways to the right and up in the texture are the means of those of the faces round
//! it that have the same normal and UV there, by angle, made perpendicular to the normal; in between they
//! are blended and not made perpendicular again (Mikkelsen 2008). Programs that make tangents of their own
//! from normals and UVs do it so.

use super::texels::{Triangle, triangles};
use super::{CornerLayer, DVec2, DVec3, Model};
use crate::geometry::corner_angle;
use glam::DMat3;
use rustc_hash::FxHashMap;

/// Tangents and normals by corner.
pub struct Frames {
    normals: CornerLayer<DVec3>,
    /// By corner: to the right, and whether up is on the left of that, seen along the normal.
    tangents: Vec<(DVec3, f64)>,
}

/// A place's three ways.
pub struct Frame(DMat3);

impl Frames {
    /// Of a model with UVs and these normals.
    pub fn of(model: &Model, normals: CornerLayer<DVec3>) -> Self {
        let mesh = &model.mesh;
        let layer = model.attributes.uvs.as_ref();
        let key = |corner: usize| {
            let uv = layer.and_then(|layer| layer.at(corner)).unwrap_or_default();
            let normal = normals.at(corner).unwrap_or_default();
            let bits = |x: f64| (x + 0.0).to_bits();
            (
                mesh.corners()[corner],
                [uv.x, uv.y].map(bits),
                normal.to_array().map(bits),
            )
        };
        // Mirrored faces beside others have tangents of their own.
        let mut sums: FxHashMap<_, DVec3> = FxHashMap::default();
        let all = triangles(model);
        for triangle in &all {
            let Some((right, hand)) = right(triangle) else {
                continue;
            };
            for (i, &corner) in triangle.corners.iter().enumerate() {
                let normal = normals.at(corner as usize).unwrap_or(triangle.facing);
                let flat = right.reject_from_normalized(normal.normalize_or(DVec3::Z));
                let [here, one, other] = [0, 1, 2].map(|k| triangle.points[(i + k) % 3]);
                let angle = corner_angle(here, [one, other]);
                *sums.entry((key(corner as usize), hand > 0.0)).or_default() +=
                    flat.normalize_or_zero() * angle;
            }
        }
        let mut tangents = vec![(DVec3::ZERO, 1.0); mesh.corners().len()];
        for triangle in &all {
            let hand = right(triangle).map_or(1.0, |(_, hand)| hand);
            for &corner in &triangle.corners {
                let sum = sums.get(&(key(corner as usize), hand > 0.0));
                let sum = sum.map_or(DVec3::ZERO, |sum| sum.normalize_or_zero());
                tangents[corner as usize] = (sum, hand);
            }
        }
        Self { normals, tangents }
    }

    /// The frame of a place on a triangle, by its shares of the corners.
    pub fn at(&self, triangle: &Triangle, shares: [f64; 3]) -> Frame {
        let (mut normal, mut right) = (DVec3::ZERO, DVec3::ZERO);
        let mut hand = 1.0;
        for (&corner, share) in triangle.corners.iter().zip(shares) {
            let own = self.normals.at(corner as usize);
            normal += own.unwrap_or(triangle.facing) * share;
            let (tangent, own) = self.tangents[corner as usize];
            right += tangent * share;
            hand = own;
        }
        let up = normal.cross(right) * hand;
        Frame(DMat3::from_cols(right, up, normal))
    }
}

impl Frame {
    /// A direction in space, as the frame has it.
    pub fn inward(&self, direction: DVec3) -> DVec3 {
        let inward = self.0.inverse() * direction;
        match inward.is_finite() {
            true => inward.normalize_or(DVec3::Z),
            false => DVec3::Z,
        }
    }
}

/// The way to the right in the texture, and 1 where up is on its left, -1 where the texture is mirrored.
fn right(triangle: &Triangle) -> Option<(DVec3, f64)> {
    let [a, b, c] = triangle.points;
    let [p, q, r] = triangle.uvs;
    let (u, v): (DVec2, DVec2) = (q - p, r - p);
    let area = u.perp_dot(v);
    let right = ((b - a) * v.y - (c - a) * u.y) * area.signum();
    (area != 0.0 && right != DVec3::ZERO).then(|| (right.normalize_or_zero(), area.signum()))
}
