//! Which diagonals of a polygon are edges, or may become edges, of other faces: cut along one of
//! those, the mesh gets an edge with too many sides.
//!
//! Two quads that share two opposite corners are the least case. Faces on the same vertices (lamina
//! faces) don't count: cut alike they stay what they are, and are found as that.

use crate::mesh::{FaceId, Mesh, VertexId};
use rustc_hash::FxHashSet;

/// The faces around each vertex, and the diagonals taken by now.
pub(super) struct Diagonals<'m> {
    mesh: &'m Mesh,
    /// By vertex, where its faces begin in `faces`.
    starts: Vec<u32>,
    faces: Vec<FaceId>,
    /// Those that another polygon might take too.
    taken: FxHashSet<[VertexId; 2]>,
}

impl<'m> Diagonals<'m> {
    /// Gets ready. Cost: linear in the corners.
    pub fn of(mesh: &'m Mesh) -> Self {
        let mut starts = vec![0u32; mesh.vertex_count() + 1];
        for (_, corners) in mesh.faces() {
            corners.iter().for_each(|v| starts[v.index() + 1] += 1);
        }
        for i in 1..starts.len() {
            starts[i] += starts[i - 1];
        }
        let mut next = starts.clone();
        let mut faces = vec![FaceId::new(0); *starts.last().unwrap_or(&0) as usize];
        for (face, corners) in mesh.faces() {
            for v in corners {
                let slot = &mut next[v.index()];
                faces[*slot as usize] = face;
                *slot += 1;
            }
        }
        Self {
            mesh,
            starts,
            faces,
            taken: FxHashSet::default(),
        }
    }

    fn around(&self, v: VertexId) -> &[FaceId] {
        &self.faces[self.starts[v.index()] as usize..self.starts[v.index() + 1] as usize]
    }

    /// Other faces that have both ends, and don't lie on the same vertices.
    fn others(&self, face: FaceId, [a, b]: [VertexId; 2]) -> impl Iterator<Item = &'m [VertexId]> {
        let (from, to) = match self.around(a).len() <= self.around(b).len() {
            true => (a, b),
            false => (b, a),
        };
        let mesh = self.mesh;
        let own = mesh.face(face);
        let faces = self.around(from).iter();
        faces.filter_map(move |&other| {
            let corners = mesh.face(other);
            let has_both = other != face && corners.contains(&to);
            (has_both && !on_same_vertices(own, corners)).then_some(corners)
        })
    }

    /// Whether a diagonal of a face is an edge elsewhere already.
    pub fn is_taken(&self, face: FaceId, ends: [VertexId; 2]) -> bool {
        let [a, b] = ends;
        a != b
            && self.others(face, ends).any(|corners| {
                has_edge(corners, ends) || self.taken.contains(&[a.min(b), a.max(b)])
            })
    }

    /// A face is cut along this diagonal.
    pub fn take(&mut self, face: FaceId, [a, b]: [VertexId; 2]) {
        if self.others(face, [a, b]).next().is_some() {
            self.taken.insert([a.min(b), a.max(b)]);
        }
    }
}

fn has_edge(corners: &[VertexId], [a, b]: [VertexId; 2]) -> bool {
    let next = corners.iter().cycle().skip(1);
    let mut sides = corners.iter().zip(next);
    sides.any(|(&from, &to)| (from, to) == (a, b) || (from, to) == (b, a))
}

fn on_same_vertices(one: &[VertexId], two: &[VertexId]) -> bool {
    one.len() == two.len() && one.iter().all(|v| two.contains(v))
}
