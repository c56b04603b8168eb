//! Which vertices a weld of equal positions may join without asking.
//!
//! Those on open edges, for that is what a weld is to close; those that no edge has; and those
//! of faces that lie on each other, so that one of the two can go. But a face of one closed
//! surface that lies back to back on a face of another, as of two boxes side by side, is no
//! double: a weld there would only tie the two surfaces together. Cost: linear in faces.

use crate::audit::doubles;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::topology::{Edges, Parts};

/// Vertices on open edges.
pub(super) fn on_seams(mesh: &Mesh) -> Vec<VertexId> {
    listed(&marked(mesh, &Edges::of(mesh), false))
}

/// All that a weld in place may join; `place` is what each vertex would become if all did.
pub(super) fn movable(mesh: &Mesh, place: &[VertexId]) -> Vec<VertexId> {
    let edges = Edges::of(mesh);
    let mut may = marked(mesh, &edges, true);
    let corners = mesh.corners().iter().map(|v| place[v.index()]).collect();
    let welded = Mesh::from_parts(mesh.positions().to_vec(), corners, mesh.starts().to_vec())
        .expect("the same faces over some of the same vertices");
    let doubled = doubles(&welded);
    let parts = Parts::of(mesh);
    let mut ill = parts.open(mesh, &edges);
    for (part, whole) in ill.iter_mut().zip(wholly(mesh, &parts, &doubled)) {
        *part |= whole;
    }
    for pair in doubled {
        let [a, b] = pair.map(|face| welded.face(face));
        let either_ill = pair.iter().any(|&face| {
            let part = parts.of_face(mesh, face);
            part.is_none_or(|part| ill[part.index()])
        });
        if either_ill || run_alike(a, b) {
            for vertex in pair.iter().flat_map(|&face| mesh.face(face)) {
                may[vertex.index()] = true;
            }
        }
    }
    listed(&may)
}

fn listed(marked: &[bool]) -> Vec<VertexId> {
    (0..marked.len())
        .filter(|&v| marked[v])
        .map(VertexId::new)
        .collect()
}

/// By vertex, whether it is on an open edge or, if `strays`, on no edge at all.
fn marked(mesh: &Mesh, edges: &Edges, strays: bool) -> Vec<bool> {
    let mut is_loose = vec![strays; mesh.vertex_count()];
    if strays {
        for vertex in edges.ids().flat_map(|edge| edges.ends(edge)) {
            is_loose[vertex.index()] = false;
        }
    }
    for edge in edges.ids().filter(|&edge| edges.sides(edge).len() == 1) {
        for vertex in edges.ends(edge) {
            is_loose[vertex.index()] = true;
        }
    }
    is_loose
}

/// The parts all of whose faces lie on others.
fn wholly(mesh: &Mesh, parts: &Parts, doubled: &[[FaceId; 2]]) -> Vec<bool> {
    let mut lies = vec![false; mesh.face_count()];
    for face in doubled.iter().flatten() {
        lies[face.index()] = true;
    }
    let mut whole = vec![true; parts.len()];
    for face in mesh.face_ids().filter(|face| !lies[face.index()]) {
        if let Some(part) = parts.of_face(mesh, face) {
            whole[part.index()] = false;
        }
    }
    whole
}

/// Whether two faces run round the same vertices the same way.
fn run_alike(a: &[VertexId], b: &[VertexId]) -> bool {
    let Some(start) = b.iter().position(|v| *v == a[0]) else {
        return false;
    };
    a.len() == b.len() && (0..a.len()).all(|i| a[i] == b[(start + i) % b.len()])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::mend::{MendOptions, mend};
    use crate::mesh::Model;
    use crate::shapes;
    use glam::DVec3;

    fn together(meshes: &[Mesh]) -> Model {
        let mut all = Mesh::default();
        for mesh in meshes {
            let base = all.vertex_count() as u32;
            mesh.positions().iter().for_each(|&p| {
                all.push_vertex(p);
            });
            for (_, corners) in mesh.faces() {
                all.push_face(corners.iter().map(|v| VertexId(v.0 + base)));
            }
        }
        Model::from(all)
    }

    fn mended(meshes: &[Mesh]) -> audit::Audit {
        let model = mend(&together(meshes), &MendOptions::default(), &()).unwrap();
        audit(&model.model, &audit::AuditOptions::default(), &()).unwrap()
    }

    fn reversed(mesh: &Mesh) -> Mesh {
        let mut out = Mesh::from_parts(mesh.positions().to_vec(), vec![], vec![0]).unwrap();
        for (_, corners) in mesh.faces() {
            out.push_face(corners.iter().rev().copied());
        }
        out
    }

    #[test]
    fn boxes_side_by_side_stay_two_closed_boxes() {
        let left = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
        let right = shapes::cuboid(DVec3::X, DVec3::new(2.0, 1.0, 1.0), 2);
        let after = mended(&[left, right]);
        assert!(after.mesh.watertight);
        assert_eq!(after.mesh.parts, 2);
        assert_eq!(after.count("lamina-faces"), 0);
    }

    #[test]
    fn a_shape_in_the_place_of_another_goes() {
        let ball = shapes::sphere(1.0, 2);
        for other in [ball.clone(), reversed(&ball)] {
            let after = mended(&[ball.clone(), other]);
            assert!(after.mesh.watertight);
            assert_eq!(after.mesh.faces, ball.face_count());
            assert_eq!(after.count("reversed-faces"), 0);
        }
    }

    #[test]
    fn a_loose_patch_on_a_closed_surface_goes() {
        let ball = shapes::sphere(1.0, 3);
        let mut patch = Mesh::from_parts(ball.positions().to_vec(), vec![], vec![0]).unwrap();
        for (face, corners) in ball.faces() {
            if ball.face_middle(face).z > 0.5 {
                patch.push_face(corners.iter().copied());
            }
        }
        for patch in [patch.clone(), reversed(&patch)] {
            let after = mended(&[ball.clone(), patch]);
            assert!(after.mesh.watertight);
            assert_eq!(after.mesh.faces, ball.face_count());
        }
    }
}
