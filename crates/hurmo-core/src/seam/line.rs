//! The edges at which faces of different solids meet.

use crate::mesh::{FaceId, Mesh, VertexId};
use crate::topology::Edges;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// The seam of a mesh.
pub(super) struct Seam {
    /// Its edges.
    pub edges: Vec<[VertexId; 2]>,
    /// The faces at them.
    pub faces: Vec<FaceId>,
}

impl Seam {
    /// Between faces of different solids.
    pub fn of(mesh: &Mesh, solids: &[u32]) -> Self {
        Self::by(mesh, &Edges::of(mesh), solids)
    }

    /// The same, where the edges are known.
    pub fn by(mesh: &Mesh, edges: &Edges, solids: &[u32]) -> Self {
        debug_assert_eq!(solids.len(), mesh.face_count());
        let of = |face: FaceId| solids[face.index()];
        let mut seam = Self {
            edges: Vec::new(),
            faces: Vec::new(),
        };
        for edge in edges.ids() {
            let sides = edges.sides(edge);
            if sides.iter().any(|side| of(side.face) != of(sides[0].face)) {
                seam.edges.push(edges.ends(edge));
                seam.faces.extend(sides.iter().map(|side| side.face));
            }
        }
        seam
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.edges.is_empty()
    }

    /// Places along it, each with the edge that it is on, no farther apart than `step` says for that.
    pub fn places(&self, mesh: &Mesh, step: impl Fn(usize) -> f64) -> Vec<(usize, DVec3)> {
        let mut places = Vec::new();
        for (number, ends) in self.edges.iter().enumerate() {
            let [from, to] = ends.map(|v| mesh.position(v));
            let steps = (from.distance(to) / step(number)).ceil().clamp(1.0, 1e6) as usize;
            let along = (0..=steps).map(|i| from.lerp(to, i as f64 / steps as f64));
            places.extend(along.map(|place| (number, place)));
        }
        places
    }

    /// For every vertex on it, the vertices next to it on it.
    pub fn beside(&self) -> FxHashMap<VertexId, Vec<VertexId>> {
        let mut beside: FxHashMap<VertexId, Vec<VertexId>> = FxHashMap::default();
        for &[a, b] in &self.edges {
            beside.entry(a).or_default().push(b);
            beside.entry(b).or_default().push(a);
        }
        beside
    }
}
