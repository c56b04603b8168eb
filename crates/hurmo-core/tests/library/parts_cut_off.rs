//! Which parts of a model were cut off a larger one.

use glam::DVec3;
use hurmo_core::fill::fill;
use hurmo_core::measure::parts_measured;
use hurmo_core::parts::cut_off;
use hurmo_core::topology::Parts;
use hurmo_core::{FaceId, Mesh, Model, VertexId, shapes};

fn together(meshes: &[Mesh]) -> Mesh {
    let mut all = Mesh::default();
    for mesh in meshes {
        let base = all.vertex_count() as u32;
        mesh.positions().iter().for_each(|&p| {
            all.push_vertex(p);
        });
        for (_, face) in mesh.faces() {
            all.push_face(face.iter().map(|v| VertexId(v.0 + base)));
        }
    }
    all
}

#[test]
fn a_button_was_itself_and_a_tip_was_a_piece() {
    let ball = shapes::sphere(1.0, 5);
    let mut button = shapes::sphere(0.02, 2);
    let by = DVec3::new(0.9, 0.9, 0.0);
    button.move_vertices(|_, p| p + by).unwrap();
    let before = together(&[ball.clone(), button.clone()]);
    // A cap of the ball comes off, and is closed by a lid.
    let low = |f: FaceId| ball.face_middle(f).z < 0.999;
    let (rest, _) = Model::from(ball.clone()).without_faces(|f| !low(f));
    let (cap, _) = Model::from(ball.clone()).without_faces(low);
    let closed = |model| fill(&model, &Default::default(), &()).unwrap().model.mesh;
    let after = together(&[closed(rest), closed(cap), button]);
    let measures = parts_measured(&after, &Parts::of(&after));
    assert_eq!(measures.len(), 3);
    let cut = cut_off(&before, &after);
    assert_eq!(cut.len(), 1, "{measures:?}");
    assert!(measures[cut[0].index()].bounds.min.z > 0.9);
    assert!(cut_off(&before, &before).is_empty());
}
