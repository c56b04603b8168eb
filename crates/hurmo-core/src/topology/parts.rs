//! Parts: connected components through shared vertices, named by falling face count.

use super::{Edges, UnionFind};
use crate::mesh::{FaceId, Mesh, PartId, VertexId};

/// One part.
#[derive(Clone, Debug, PartialEq)]
pub struct Part {
    /// How many faces.
    pub faces: usize,
    /// Its lowest vertex, which settles ties of names.
    pub lowest_vertex: VertexId,
}

/// The parts of a mesh.
#[derive(Clone, Debug)]
pub struct Parts {
    list: Vec<Part>,
    of_vertex: Vec<PartId>,
}

const NO_PART: PartId = PartId(u32::MAX);

impl Parts {
    /// Finds the parts: every face counts, also those that repeat a vertex.
    pub fn of(mesh: &Mesh) -> Self {
        let mut sets = UnionFind::new(mesh.vertex_count());
        for (_, vertices) in mesh.faces() {
            for pair in vertices.windows(2) {
                sets.join(pair[0].0, pair[1].0);
            }
        }
        let mut faces_at_root = vec![0usize; mesh.vertex_count()];
        for (_, vertices) in mesh.faces() {
            if let Some(first) = vertices.first() {
                faces_at_root[sets.find(first.0) as usize] += 1;
            }
        }
        let mut list: Vec<Part> = faces_at_root
            .iter()
            .enumerate()
            .filter(|&(_, &faces)| faces > 0)
            .map(|(root, &faces)| Part {
                faces,
                lowest_vertex: VertexId::new(root),
            })
            .collect();
        list.sort_by_key(|part| (std::cmp::Reverse(part.faces), part.lowest_vertex));

        let mut of_vertex = vec![NO_PART; mesh.vertex_count()];
        for (name, part) in list.iter().enumerate() {
            of_vertex[part.lowest_vertex.index()] = PartId::new(name);
        }
        // A root is the lowest member of its set, so it has its name already.
        for vertex in 0..mesh.vertex_count() {
            of_vertex[vertex] = of_vertex[sets.find(vertex as u32) as usize];
        }
        Self { list, of_vertex }
    }

    /// How many parts.
    pub fn len(&self) -> usize {
        self.list.len()
    }

    /// Whether there is no face at all.
    pub fn is_empty(&self) -> bool {
        self.list.is_empty()
    }

    /// The parts, in the order of their names.
    pub fn list(&self) -> &[Part] {
        &self.list
    }

    /// For every part, whether it has an edge with one side only.
    pub fn open(&self, mesh: &Mesh, edges: &Edges) -> Vec<bool> {
        self.with_sides(mesh, edges, |sides| sides == 1)
    }

    /// For every part, whether all its edges have two sides, and no face repeats a vertex.
    pub fn closed(&self, mesh: &Mesh, edges: &Edges) -> Vec<bool> {
        let mut closed = self.with_sides(mesh, edges, |sides| sides != 2);
        closed.iter_mut().for_each(|open| *open = !*open);
        for face in mesh.face_ids().filter(|&face| mesh.is_collapsed(face)) {
            if let Some(part) = self.of_face(mesh, face) {
                closed[part.index()] = false;
            }
        }
        closed
    }

    /// For every part, whether it has an edge with such a number of sides.
    fn with_sides(&self, mesh: &Mesh, edges: &Edges, such: impl Fn(usize) -> bool) -> Vec<bool> {
        let mut found = vec![false; self.len()];
        for edge in edges.ids() {
            let sides = edges.sides(edge);
            if such(sides.len())
                && let Some(part) = self.of_face(mesh, sides[0].face)
            {
                found[part.index()] = true;
            }
        }
        found
    }

    /// The part that a vertex is in; `None` for a vertex in no face.
    #[inline]
    pub fn of_vertex(&self, vertex: VertexId) -> Option<PartId> {
        let part = self.of_vertex[vertex.index()];
        (part != NO_PART).then_some(part)
    }

    /// The part that a face is in; `None` for a face without corners.
    #[inline]
    pub fn of_face(&self, mesh: &Mesh, face: FaceId) -> Option<PartId> {
        mesh.face(face).first().and_then(|&v| self.of_vertex(v))
    }
}
