//! Which vertices of a mesh that is its own image are images of each other.

use super::Mirror;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::spatial::position_key;
use crate::topology::Edges;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// By vertex its image: itself of one on the plane.
pub(crate) struct Twins {
    mirror: Mirror,
    of: Vec<VertexId>,
}

impl Twins {
    /// Of a mesh that is its own image to the last bit; `None` of another.
    pub fn of(mesh: &Mesh, mirror: Mirror) -> Option<Self> {
        let by_place: FxHashMap<[u64; 3], VertexId> = mesh
            .vertex_ids()
            .map(|v| (position_key(mesh.position(v)), v))
            .collect();
        let twin = |v| {
            by_place
                .get(&position_key(mirror.image(mesh.position(v))))
                .copied()
        };
        let of: Option<Vec<VertexId>> = mesh.vertex_ids().map(twin).collect();
        Some(Self { mirror, of: of? })
    }

    /// The image of a vertex.
    pub fn vertex(&self, v: VertexId) -> VertexId {
        self.of[v.index()]
    }

    /// The image of an edge.
    pub fn edge(&self, edge: [VertexId; 2]) -> [VertexId; 2] {
        edge.map(|v| self.vertex(v))
    }

    /// The same of a division of the mesh, with a vertex for every edge and then one for every face after its own;
    /// `None` where its faces are not each other's images.
    pub fn divided(&self, mesh: &Mesh, edges: &Edges) -> Option<Self> {
        let named = |face: FaceId, image: bool| {
            let own = mesh.face(face).iter();
            let mut name: Vec<VertexId> = own
                .map(|v| if image { self.vertex(*v) } else { *v })
                .collect();
            name.sort_unstable();
            name
        };
        let faces: FxHashMap<Vec<VertexId>, FaceId> = mesh
            .face_ids()
            .map(|face| (named(face, false), face))
            .collect();
        let first_of_edges = mesh.vertex_count();
        let first_of_faces = first_of_edges + edges.len();
        let of_edge = |edge| {
            let [a, b] = self.edge(edges.ends(edge));
            let twin = edges.between(a, b)?;
            Some(VertexId::new(first_of_edges + twin.index()))
        };
        let of_face = |face| {
            let twin = faces.get(&named(face, true))?;
            Some(VertexId::new(first_of_faces + twin.index()))
        };
        let own = self.of.iter().copied().map(Some);
        let all = own
            .chain(edges.ids().map(of_edge))
            .chain(mesh.face_ids().map(of_face));
        let of: Option<Vec<VertexId>> = all.collect();
        Some(Self {
            mirror: self.mirror,
            of: of?,
        })
    }

    /// Makes what lies behind the plane the image of what lies before it. `side`: by vertex a place that says on which
    /// side it is.
    pub fn mirror(&self, mesh: &mut Mesh, side: &[DVec3]) {
        for (v, &twin) in self.of.iter().enumerate() {
            let positions = mesh.positions_mut();
            if twin.index() == v {
                positions[v] = self.mirror.onto(positions[v]);
            } else if self.mirror.before(side[v]) > self.mirror.before(side[twin.index()]) {
                positions[twin.index()] = self.mirror.image(positions[v]);
            }
        }
    }
}
