//! Small parts, which may go if that is allowed.

use super::reduce::Reduction;
use super::vertex_class::VertexClass;
use crate::geometry::Bounds;
use crate::mesh::{Model, VertexId};
use crate::topology::Parts;

/// By vertex, how far its part reaches across, where that is less than `under`.
pub(super) fn small_parts(model: &Model, under: f64) -> Vec<Option<f32>> {
    let mesh = &model.mesh;
    let parts = Parts::of(mesh);
    let mut bounds: Vec<Option<Bounds>> = vec![None; parts.len()];
    let part = |v: usize| parts.of_vertex(VertexId(v as u32));
    for (v, &at) in mesh.positions().iter().enumerate() {
        if let Some(part) = part(v) {
            let own = &mut bounds[part.index()];
            *own = Bounds::of(own.iter().flat_map(|b| [b.min, b.max]).chain([at]));
        }
    }
    let across = |v: usize| Some(bounds[part(v)?.index()]?.diagonal());
    (0..mesh.vertex_count())
        .map(|v| {
            across(v)
                .filter(|&across| across < under)
                .map(|across| across as f32)
        })
        .collect()
}

impl Reduction {
    /// What it costs to take the part at a vertex away, if it may go and has become as small as a
    /// part can: the squares of distances over its area, were it drawn together in a point.
    pub fn cost_to_drop(&self, vertex: u32) -> Option<f64> {
        let across = f64::from(self.small.as_ref()?[vertex as usize]?);
        let vertices = self.smallest_part(vertex)?;
        let areas = vertices.iter().map(|&v| self.quadrics[v as usize].weight());
        Some(areas.sum::<f64>() * across * across / 4.0)
    }

    /// Takes away the part at a vertex.
    pub fn drop_part(&mut self, vertex: u32) {
        for v in self.smallest_part(vertex).unwrap_or_default() {
            let there: Vec<u32> = self.linked.around(v).map(|(t, _)| t).collect();
            for t in there {
                if let Some(shares) = &mut self.shares {
                    let share = shares.of_origin[self.origins[t as usize] as usize];
                    shares.living[share as usize] -= 1;
                }
                self.linked.remove(t);
            }
            // So that no edge that still waits is tried again.
            self.kinds[v as usize] = VertexClass::Held;
        }
    }

    /// The vertices of the part at a vertex, if it has no more than four and all are free.
    fn smallest_part(&self, vertex: u32) -> Option<Vec<u32>> {
        let mut vertices = vec![vertex];
        let mut next = 0;
        while let Some(&here) = vertices.get(next) {
            next += 1;
            if self.kinds[here as usize] == VertexClass::Held {
                return None;
            }
            for (_, triangle) in self.linked.around(here) {
                for v in triangle {
                    if !vertices.contains(&v) {
                        vertices.push(v);
                    }
                }
            }
            if vertices.len() > 4 {
                return None;
            }
        }
        Some(vertices)
    }
}
