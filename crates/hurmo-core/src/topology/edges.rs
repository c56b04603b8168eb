//! The edge table: every distinct edge, and the face sides on it.
//!
//! In: a mesh of any quality. Out: edges sorted by their lower, then their higher vertex, each
//! with all its sides. Faces that repeat a vertex have no sides (`docs/checks.md`).
//!
//! ```text
//! sides ──spread over ranges of lower vertices──▶ buckets ──sorted by both vertices──▶ edges
//! ```
//!
//! Stretches of faces, then buckets, are worked on in parallel. Cost: O(sides) time but for the sorting
//! round each vertex, which has about three edges; 54 bytes a triangle when done.

use crate::mesh::{EdgeId, FaceId, Mesh, VertexId};
use crate::parallel::{for_each, mapped};
use std::ops::Range;
use std::sync::atomic::{AtomicU32, Ordering::Relaxed};

/// One side of a face, lying on an edge.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
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

impl Edges {
    /// Finds the edges of a mesh.
    pub fn of(mesh: &Mesh) -> Self {
        let buckets = Buckets::of(mesh);
        let found: Vec<Row> = mapped(buckets.count, 1, |bucket| buckets.row(bucket));
        drop(buckets);
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
        let corner_edge: Vec<AtomicU32> = mapped(mesh.corners().len(), 4096, none);
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

/// A side with its edge's vertices.
#[derive(Clone, Copy, Default)]
struct Entry {
    low: VertexId,
    high: VertexId,
    side: Side,
}

/// The sides of a mesh, those whose edges have their lower vertex in one range together.
struct Buckets {
    count: usize,
    vertices: usize,
    /// Of each stretch of faces, its sides by bucket, and where each bucket begins among them.
    stretches: Vec<(Vec<Entry>, Vec<u32>)>,
}

/// The edges of a bucket.
struct Row {
    ends: Vec<[VertexId; 2]>,
    side_starts: Vec<u32>,
    sides: Vec<Side>,
}

impl Buckets {
    /// So many vertices, as a power of two, are of one bucket: their sides fit the cache.
    const BITS: u32 = 12;
    /// So many faces are gone through at a time.
    const STRETCH: usize = 1 << 18;

    fn of(mesh: &Mesh) -> Self {
        let count = mesh.vertex_count().div_ceil(1 << Self::BITS);
        let faces = mesh.face_count();
        let stretches = mapped(faces.div_ceil(Self::STRETCH), 1, |stretch| {
            let from = stretch * Self::STRETCH;
            let faces = from..(from + Self::STRETCH).min(faces);
            let mut starts = vec![0u32; count + 1];
            for_each_side(mesh, faces.clone(), |entry| {
                starts[(entry.low.0 >> Self::BITS) as usize + 1] += 1;
            });
            for bucket in 0..count {
                starts[bucket + 1] += starts[bucket];
            }
            let mut next = starts.clone();
            let mut entries = vec![Entry::default(); starts[count] as usize];
            for_each_side(mesh, faces, |entry| {
                let slot = &mut next[(entry.low.0 >> Self::BITS) as usize];
                entries[*slot as usize] = entry;
                *slot += 1;
            });
            (entries, starts)
        });
        Self {
            count,
            vertices: mesh.vertex_count(),
            stretches,
        }
    }

    /// The entries of a bucket, by rising corner.
    fn entries(&self, bucket: usize) -> impl Iterator<Item = &Entry> + Clone {
        (self.stretches.iter()).flat_map(move |(entries, starts)| {
            &entries[starts[bucket] as usize..starts[bucket + 1] as usize]
        })
    }

    /// A bucket's edges, by their lower vertex, then their higher.
    fn row(&self, bucket: usize) -> Row {
        let first = bucket << Self::BITS;
        let vertices = (self.vertices - first).min(1 << Self::BITS);
        let mut starts = vec![0u32; vertices + 1];
        let at = |entry: &Entry| entry.low.index() - first;
        for entry in self.entries(bucket) {
            starts[at(entry) + 1] += 1;
        }
        for vertex in 0..vertices {
            starts[vertex + 1] += starts[vertex];
        }
        let count = starts[vertices] as usize;
        let mut sorted = vec![Entry::default(); count];
        let mut next = starts.clone();
        for entry in self.entries(bucket) {
            let slot = &mut next[at(entry)];
            sorted[*slot as usize] = *entry;
            *slot += 1;
        }
        let mut row = Row {
            ends: Vec::with_capacity(count / 2),
            side_starts: Vec::with_capacity(count / 2),
            sides: Vec::with_capacity(count),
        };
        for of_vertex in starts.windows(2) {
            let of_vertex = &mut sorted[of_vertex[0] as usize..of_vertex[1] as usize];
            of_vertex.sort_unstable_by_key(|entry| (entry.high, entry.side.packed));
            for sides in of_vertex.chunk_by(|a, b| a.high == b.high) {
                row.ends.push([sides[0].low, sides[0].high]);
                row.side_starts.push(row.sides.len() as u32);
                row.sides.extend(sides.iter().map(|entry| entry.side));
            }
        }
        row
    }
}

/// Calls `visit` with every side of some faces.
fn for_each_side(mesh: &Mesh, faces: Range<usize>, mut visit: impl FnMut(Entry)) {
    for face in faces.map(FaceId::new) {
        if mesh.is_collapsed(face) {
            continue;
        }
        let range = mesh.face_range(face);
        let vertices = &mesh.corners()[range.clone()];
        let mut from = vertices[0];
        for i in 0..vertices.len() {
            let to = vertices[if i + 1 == vertices.len() { 0 } else { i + 1 }];
            let corner = (range.start + i) as u32;
            let runs_up = from < to;
            visit(Entry {
                low: from.min(to),
                high: from.max(to),
                side: Side {
                    face,
                    packed: corner << 1 | u32::from(runs_up),
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
