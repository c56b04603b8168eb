//! The polygon mesh: positions, and faces as runs of corners.

use super::{FaceId, VertexId};
use crate::parallel::all;
use glam::DVec3;
use std::ops::Range;

/// Faces of any number of corners over shared vertices.
///
/// Corners of all faces stand in one array; face `f` owns the run `starts[f]..starts[f + 1]`.
/// Nothing is assumed about quality: faces may repeat a vertex, have fewer than three corners,
/// or lie on top of each other. Every corner names an existing vertex and every position is
/// finite; [`Mesh::from_parts`] enforces both.
#[derive(Clone, Debug, PartialEq)]
pub struct Mesh {
    positions: Vec<DVec3>,
    corners: Vec<VertexId>,
    starts: Vec<u32>,
}

/// A corner's index, doubled, must fit in 32 bits.
const MOST_CORNERS: usize = (u32::MAX / 2 - 1) as usize;

/// Why arrays don't make a mesh.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum MeshError {
    /// A corner names a vertex that isn't there.
    #[error("face {face} uses vertex {vertex}, but there are {count}")]
    NoSuchVertex {
        /// Face index, from 0.
        face: usize,
        /// The vertex index that is too large, from 0.
        vertex: u32,
        /// How many vertices there are.
        count: usize,
    },
    /// A coordinate is not a number, infinite, or beyond 1e100 either way.
    #[error("vertex {vertex} has a coordinate that is not a usable number")]
    NotFinite {
        /// Vertex index, from 0.
        vertex: usize,
    },
    /// The face runs don't cover the corner array in order.
    #[error("the face runs do not match the corner array")]
    BadRuns,
    /// More elements than a 32-bit index can name.
    #[error("the model has more than 2,147,483,646 vertices or corners")]
    TooLarge,
}

impl Default for Mesh {
    fn default() -> Self {
        Self {
            positions: Vec::new(),
            corners: Vec::new(),
            starts: vec![0],
        }
    }
}

impl Mesh {
    /// A mesh from its arrays, checked.
    ///
    /// # Errors
    /// When a corner, a run or a position breaks the promises of the type.
    pub fn from_parts(
        positions: Vec<DVec3>,
        corners: Vec<VertexId>,
        starts: Vec<u32>,
    ) -> Result<Self, MeshError> {
        if positions.len() > MOST_CORNERS || corners.len() > MOST_CORNERS {
            return Err(MeshError::TooLarge);
        }
        let runs_fit = starts.first() == Some(&0)
            && starts.last().map(|&end| end as usize) == Some(corners.len())
            && starts.windows(2).all(|pair| pair[0] <= pair[1]);
        if !runs_fit {
            return Err(MeshError::BadRuns);
        }
        if let Some(vertex) = positions.iter().position(|&p| !is_usable(p)) {
            return Err(MeshError::NotFinite { vertex });
        }
        if let Some(corner) = corners.iter().position(|v| v.index() >= positions.len()) {
            return Err(MeshError::NoSuchVertex {
                face: starts.partition_point(|&start| start as usize <= corner) - 1,
                vertex: corners[corner].0,
                count: positions.len(),
            });
        }
        Ok(Self {
            positions,
            corners,
            starts,
        })
    }

    /// A mesh of triangles.
    ///
    /// # Errors
    /// As [`Mesh::from_parts`].
    pub fn from_triangles(
        positions: Vec<DVec3>,
        triangles: &[[VertexId; 3]],
    ) -> Result<Self, MeshError> {
        if triangles.len() > MOST_CORNERS / 3 {
            return Err(MeshError::TooLarge);
        }
        let starts = (0..=triangles.len() as u32).map(|f| f * 3).collect();
        Self::from_parts(positions, triangles.as_flattened().to_vec(), starts)
    }

    /// Adds a vertex.
    pub fn push_vertex(&mut self, position: DVec3) -> VertexId {
        self.positions.push(position);
        VertexId::new(self.positions.len() - 1)
    }

    /// Adds a face over existing vertices.
    pub fn push_face(&mut self, corners: impl IntoIterator<Item = VertexId>) -> FaceId {
        self.corners.extend(corners);
        self.starts.push(self.corners.len() as u32);
        debug_assert!(
            self.corners[self.starts[self.starts.len() - 2] as usize..]
                .iter()
                .all(|v| v.index() < self.positions.len())
        );
        FaceId::new(self.starts.len() - 2)
    }

    /// Adds all vertices and faces of another mesh, behind one's own.
    pub fn append(&mut self, other: &Mesh) {
        let base = self.vertex_count() as u32;
        self.positions.extend_from_slice(&other.positions);
        for (_, face) in other.faces() {
            self.push_face(face.iter().map(|v| VertexId(v.0 + base)));
        }
    }

    /// Whether every coordinate is one of single precision.
    pub fn is_single(&self) -> bool {
        let is_one = |p: &DVec3| p.as_vec3().as_dvec3() == *p;
        all(self.positions.len(), 4096, |v| is_one(&self.positions[v]))
    }

    /// Whether no coordinate is too large for single precision.
    pub fn fits_single(&self) -> bool {
        self.positions.iter().all(|p| p.as_vec3().is_finite())
    }

    /// Rounds all positions to single precision, which they must [fit](Self::fits_single). How many
    /// vertices that moved.
    pub fn round_to_single(&mut self) -> usize {
        let mut moved = 0;
        for position in self.positions_mut() {
            let rounded = position.as_vec3().as_dvec3();
            moved += usize::from(rounded != *position);
            *position = rounded;
        }
        moved
    }

    /// All positions, by vertex.
    pub fn positions(&self) -> &[DVec3] {
        &self.positions
    }

    /// Moves every vertex to where `to` says, given where it is.
    ///
    /// # Errors
    /// When a coordinate would be no usable number; nothing has moved then.
    pub fn move_vertices(
        &mut self,
        mut to: impl FnMut(VertexId, DVec3) -> DVec3,
    ) -> Result<(), MeshError> {
        let places = self.vertex_ids().zip(&self.positions);
        let moved: Vec<DVec3> = places.map(|(vertex, &at)| to(vertex, at)).collect();
        if let Some(vertex) = moved.iter().position(|&p| !is_usable(p)) {
            return Err(MeshError::NotFinite { vertex });
        }
        self.positions = moved;
        Ok(())
    }

    /// All positions, for what moves vertices to places that are known to be usable.
    pub(crate) fn positions_mut(&mut self) -> &mut [DVec3] {
        &mut self.positions
    }

    /// All corners, face after face.
    pub fn corners(&self) -> &[VertexId] {
        &self.corners
    }

    /// Where each face's run of corners begins; one entry more than there are faces.
    pub fn starts(&self) -> &[u32] {
        &self.starts
    }

    /// How many vertices.
    pub fn vertex_count(&self) -> usize {
        self.positions.len()
    }

    /// How many faces.
    pub fn face_count(&self) -> usize {
        self.starts.len() - 1
    }

    /// How many triangles its faces are, polygons counted as cut up.
    pub fn triangle_count(&self) -> usize {
        let sides = self.faces().map(|(_, face)| face.len());
        sides.map(|sides| sides.saturating_sub(2)).sum()
    }

    /// Where a vertex is.
    #[inline]
    pub fn position(&self, vertex: VertexId) -> DVec3 {
        self.positions[vertex.index()]
    }

    /// The run of corner indices of a face.
    #[inline]
    pub fn face_range(&self, face: FaceId) -> Range<usize> {
        self.starts[face.index()] as usize..self.starts[face.index() + 1] as usize
    }

    /// The corner of a face that follows one of its corners.
    #[inline]
    pub fn next_corner(&self, face: FaceId, corner: usize) -> usize {
        let range = self.face_range(face);
        match corner + 1 {
            next if next == range.end => range.start,
            next => next,
        }
    }

    /// The vertices of a face, in order.
    #[inline]
    pub fn face(&self, face: FaceId) -> &[VertexId] {
        &self.corners[self.face_range(face)]
    }

    /// The positions of a face's corners, in order.
    pub fn face_points(&self, face: FaceId) -> impl ExactSizeIterator<Item = DVec3> + Clone + '_ {
        self.face(face).iter().map(|&v| self.position(v))
    }

    /// Every face with its vertices.
    pub fn faces(&self) -> impl ExactSizeIterator<Item = (FaceId, &[VertexId])> + Clone + '_ {
        self.face_ids().map(|face| (face, self.face(face)))
    }

    /// Every face's handle.
    pub fn face_ids(
        &self,
    ) -> impl ExactSizeIterator<Item = FaceId> + DoubleEndedIterator + Clone + use<> {
        (0..self.face_count()).map(FaceId::new)
    }

    /// Every vertex's handle.
    pub fn vertex_ids(&self) -> impl ExactSizeIterator<Item = VertexId> + Clone + use<> {
        (0..self.vertex_count()).map(VertexId::new)
    }

    /// Whether every face has exactly three corners.
    pub fn is_all_triangles(&self) -> bool {
        self.corners.len() == self.face_count() * 3
            && self
                .starts
                .iter()
                .enumerate()
                .all(|(f, &start)| start as usize == f * 3)
    }

    /// Whether a face repeats a vertex or has fewer than three corners: such a face has no
    /// edges that count (`docs/checks.md`).
    #[inline]
    pub fn is_collapsed(&self, face: FaceId) -> bool {
        repeats_a_vertex(self.face(face))
    }

    /// The middle of a face's corners.
    pub fn face_middle(&self, face: FaceId) -> DVec3 {
        let points = self.face_points(face);
        let count = points.len().max(1) as f64;
        points.sum::<DVec3>() / count
    }

    /// For every vertex, whether a face uses it.
    pub fn used_vertices(&self) -> Vec<bool> {
        let mut used = vec![false; self.vertex_count()];
        for corner in &self.corners {
            used[corner.index()] = true;
        }
        used
    }
}

/// Whether a position is finite and small enough (1e100) that areas and volumes stay finite.
#[inline]
pub fn is_usable(position: DVec3) -> bool {
    position.is_finite() && position.abs().max_element() <= 1e100
}

/// Whether a run of corners has fewer than three, or one vertex twice.
#[inline]
pub(crate) fn repeats_a_vertex(corners: &[VertexId]) -> bool {
    match *corners {
        [] | [_] | [_, _] => true,
        [a, b, c] => a == b || b == c || c == a,
        _ if corners.len() <= 32 => corners
            .iter()
            .enumerate()
            .any(|(i, v)| corners[i + 1..].contains(v)),
        _ => {
            let mut sorted = corners.to_vec();
            sorted.sort_unstable();
            sorted.windows(2).any(|pair| pair[0] == pair[1])
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ids(indices: &[u32]) -> Vec<VertexId> {
        indices.iter().copied().map(VertexId).collect()
    }

    #[test]
    fn corners_past_the_end_are_refused_with_their_face() {
        let error = Mesh::from_parts(
            vec![DVec3::ZERO; 3],
            ids(&[0, 1, 2, 0, 1, 7]),
            vec![0, 3, 6],
        )
        .unwrap_err();
        assert_eq!(
            error,
            MeshError::NoSuchVertex {
                face: 1,
                vertex: 7,
                count: 3
            }
        );
    }

    #[test]
    fn positions_must_be_finite() {
        let positions = vec![DVec3::ZERO, DVec3::new(0.0, f64::NAN, 0.0)];
        assert_eq!(
            Mesh::from_parts(positions, vec![], vec![0]),
            Err(MeshError::NotFinite { vertex: 1 })
        );
    }

    #[test]
    fn collapsed_faces_are_those_that_repeat_or_lack_corners() {
        assert!(repeats_a_vertex(&ids(&[0, 1])));
        assert!(repeats_a_vertex(&ids(&[0, 1, 0])));
        assert!(repeats_a_vertex(&ids(&[0, 1, 2, 3, 1])));
        assert!(!repeats_a_vertex(&ids(&[0, 1, 2, 3, 4])));
        let mut long: Vec<u32> = (0..100).collect();
        assert!(!repeats_a_vertex(&ids(&long)));
        long[99] = 3;
        assert!(repeats_a_vertex(&ids(&long)));
    }
}
