//! New vertices that rounding brought next to others go there: else what they make would cross again
//! and again, by less each time.

use super::rounds::Resolved;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::spatial::near_weld;

/// Joins made vertices of new faces with others of these within a distance. Triangles may come to repeat a
/// vertex: the next round leaves them out. Returns how many were joined.
pub(super) fn snap(made: &mut Resolved, distance: f64) -> usize {
    let mesh = &made.model.mesh;
    let mut near: Vec<VertexId> = (made.is_new.iter().enumerate())
        .filter(|(_, is_new)| **is_new)
        .flat_map(|(face, _)| mesh.face(FaceId::new(face)))
        .copied()
        .collect();
    // Those that were there stay where they are: others come to them.
    near.sort_unstable_by_key(|v| (made.young[v.index()], *v));
    near.dedup();
    let positions: Vec<_> = near.iter().map(|&v| mesh.position(v)).collect();
    let mut name: Vec<VertexId> = (0..mesh.vertex_count()).map(VertexId::new).collect();
    let mut joined = 0;
    for (i, to) in near_weld(&positions, distance).into_iter().enumerate() {
        if to.index() != i && made.young[near[i].index()] {
            name[near[i].index()] = near[to.index()];
            joined += 1;
        }
    }
    if joined == 0 {
        return 0;
    }
    for (face, corners) in mesh.faces() {
        made.is_new[face.index()] |= corners.iter().any(|v| name[v.index()] != *v);
    }
    let corners = mesh.corners().iter().map(|v| name[v.index()]).collect();
    let starts = mesh.starts().to_vec();
    made.model.mesh =
        Mesh::from_parts(mesh.positions().to_vec(), corners, starts).expect("the parts of a mesh");
    joined
}

/// Drops made vertices that no face has.
pub(super) fn drop_unused(made: &mut Resolved) {
    let used = made.model.mesh.used_vertices();
    let goes: Vec<bool> = used
        .iter()
        .zip(&made.young)
        .map(|(used, young)| *young && !used)
        .collect();
    made.model.drop_vertices(&goes);
}
