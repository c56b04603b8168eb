//! Vertices with a coordinate that is no usable number, and the faces on them.
//!
//! A mesh has no such position. So a vertex whose file has one stands where the first usable one
//! does, and a face on it has all its corners on one vertex: it is there, and covers nothing.

use super::{FaceId, VertexId, is_usable};
use glam::DVec3;

/// What a file holds that can't be used.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Unusable {
    /// Vertices, sorted.
    pub vertices: Vec<VertexId>,
    /// The faces on them, sorted.
    pub faces: Vec<FaceId>,
}

impl Unusable {
    /// Whether there is nothing of the kind.
    pub fn is_empty(&self) -> bool {
        self.vertices.is_empty()
    }

    /// Whether a vertex is one of them: it has no place, and so is at none with others.
    pub fn has(&self, vertex: VertexId) -> bool {
        self.vertices.binary_search(&vertex).is_ok()
    }

    /// Whether a face is on one of them.
    pub fn is_under(&self, face: FaceId) -> bool {
        self.faces.binary_search(&face).is_ok()
    }

    /// Makes arrays of what a mesh may hold, and says what that concerns. `None`, and nothing is
    /// changed, where nothing usable is left: no vertex, or no face of those that there are.
    pub fn set_aside(
        positions: &mut [DVec3],
        corners: &mut [VertexId],
        starts: &[u32],
    ) -> Option<Self> {
        let is_bad: Vec<bool> = positions.iter().map(|&p| !is_usable(p)).collect();
        let stand_in = positions[is_bad.iter().position(|bad| !bad)?];
        let bad = |vertex: &VertexId| is_bad[vertex.index()];
        let run = |face: usize| starts[face] as usize..starts[face + 1] as usize;
        let count = starts.len().saturating_sub(1);
        let faces: Vec<FaceId> = (0..count)
            .filter(|&face| corners[run(face)].iter().any(bad))
            .map(FaceId::new)
            .collect();
        if count > 0 && faces.len() == count {
            return None;
        }
        for face in &faces {
            let corners = &mut corners[run(face.index())];
            let one = corners.iter().copied().find(|v| !bad(v));
            let one = one.unwrap_or(corners[0]);
            corners.fill(one);
        }
        let vertices = (0..positions.len()).filter(|&v| is_bad[v]);
        let vertices: Vec<VertexId> = vertices.map(VertexId::new).collect();
        for vertex in &vertices {
            positions[vertex.index()] = stand_in;
        }
        Some(Self { vertices, faces })
    }
}
