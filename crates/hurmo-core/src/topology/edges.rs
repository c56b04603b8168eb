//! The edge table: every distinct edge, and the face sides on it.
//!
//! In: a mesh of any quality. Out: edges sorted by their lower, then their higher vertex, each
//! with all its sides. Faces that repeat a vertex have no sides (DESIGN §4).
//!
//! ```text
//! sides ──bucketed by lower vertex──▶ buckets ──sorted by higher vertex──▶ edges
//! ```
//!
//! Cost: O(sides) time but for the sorting inside buckets, which hold about three edges each;
//! 54 bytes a triangle when done.

use crate::mesh::{EdgeId, FaceId, Mesh, VertexId};
use rayon::prelude::*;

/// One side of a face, lying on an edge.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Side {
    /// The face.
    pub face: FaceId,
    /// The corner where the side begins, doubled, plus 1 if it runs up.
    packed: u32,
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

#[derive(Clone, Copy, Default)]
struct Entry {
    high: VertexId,
    /// As in [`Side`].
    packed: u32,
    face: FaceId,
}

impl Edges {
    /// Finds the edges of a mesh.
    pub fn of(mesh: &Mesh) -> Self {
        let corners = mesh.corners();
        let mut bucket_starts = vec![0u32; mesh.vertex_count() + 1];
        for_each_side(mesh, |low, _, _, _| bucket_starts[low.index() + 1] += 1);
        for vertex in 0..mesh.vertex_count() {
            bucket_starts[vertex + 1] += bucket_starts[vertex];
        }
        let side_count = bucket_starts[mesh.vertex_count()] as usize;
        let mut entries = vec![Entry::default(); side_count];
        let mut next = bucket_starts.clone();
        for_each_side(mesh, |low, high, packed, face| {
            let slot = &mut next[low.index()];
            entries[*slot as usize] = Entry { high, packed, face };
            *slot += 1;
        });
        drop(next);

        // Ranges of vertices are sorted in parallel; their edges are then put in a row.
        let ranges = ranges_of_work(&bucket_starts);
        let mut rest = entries.as_mut_slice();
        let mut pieces = Vec::with_capacity(ranges.len());
        for range in &ranges {
            let length = (bucket_starts[range.end] - bucket_starts[range.start]) as usize;
            let (piece, tail) = rest.split_at_mut(length);
            pieces.push((range.clone(), piece));
            rest = tail;
        }
        let edge_counts: Vec<usize> = pieces
            .par_iter_mut()
            .map(|(range, piece)| sort_buckets(&bucket_starts, range.clone(), piece))
            .collect();

        let edge_count = edge_counts.iter().sum();
        let mut ends = Vec::with_capacity(edge_count);
        let mut side_starts = Vec::with_capacity(edge_count + 1);
        let mut sides = Vec::with_capacity(side_count);
        let mut corner_edge = vec![NO_EDGE; corners.len()];
        for low in mesh.vertex_ids() {
            let bucket = bucket_starts[low.index()]..bucket_starts[low.index() + 1];
            let mut last = None;
            for entry in &entries[bucket.start as usize..bucket.end as usize] {
                if last != Some(entry.high) {
                    last = Some(entry.high);
                    ends.push([low, entry.high]);
                    side_starts.push(sides.len() as u32);
                }
                corner_edge[(entry.packed >> 1) as usize] = EdgeId::new(ends.len() - 1);
                sides.push(Side {
                    face: entry.face,
                    packed: entry.packed,
                });
            }
        }
        side_starts.push(sides.len() as u32);
        Self {
            ends,
            side_starts,
            sides,
            corner_edge,
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

fn for_each_side(mesh: &Mesh, mut visit: impl FnMut(VertexId, VertexId, u32, FaceId)) {
    for (face, vertices) in mesh.faces() {
        if mesh.is_collapsed(face) {
            continue;
        }
        let first = mesh.face_range(face).start;
        let mut from = vertices[0];
        for i in 0..vertices.len() {
            let to = vertices[if i + 1 == vertices.len() { 0 } else { i + 1 }];
            let corner = (first + i) as u32;
            if from < to {
                visit(from, to, corner << 1 | 1, face);
            } else {
                visit(to, from, corner << 1, face);
            }
            from = to;
        }
    }
}

/// Cuts the vertices into ranges of about equal numbers of sides.
fn ranges_of_work(bucket_starts: &[u32]) -> Vec<std::ops::Range<usize>> {
    const SIDES_A_RANGE: u32 = 1 << 18;
    let vertices = bucket_starts.len() - 1;
    let mut ranges = Vec::new();
    let mut from = 0;
    while from < vertices {
        let limit = bucket_starts[from].saturating_add(SIDES_A_RANGE);
        let to = bucket_starts[from + 1..vertices + 1].partition_point(|&start| start <= limit);
        let to = (from + to.max(1)).min(vertices);
        ranges.push(from..to);
        from = to;
    }
    ranges
}

/// Sorts each bucket of a range and counts the distinct edges.
fn sort_buckets(
    bucket_starts: &[u32],
    range: std::ops::Range<usize>,
    piece: &mut [Entry],
) -> usize {
    let offset = bucket_starts[range.start];
    let mut edges = 0;
    for vertex in range {
        let from = (bucket_starts[vertex] - offset) as usize;
        let to = (bucket_starts[vertex + 1] - offset) as usize;
        let bucket = &mut piece[from..to];
        bucket.sort_unstable_by_key(|entry| (entry.high, entry.packed));
        edges += bucket.chunk_by(|a, b| a.high == b.high).count();
    }
    edges
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
