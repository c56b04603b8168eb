//! Rims in the direction in which new faces run them.

use super::reasons::LeftBecause;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::topology::{Edges, Rim, Rims};
use rustc_hash::FxHashSet;

/// A rim in the direction in which new faces must run it.
pub(super) struct Border {
    pub vertices: Vec<VertexId>,
    /// The face along each edge, from vertex `i` to the next.
    pub faces: Vec<FaceId>,
    /// Whether all of those faces run it the same way.
    pub is_consistent: bool,
}

impl Border {
    pub fn of(mesh: &Mesh, edges: &Edges, rim: &Rim) -> Self {
        let mut vertices = rim.vertices.clone();
        let mut faces = Vec::with_capacity(vertices.len());
        let mut agree = 0i64;
        for (&edge, &from) in rim.edges.iter().zip(&vertices) {
            let side = edges.sides(edge)[0];
            faces.push(side.face);
            let runs_from_here = mesh.corners()[side.corner()] == from;
            agree += if runs_from_here { -1 } else { 1 };
        }
        let is_consistent = agree.unsigned_abs() as usize == faces.len();
        if agree < 0 {
            vertices.reverse();
            // Edge i now runs from the new vertex i to the next.
            faces.reverse();
            faces.rotate_left(1);
        }
        Self {
            vertices,
            faces,
            is_consistent,
        }
    }

    /// Why this can't be closed, if it can't.
    pub fn unfit(&self, mesh: &Mesh) -> Option<LeftBecause> {
        match self.vertices.len() {
            0..3 => Some(LeftBecause::TooFewEdges),
            3 if self.faces.iter().all(|&f| f == self.faces[0])
                && mesh.face(self.faces[0]).len() == 3 =>
            {
                Some(LeftBecause::OneTriangle)
            }
            _ => None,
        }
    }
}

/// Edges that there are, so that no second one is laid over them.
pub(super) type Chords = FxHashSet<[VertexId; 2]>;

pub(super) fn chord(a: VertexId, b: VertexId) -> [VertexId; 2] {
    if a < b { [a, b] } else { [b, a] }
}

/// Every edge between two vertices that lie on rims.
pub(super) fn edges_between_rims(mesh: &Mesh, edges: &Edges, rims: &Rims) -> Chords {
    let mut on_rim = vec![false; mesh.vertex_count()];
    for vertex in rims.closed.iter().flat_map(|rim| &rim.vertices) {
        on_rim[vertex.index()] = true;
    }
    edges
        .ids()
        .map(|edge| edges.ends(edge))
        .filter(|ends| ends.iter().all(|v| on_rim[v.index()]))
        .collect()
}
