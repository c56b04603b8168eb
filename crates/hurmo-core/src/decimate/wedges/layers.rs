//! What wedges come to in the end: layers of UVs and normals over the triangles that are left.

use super::Wedges;
use crate::mesh::{CornerLayer, NO_VALUE};
use crate::topology::LinkedMesh;
use glam::{DVec2, DVec3};

impl Wedges {
    /// By corner of the linked mesh's living triangles, in their order, the side of a crack that it is on;
    /// `None` where no cracks are.
    pub fn sides_of_cracks(&self, linked: &LinkedMesh) -> Option<Vec<u32>> {
        let living = || self.living(linked).into_iter();
        (!self.sides.is_empty()).then(|| living().map(|w| self.sides[w as usize]).collect())
    }

    /// By corner of the linked mesh's living triangles, in their order, the wedge.
    fn living(&self, linked: &LinkedMesh) -> Vec<u32> {
        let living = (0..linked.places() as u32).filter(|&t| linked.triangle(t).is_some());
        living.flat_map(|t| self.of_triangle(3 * t)).collect()
    }

    /// The UVs of the linked mesh's living triangles, in their order, by set.
    pub fn uvs(&self, linked: &LinkedMesh) -> Vec<CornerLayer<DVec2>> {
        let living = match self.uv_sets.is_empty() {
            true => Vec::new(),
            false => self.living(linked),
        };
        let sets = self.uv_sets.iter();
        sets.map(|set| compact(set.values(), &living)).collect()
    }

    /// Normals for the linked mesh's living triangles, if the model had any: made anew from the shape,
    /// one for each wedge.
    pub fn normals(&self, linked: &LinkedMesh) -> Option<CornerLayer<DVec3>> {
        if !self.has_normals {
            return None;
        }
        let mut normals = vec![DVec3::ZERO; self.count];
        for t in 0..linked.places() as u32 {
            if let Some(triangle) = linked.triangle(t) {
                let [a, b, c] = linked.points(triangle);
                for wedge in self.of_triangle(3 * t) {
                    normals[wedge as usize] += (b - a).cross(c - a);
                }
            }
        }
        let normals: Vec<DVec3> = normals.into_iter().map(DVec3::normalize_or_zero).collect();
        Some(compact(&normals, &self.living(linked)))
    }
}

/// Only the values that corners use, each once.
fn compact<T: Copy + PartialEq>(values: &[T], index: &[u32]) -> CornerLayer<T> {
    let mut name = vec![NO_VALUE; values.len()];
    let mut layer = CornerLayer {
        values: Vec::new(),
        index: Vec::with_capacity(index.len()),
    };
    for &wedge in index {
        let value = values[wedge as usize];
        let name = &mut name[wedge as usize];
        #[allow(clippy::eq_op)] // What is no number is not equal to itself.
        if *name == NO_VALUE && value == value {
            *name = layer.values.len() as u32;
            layer.values.push(value);
        }
        layer.index.push(*name);
    }
    layer
}
