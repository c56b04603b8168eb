//! What lies round rims: the faces of two rings, cut into triangles.

use super::border::Border;
use super::fair::Surroundings;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::triangulate::polygon;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

/// The faces at the vertices of some rims and at their neighbours.
pub(super) struct FacesNear {
    at: FxHashMap<VertexId, Vec<FaceId>>,
    on_rim: FxHashSet<VertexId>,
}

impl FacesNear {
    /// Of all these vertices. Cost: two looks at every face of the mesh.
    pub fn of(mesh: &Mesh, rims: impl Iterator<Item = VertexId>) -> Self {
        let on_rim: FxHashSet<VertexId> = rims.collect();
        let mut near = vec![false; mesh.vertex_count()];
        for vertex in &on_rim {
            near[vertex.index()] = true;
        }
        let touching: Vec<FaceId> = mesh
            .faces()
            .filter(|(_, corners)| corners.iter().any(|v| near[v.index()]))
            .map(|(face, _)| face)
            .collect();
        for vertex in touching.iter().flat_map(|&face| mesh.face(face)) {
            near[vertex.index()] = true;
        }
        let mut at: FxHashMap<VertexId, Vec<FaceId>> = FxHashMap::default();
        for (face, corners) in mesh.faces() {
            for vertex in corners.iter().filter(|v| near[v.index()]) {
                at.entry(*vertex).or_default().push(face);
            }
        }
        Self { at, on_rim }
    }

    fn at(&self, vertex: VertexId) -> &[FaceId] {
        self.at.get(&vertex).map_or(&[], Vec::as_slice)
    }

    /// The surroundings of a border.
    pub fn around(&self, mesh: &Mesh, border: &Border) -> Surroundings {
        let mut number: FxHashMap<VertexId, u32> = FxHashMap::default();
        for (i, &vertex) in border.vertices.iter().enumerate() {
            number.insert(vertex, i as u32);
        }
        let first: FxHashSet<FaceId> = border
            .vertices
            .iter()
            .flat_map(|&v| self.at(v))
            .copied()
            .collect();
        let ring: FxHashSet<VertexId> = first.iter().flat_map(|&f| mesh.face(f)).copied().collect();
        let mut faces: Vec<FaceId> = ring.iter().flat_map(|&v| self.at(v)).copied().collect();
        faces.sort_unstable();
        faces.dedup();
        let mut around = Surroundings::default();
        let mut points = Vec::new();
        for face in faces {
            if mesh.is_collapsed(face) {
                continue;
            }
            let corners: Vec<u32> = mesh
                .face(face)
                .iter()
                .map(|&vertex| {
                    *number.entry(vertex).or_insert_with(|| {
                        around.points.push(mesh.position(vertex));
                        // On another rim, or with faces that are not here.
                        let complete = ring.contains(&vertex) && !self.on_rim.contains(&vertex);
                        around.complete.push(complete);
                        (border.vertices.len() + around.points.len() - 1) as u32
                    })
                })
                .collect();
            points.clear();
            points.extend(mesh.face_points(face));
            let cut = polygon(&points);
            around
                .triangles
                .extend(cut.iter().map(|t| t.map(|i| corners[i as usize])));
        }
        around
    }

    /// For every vertex of a border, the mean length of the edges at it: of the border's own where
    /// no face is there.
    pub fn scales(&self, mesh: &Mesh, border: &Border) -> Vec<f64> {
        let count = border.vertices.len();
        let scale = |i: usize| {
            let vertex = border.vertices[i];
            let here = mesh.position(vertex);
            if self.at(vertex).is_empty() {
                let beside = [i + 1, i + count - 1].map(|j| border.vertices[j % count]);
                return beside
                    .map(|v| here.distance(mesh.position(v)))
                    .iter()
                    .sum::<f64>()
                    / 2.0;
            }
            let (mut sum, mut count) = (0.0, 0usize);
            for &face in self.at(vertex) {
                let corners = mesh.face(face);
                for (i, &corner) in corners.iter().enumerate() {
                    let next = corners[(i + 1) % corners.len()];
                    let other: DVec3 = match (corner == vertex, next == vertex) {
                        (true, false) => mesh.position(next),
                        (false, true) => mesh.position(corner),
                        _ => continue,
                    };
                    sum += here.distance(other);
                    count += 1;
                }
            }
            sum / count.max(1) as f64
        };
        (0..count).map(scale).collect()
    }
}
