//! The faces at every vertex, in one list.

use crate::mesh::{FaceId, Mesh, VertexId};

/// The faces at every vertex.
pub struct FacesAt {
    starts: Vec<u32>,
    faces: Vec<FaceId>,
}

impl FacesAt {
    /// Of a mesh: by vertex in the order of the faces. Cost: two passes over its corners.
    pub fn of(mesh: &Mesh) -> Self {
        let mut starts = vec![0u32; mesh.vertex_count() + 1];
        for vertex in mesh.corners() {
            starts[vertex.index() + 1] += 1;
        }
        for i in 1..starts.len() {
            starts[i] += starts[i - 1];
        }
        let mut next = starts.clone();
        let mut faces = vec![FaceId(0); mesh.corners().len()];
        for (face, corners) in mesh.faces() {
            for vertex in corners {
                let slot = &mut next[vertex.index()];
                faces[*slot as usize] = face;
                *slot += 1;
            }
        }
        Self { starts, faces }
    }

    /// The faces at a vertex; one that passes it twice is there twice.
    #[inline]
    pub fn of_vertex(&self, vertex: VertexId) -> &[FaceId] {
        let [from, to] = [0, 1].map(|i| self.starts[vertex.index() + i] as usize);
        &self.faces[from..to]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;
    use glam::DVec3;

    #[test]
    fn faces_are_reached_at_every_vertex() {
        let mesh = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
        let at = FacesAt::of(&mesh);
        for vertex in mesh.vertex_ids() {
            let all = mesh.faces().filter(|(_, face)| face.contains(&vertex));
            let all: Vec<FaceId> = all.map(|(face, _)| face).collect();
            assert_eq!(at.of_vertex(vertex), all);
        }
    }
}
