//! The edge table: every distinct edge, and the face sides on it.
//!
//! In: a mesh of any quality. Out: edges sorted by their lower, then their higher vertex, each
//! with all its sides. Faces that repeat a vertex have no sides (`docs/checks.md`).
//!
//! Cost: that of [`by_ends`](super::by_ends); 54 bytes a triangle when done.

use super::by_ends::{OnEdge, Sources, rows};
use crate::mesh::{EdgeId, FaceId, Mesh, VertexId};
use crate::parallel::{for_each, mapped};
use std::sync::atomic::{AtomicU32, Ordering::Relaxed};

/// One side of a face, lying on an edge.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Side {
    /// The corner where the side begins, doubled, plus 1 if it runs up.
    packed: u32,
    /// The face.
    pub face: FaceId,
}

impl Side {
    /// Index of the corner where the side begins; it runs to the face's next corner.
    #[inline]
    pub fn corner(self) -> usize {
        (self.packed >> 1) as usize
    }

    /// Whether the side runs its edge from the lower to the higher vertex.
    #[inline]
    pub fn runs_up(self) -> bool {
        self.packed & 1 == 1
    }
}

/// All edges of a mesh.
#[derive(Clone, Debug)]
pub struct Edges {
    ends: Vec<[VertexId; 2]>,
    side_starts: Vec<u32>,
    sides: Vec<Side>,
    corner_edge: Vec<EdgeId>,
}

const NO_EDGE: EdgeId = EdgeId(u32::MAX);

impl Edges {
    /// Finds the edges of a mesh.
    pub fn of(mesh: &Mesh) -> Self {
        Self::found(&Faces {
            mesh,
            count: mesh.face_count(),
            face: FaceId::new,
        })
    }

    /// Finds the edges of some faces of a mesh, in rising order: their other faces are not looked at.
    pub fn of_faces(mesh: &Mesh, faces: &[FaceId]) -> Self {
        Self::found(&Faces {
            mesh,
            count: faces.len(),
            face: |i| faces[i],
        })
    }

    fn found<F: Fn(usize) -> FaceId + Sync>(faces: &Faces<'_, F>) -> Self {
        let found = rows(faces, Row::of);
        let edge_count = found.iter().map(|row| row.ends.len()).sum();
        let mut ends = Vec::with_capacity(edge_count);
        let mut side_starts = Vec::with_capacity(edge_count + 1);
        let mut sides = Vec::with_capacity(found.iter().map(|row| row.sides.len()).sum());
        for row in found {
            let first = sides.len() as u32;
            side_starts.extend(row.side_starts.iter().map(|start| first + start));
            ends.extend_from_slice(&row.ends);
            sides.extend_from_slice(&row.sides);
        }
        side_starts.push(sides.len() as u32);
        let none = |_| AtomicU32::new(NO_EDGE.0);
        let corner_edge: Vec<AtomicU32> = mapped(faces.mesh.corners().len(), 4096, none);
        for_each(side_starts.len() - 1, 4096, |edge| {
            let span = side_starts[edge] as usize..side_starts[edge + 1] as usize;
            for side in &sides[span] {
                corner_edge[side.corner()].store(edge as u32, Relaxed);
            }
        });
        let corner_edge = corner_edge
            .into_iter()
            .map(|edge| EdgeId(edge.into_inner()));
        Self {
            ends,
            side_starts,
            sides,
            corner_edge: corner_edge.collect(),
        }
    }

    /// How many edges.
    pub fn len(&self) -> usize {
        self.ends.len()
    }

    /// Whether there is no edge at all.
    pub fn is_empty(&self) -> bool {
        self.ends.is_empty()
    }

    /// Every edge's handle.
    pub fn ids(&self) -> impl ExactSizeIterator<Item = EdgeId> + Clone + use<> {
        (0..self.ends.len()).map(EdgeId::new)
    }

    /// The two vertices of an edge, the lower first.
    #[inline]
    pub fn ends(&self, edge: EdgeId) -> [VertexId; 2] {
        self.ends[edge.index()]
    }

    /// The face sides on an edge, by rising corner index.
    #[inline]
    pub fn sides(&self, edge: EdgeId) -> &[Side] {
        let from = self.side_starts[edge.index()] as usize;
        &self.sides[from..self.side_starts[edge.index() + 1] as usize]
    }

    /// The edge on which a face's side lies that begins at this corner; `None` in a face that
    /// repeats a vertex.
    #[inline]
    pub fn at_corner(&self, corner: usize) -> Option<EdgeId> {
        let edge = self.corner_edge[corner];
        (edge != NO_EDGE).then_some(edge)
    }

    /// Whether two face sides run the edge the same way.
    #[inline]
    pub fn is_misoriented(&self, edge: EdgeId) -> bool {
        match *self.sides(edge) {
            [a, b] => a.runs_up() == b.runs_up(),
            _ => false,
        }
    }

    /// The edge between two vertices, if there is one.
    pub fn between(&self, a: VertexId, b: VertexId) -> Option<EdgeId> {
        let wanted = if a < b { [a, b] } else { [b, a] };
        self.ends.binary_search(&wanted).ok().map(EdgeId::new)
    }
}

/// The edges of a range of lower vertices.
struct Row {
    ends: Vec<[VertexId; 2]>,
    side_starts: Vec<u32>,
    sides: Vec<Side>,
}

impl Row {
    fn of(sorted: &[OnEdge<Side>]) -> Self {
        let mut row = Self {
            ends: Vec::with_capacity(sorted.len() / 2),
            side_starts: Vec::with_capacity(sorted.len() / 2),
            sides: Vec::with_capacity(sorted.len()),
        };
        for edge in sorted.chunk_by(|a, b| a.ends == b.ends) {
            row.ends.push(edge[0].ends.map(VertexId));
            row.side_starts.push(row.sides.len() as u32);
            row.sides.extend(edge.iter().map(|side| side.item));
        }
        row
    }
}

/// Faces of a mesh, with their sides.
struct Faces<'m, F> {
    mesh: &'m Mesh,
    count: usize,
    face: F,
}

impl<F: Fn(usize) -> FaceId + Sync> Sources for Faces<'_, F> {
    type Item = Side;

    fn count(&self) -> usize {
        self.count
    }

    fn ends(&self) -> usize {
        self.mesh.vertex_count()
    }

    #[inline]
    fn each(&self, source: usize, mut visit: impl FnMut(OnEdge<Side>)) {
        let (mesh, face) = (self.mesh, (self.face)(source));
        if mesh.is_collapsed(face) {
            return;
        }
        let range = mesh.face_range(face);
        let vertices = &mesh.corners()[range.clone()];
        let mut from = vertices[0];
        for i in 0..vertices.len() {
            let to = vertices[if i + 1 == vertices.len() { 0 } else { i + 1 }];
            let corner = (range.start + i) as u32;
            let runs_up = from < to;
            visit(OnEdge {
                ends: [from.0.min(to.0), from.0.max(to.0)],
                item: Side {
                    packed: corner << 1 | u32::from(runs_up),
                    face,
                },
            });
            from = to;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::DVec3;

    fn mesh(faces: &[&[u32]]) -> Mesh {
        let mut mesh = Mesh::default();
        let count = faces.iter().flat_map(|f| f.iter()).max().unwrap() + 1;
        for i in 0..count {
            mesh.push_vertex(DVec3::new(i as f64, (i * i) as f64, 0.0));
        }
        for face in faces {
            mesh.push_face(face.iter().copied().map(VertexId));
        }
        mesh
    }

    #[test]
    fn sides_are_gathered_by_edge_whatever_their_direction() {
        let mesh = mesh(&[&[0, 1, 2], &[2, 1, 3], &[1, 2, 4], &[0, 0, 4]]);
        let edges = Edges::of(&mesh);
        assert_eq!(edges.len(), 7);
        let shared = edges.between(VertexId(2), VertexId(1)).unwrap();
        assert_eq!(edges.sides(shared).len(), 3);
        assert_eq!(edges.between(VertexId(0), VertexId(4)), None);
        assert_eq!(edges.at_corner(9), None, "the collapsed face has no sides");
        for corner in 0..9 {
            let edge = edges.at_corner(corner).unwrap();
            assert!(edges.sides(edge).iter().any(|s| s.corner() == corner));
        }
    }

    #[test]
    fn edges_of_some_faces_are_those_without_the_others() {
        let mesh = mesh(&[&[0, 1, 2], &[2, 1, 3], &[1, 2, 4]]);
        let edges = Edges::of_faces(&mesh, &[FaceId(0), FaceId(2)]);
        assert_eq!(edges.len(), 5);
        let shared = edges.between(VertexId(1), VertexId(2)).unwrap();
        let faces = edges.sides(shared).iter().map(|side| side.face.0);
        assert_eq!(faces.collect::<Vec<_>>(), [0, 2]);
        assert_eq!(edges.at_corner(4), None, "its face is not looked at");
    }

    #[test]
    fn misoriented_means_two_sides_the_same_way() {
        let good = mesh(&[&[0, 1, 2], &[2, 1, 3]]);
        let bad = mesh(&[&[0, 1, 2], &[1, 2, 3]]);
        let count = |mesh: &Mesh| {
            let edges = Edges::of(mesh);
            edges.ids().filter(|&e| edges.is_misoriented(e)).count()
        };
        assert_eq!((count(&good), count(&bad)), (0, 1));
    }
}
