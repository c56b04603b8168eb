use super::*;
use crate::audit::{self, Audit, audit};
use crate::measure::deviation;
use crate::mesh::Mesh;
use crate::shapes;
use crate::triangulate::quality;
use glam::DVec3;

fn remeshed(mesh: &Mesh, target: Target) -> (Outcome, Audit) {
    let options = Options::of(target);
    let outcome = remesh(&Model::from(mesh.clone()), &options, &()).unwrap();
    let audit = audit(&outcome.model, &audit::Options::default(), &());
    (outcome, audit)
}

fn qualities(mesh: &Mesh) -> (f64, f64) {
    let all: Vec<f64> = mesh
        .faces()
        .map(|(_, f)| quality([0, 1, 2].map(|i| mesh.position(f[i]))))
        .collect();
    let mean = all.iter().sum::<f64>() / all.len() as f64;
    (mean, all.into_iter().fold(1.0, f64::min))
}

#[test]
fn a_sphere_becomes_even_and_stays_a_sphere() {
    let sphere = shapes::bumpy_sphere(20_000);
    let (outcome, audit) = remeshed(&sphere, Target::Count(12_000));
    assert!((audit.mesh.faces as f64 / 12_000.0 - 1.0).abs() < 0.03);
    assert!(audit.mesh.watertight);
    assert!(audit.findings.iter().all(|finding| finding.count() == 0));
    let (mean, worst) = qualities(&outcome.model.mesh);
    assert!(mean > 0.9 && worst > 0.2, "{mean} {worst}");
    let moved = deviation(&sphere, &outcome.model.mesh, 20_000).unwrap();
    assert!(moved.max < 0.012 && moved.rms < 0.002, "{moved:?}");
}

#[test]
fn a_box_keeps_its_edges_and_corners_exactly() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::new(2.0, 1.0, 1.0), 1);
    let (outcome, audit) = remeshed(&cube, Target::Edge(0.11));
    assert!(
        (audit.mesh.volume - 2.0).abs() < 1e-9,
        "{}",
        audit.mesh.volume
    );
    assert!((audit.mesh.area - 10.0).abs() < 1e-9);
    assert!(audit.mesh.watertight);
    let (mean, worst) = qualities(&outcome.model.mesh);
    assert!(mean > 0.85 && worst > 0.2, "{mean} {worst}");
    for corner in cube.positions() {
        assert!(outcome.model.mesh.positions().contains(corner), "{corner}");
    }
}

#[test]
fn an_open_sheet_keeps_its_border() {
    let sheet = shapes::grid(7, 5, 7.0, 5.0);
    for edge in [0.3, 2.2] {
        let (_, audit) = remeshed(&sheet, Target::Edge(edge));
        assert!((audit.mesh.area - 35.0).abs() < 1e-9);
        assert_eq!(audit.mesh.rims, 1);
        assert_eq!(audit.count("nonmanifold-edges"), 0);
    }
}

#[test]
fn what_would_not_fit_is_refused_with_what_would() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1);
    let options = Options::of;
    let model = Model::from(cube);
    assert!(matches!(
        remesh(&model, &options(Target::Edge(1e-7)), &()),
        Err(RemeshError::TooFine { .. })
    ));
    assert!(matches!(
        remesh(&model, &options(Target::Edge(0.0)), &()),
        Err(RemeshError::NoLength)
    ));
    assert!(matches!(
        remesh(&Model::default(), &options(Target::Edge(1.0)), &()),
        Err(RemeshError::NoSurface)
    ));
}
