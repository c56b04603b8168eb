//! No face comes to cross another where that is forbidden, and does where it isn't.

use super::*;
use crate::audit::{self, Level, audit};
use crate::mesh::VertexId;
use crate::shapes;
use glam::DVec3;

fn crossing(model: &Model) -> usize {
    let mut options = audit::AuditOptions::default();
    options.brief.set_level("intersecting-faces", Level::Warn);
    audit(model, &options, &())
        .unwrap()
        .count("intersecting-faces")
}

fn reduced(model: &Model, to: usize, no_crossing: bool) -> Model {
    let options = DecimateOptions {
        to: Some(to),
        no_crossing,
        ..DecimateOptions::default()
    };
    decimate(model, &options, &()).unwrap().model
}

/// One surface inside another, as the skins of a shell.
fn put_together(meshes: &[Mesh]) -> Model {
    let mut all = Mesh::default();
    for mesh in meshes {
        let base = all.vertex_count() as u32;
        for p in mesh.positions() {
            all.push_vertex(*p);
        }
        for (_, face) in mesh.faces() {
            all.push_face(face.iter().map(|v| VertexId(v.0 + base)));
        }
    }
    Model::from(all)
}

fn scaled(mesh: &Mesh, by: f64) -> Mesh {
    let mut mesh = mesh.clone();
    mesh.positions_mut().iter_mut().for_each(|p| *p *= by);
    mesh
}

#[test]
fn skins_of_a_thin_shell_stay_apart() {
    let bumpy = shapes::bumpy_sphere(8_000);
    let shell = put_together(&[bumpy.clone(), scaled(&bumpy, 0.985)]);
    assert_eq!(crossing(&shell), 0);
    // At so few triangles their skins run through each other, if nothing forbids it.
    assert!(crossing(&reduced(&shell, 800, false)) > 0);
    let apart = reduced(&shell, 800, true);
    assert_eq!(crossing(&apart), 0);
    assert!(
        apart.mesh.face_count() < 4_000,
        "{}",
        apart.mesh.face_count()
    );
}

#[test]
fn a_surface_does_not_come_to_cross_itself() {
    // Sheets of one surface, close to each other: a wave of steep folds.
    let mut folds = shapes::grid(240, 24, 24.0, 3.0);
    for p in folds.positions_mut() {
        let turn = p.x * 2.6;
        *p = DVec3::new(
            p.x * 0.12 + 0.35 * turn.sin(),
            p.y + 0.1 * p.x,
            1.2 * turn.cos(),
        );
    }
    let folds = Model::from(folds);
    let before = crossing(&folds);
    for to in [2_000, 600, 200] {
        let low = reduced(&folds, to, true);
        assert!(crossing(&low) <= before, "{} at {to}", crossing(&low));
    }
}

#[test]
fn what_crossed_before_can_still_be_reduced() {
    let one = shapes::sphere(1.0, 4);
    let mut two = one.clone();
    two.positions_mut().iter_mut().for_each(|p| p.x += 0.8);
    let both = put_together(&[one, two]);
    assert!(crossing(&both) > 0);
    let low = reduced(&both, 1_000, true);
    assert!(low.mesh.face_count() <= 1_000, "{}", low.mesh.face_count());
}
