use super::*;
use crate::audit::{self, audit};
use crate::measure::{deviation, volume};
use crate::mesh::VertexId;
use crate::random_cases::cases;
use crate::shapes;
use crate::topology::Parts;
use glam::DQuat;
use proptest::prelude::*;

pub(super) fn skin_of(
    model: &Model,
    options: &ReskinOptions,
) -> Result<ReskinOutcome, RemeshError> {
    reskin(&SortedAnalysis::of(model, &()), options, &())
}

pub(super) fn skin(mesh: &Mesh, cell: f64) -> ReskinOutcome {
    skin_of(&Model::from(mesh.clone()), &ReskinOptions::of(cell)).unwrap()
}

pub(super) fn joined(meshes: &[Mesh]) -> Mesh {
    let models: Vec<Model> = meshes.iter().cloned().map(Model::from).collect();
    let named: Vec<_> = models.iter().map(|model| (String::new(), model)).collect();
    crate::parts::joined(&named).model.mesh
}

pub(super) fn moved(mut mesh: Mesh, by: DVec3) -> Mesh {
    mesh.positions_mut().iter_mut().for_each(|at| *at += by);
    mesh
}

/// Closed, manifold, outward, and crossing nowhere.
pub(super) fn assert_sound(mesh: &Mesh) {
    let options = audit::AuditOptions::default();
    let audit = audit(&Model::from(mesh.clone()), &options, &()).unwrap();
    assert!(audit.mesh.watertight && audit.mesh.volume > 0.0);
    for check in [
        "pinched-vertices",
        "intersecting-faces",
        "zero-area-faces",
        "reversed-faces",
        "lamina-faces",
    ] {
        let found = audit
            .findings
            .iter()
            .find(|found| found.check == check)
            .unwrap();
        assert_eq!(found.count(), 0, "{check}");
    }
}

#[test]
fn a_ball_becomes_a_ball() {
    let ball = shapes::sphere(1.0, 5);
    let mut last = f64::INFINITY;
    for cell in [0.2, 0.1, 0.05] {
        let skin = skin(&ball, cell).model.mesh;
        assert_sound(&skin);
        let off = deviation(&skin, &ball, 40_000).unwrap();
        // The chord's height over a cell's diagonal.
        assert!(off.max < 0.8 * cell * cell, "{} at {cell}", off.max);
        assert!(off.rms < last / 2.5);
        last = off.rms;
    }
}

#[test]
fn a_box_keeps_its_edges_and_corners() {
    let size = DVec3::new(1.0, 0.7, 0.4);
    let cell = 0.0917;
    let skin = skin(&shapes::cuboid(DVec3::ZERO, size, 3), cell).model.mesh;
    assert_sound(&skin);
    assert!(
        (volume(&skin) - 0.28).abs() < 0.28 * 2e-3,
        "{}",
        volume(&skin)
    );
    let mesh = shapes::cuboid(DVec3::ZERO, size, 3);
    let off = deviation(&skin, &mesh, 40_000).unwrap();
    assert!(off.max < 0.01 * cell, "{} of {cell}", off.max);
}

#[test]
fn crossing_parts_become_one() {
    let one = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
    let two = moved(one.clone(), DVec3::new(0.5, 0.31, 0.27));
    let buried = moved(
        shapes::cuboid(DVec3::splat(0.2), DVec3::splat(0.4), 1),
        DVec3::ZERO,
    );
    let outcome = skin(&joined(&[one, two, buried]), 0.04);
    assert_sound(&outcome.model.mesh);
    let union = 2.0 - 0.5 * 0.69 * 0.73;
    assert!((volume(&outcome.model.mesh) - union).abs() < 2e-3 * union);
    assert_eq!((outcome.buried.len(), outcome.lost.len()), (1, 0));
}

#[test]
fn a_model_that_faces_inward_is_no_hindrance() {
    let mut mesh = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
    let faces: Vec<Vec<VertexId>> = mesh
        .faces()
        .enumerate()
        // All turned, and a few of them back again.
        .map(|(i, (_, face))| match i % 5 {
            0 => face.to_vec(),
            _ => face.iter().rev().copied().collect(),
        })
        .collect();
    let places = mesh.positions().to_vec();
    mesh = Mesh::from_parts(places, vec![], vec![0]).unwrap();
    faces.into_iter().for_each(|face| {
        mesh.push_face(face);
    });
    let skin = skin(&mesh, 0.1).model.mesh;
    assert_sound(&skin);
    assert!((volume(&skin) - 1.0).abs() < 2e-3);
}

#[test]
fn a_hole_is_closed() {
    let ball = Model::from(shapes::sphere(1.0, 5));
    let middles: Vec<f64> = ball
        .mesh
        .face_ids()
        .map(|f| ball.mesh.face_middle(f).z)
        .collect();
    let (open, _) = ball.without_faces(|face| middles[face.index()] > 0.8);
    let outcome = skin(&open.mesh, 0.06);
    assert_sound(&outcome.model.mesh);
    assert!(outcome.closing > 50);
    // A lid that bulges no further than the ball did and dips no deeper than the rim's plane.
    let (least, most) = (4.0, volume(&ball.mesh));
    let found = volume(&outcome.model.mesh);
    assert!((0.95 * least..most).contains(&found), "{found}");
}

#[test]
fn what_is_thinner_than_a_cell_is_told() {
    let plate = shapes::cuboid(DVec3::ZERO, DVec3::new(1.0, 1.0, 0.01), 1);
    let block = moved(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1), DVec3::X * 2.0);
    let outcome = skin(&joined(&[plate, block]), 0.1);
    assert_sound(&outcome.model.mesh);
    let thin = outcome.thin_count;
    assert!(
        thin > 50 || outcome.lost.is_empty(),
        "{thin} {:?}",
        outcome.lost
    );
    assert!(outcome.thin.iter().all(|at| at.x < 1.1));
}

#[test]
fn sheets_leave_no_crumbs() {
    // A ball, and sheets that close in nothing beside it.
    let sheet = |z: f64| moved(shapes::grid(9, 9, 2.0, 2.0), DVec3::new(3.0, 0.3, z));
    let ball = shapes::sphere(1.0, 4);
    let outcome = skin(&joined(&[ball, sheet(0.0), sheet(0.3), sheet(0.6)]), 0.07);
    let mesh = &outcome.model.mesh;
    assert_sound(mesh);
    let small = crate::measure::parts_measured(mesh, &Parts::of(mesh))
        .into_iter()
        .filter(|part| part.bounds.diagonal() < 0.3)
        .count();
    assert_eq!(
        small, 0,
        "{} small_components left out",
        outcome.small_components
    );
}

#[test]
fn what_cannot_be_done_is_refused() {
    let ball = Model::from(shapes::sphere(1.0, 2));
    let of = |model: &Model, cell| skin_of(model, &ReskinOptions::of(cell)).unwrap_err();
    assert_eq!(of(&ball, 0.0), RemeshError::NoLength);
    assert_eq!(of(&Model::default(), 0.1), RemeshError::NoSurface);
    assert!(matches!(of(&ball, 1e-6), RemeshError::TooManyCells { finest, .. } if finest > 1e-6));
}

#[test]
fn too_many_cells_are_told_in_memory() {
    let ball = Model::from(shapes::sphere(1.0, 2));
    let options = ReskinOptions {
        memory: 1e8,
        ..ReskinOptions::of(0.001)
    };
    let refused = skin_of(&ball, &options).unwrap_err();
    let RemeshError::TooManyCells { finest, needed, .. } = refused else {
        panic!("{refused}")
    };
    assert!(needed > 0.1 && finest > 0.001);
    let options = ReskinOptions {
        cell: finest,
        ..options
    };
    assert!(checked(&MeshAnalysis::of(&ball), &options).is_ok());
}

proptest! {
    #![proptest_config(cases(12))]

    /// Whatever goes in: crossing, open, turned, facing outward and inward.
    #[test]
    fn every_skin_is_sound(
        seed in prop::collection::vec((0..4u8, prop::array::uniform6(-1.0..1.0f64), 0.2..1.0f64, 0.0..0.5f64, any::<bool>()), 1..9),
        cell in 0.06..0.3f64,
        more in 0..6u8,
        length in 1.0..5.0f64,
        rounded in any::<bool>(),
    ) {
        let shapes: Vec<Mesh> = seed
            .into_iter()
            .map(|(kind, [x, y, z, a, b, c], size, gone, turned)| {
                let mut mesh = match kind {
                    0 => shapes::sphere(size, 2),
                    1 => shapes::torus(size, 0.3 * size, 16, 8),
                    // As sharp as a rope, and across the grid anyhow.
                    2 => shapes::torus(size, 0.2 * size, 40, 5),
                    _ => shapes::cuboid(DVec3::splat(-size), DVec3::splat(size), 2),
                };
                if kind > 1 {
                    let turn = DQuat::from_euler(glam::EulerRot::XYZ, 3.0 * a, 3.0 * b, 3.0 * c);
                    mesh.positions_mut().iter_mut().for_each(|at| *at = turn * *at);
                }
                let count = mesh.face_count() as f64;
                let (rest, _) = Model::from(mesh).without_faces(|f| (f.index() as f64) < gone * count);
                let mut mesh = moved(rest.mesh, DVec3::new(x, y, z));
                if turned && gone > 0.2 {
                    let faces: Vec<Vec<VertexId>> = mesh.faces().map(|(_, f)| f.iter().rev().copied().collect()).collect();
                    let mut turned = Mesh::from_parts(mesh.positions().to_vec(), vec![], vec![0]).unwrap();
                    faces.into_iter().for_each(|face| { turned.push_face(face); });
                    mesh = turned;
                }
                mesh
            })
            .collect();
        let when = |asked: bool| asked.then_some(length * cell);
        let options = ReskinOptions {
            offset: when(more == 1),
            close_gaps: when(more == 2 || more == 4),
            min_thickness: when(more == 3 || more == 4),
            fill_voids: more == 5,
            rounded,
            ..ReskinOptions::of(cell)
        };
        let model = Model::from(joined(&shapes));
        let skin = skin_of(&model, &options).unwrap().model.mesh;
        if skin.face_count() > 0 {
            assert_sound(&skin);
            // So it is in single precision.
            let mut single = skin.clone();
            let places = single.positions_mut().iter_mut();
            places.for_each(|at| *at = at.as_vec3().as_dvec3());
            assert_sound(&single);
            let apart = crate::spatial::near_weld(skin.positions(), 0.99 * near::CROWDED * cell);
            assert!(apart.iter().enumerate().all(|(v, first)| first.index() == v));
        }
    }
}
