use super::*;
use crate::audit::{self, audit};
use crate::shapes;
use proptest::prelude::*;

fn without(mesh: &Mesh, gone: impl Fn(FaceId) -> bool) -> Model {
    let mut out = Mesh::from_parts(mesh.positions().to_vec(), vec![], vec![0]).unwrap();
    for (face, vertices) in mesh.faces() {
        if !gone(face) {
            out.push_face(vertices.iter().copied());
        }
    }
    Model::from(out)
}

fn filled(model: &Model) -> (Outcome, audit::Audit) {
    let outcome = fill(model, &Options::default(), &());
    let audit = audit(&outcome.model, &audit::Options::default(), &());
    (outcome, audit)
}

#[test]
fn a_flat_hole_of_thousands_of_edges_gets_exactly_its_area() {
    // A C-shaped hole: the mouth must not be closed over.
    let mut border = Vec::new();
    let steps = 1500;
    for (radius, forth) in [(2.0, true), (1.0, false)] {
        for i in 0..=steps {
            let share = i as f64 / steps as f64;
            let turn = 0.3 + 5.6 * if forth { share } else { 1.0 - share };
            border.push(DVec3::new(radius * turn.cos(), radius * turn.sin(), 0.0));
        }
    }
    let area = vector_area(&border);
    let none = |_: u32, _: u32| false;
    let triangles = patch::closed(&border, &none).unwrap();
    assert_eq!(triangles.len(), border.len() - 2);
    let sum: f64 = triangles
        .iter()
        .map(|t| vector_area(&t.map(|i| border[i as usize])))
        .sum();
    assert!((sum - area).abs() < 1e-9 * area, "{sum} against {area}");
}

fn vector_area(points: &[DVec3]) -> f64 {
    crate::measure::vector_area_of(points.iter().copied()).length()
}

#[test]
fn the_cap_of_a_sphere_closes_with_the_least_area() {
    let sphere = shapes::sphere(1.0, 5);
    let open = without(&sphere, |f| sphere.face_middle(f).z > 0.6);
    let (outcome, audit) = filled(&open);
    assert_eq!(outcome.filled.len(), 1);
    assert!(audit.mesh.watertight);
    assert_eq!(audit.count("reversed-faces"), 0);
    let disc = std::f64::consts::PI * (1.0 - 0.36);
    assert!((outcome.filled[0].area / disc - 1.0).abs() < 0.1);
}

#[test]
fn a_long_ragged_rim_closes_without_a_fault() {
    let sphere = shapes::bumpy_sphere(400_000);
    let open = without(&sphere, |f| {
        let p = sphere.face_middle(f);
        p.z + 0.2 * (8.0 * p.y.atan2(p.x)).sin() > 0.3
    });
    let (outcome, audit) = filled(&open);
    assert!(outcome.filled[0].edges > 900, "{}", outcome.filled[0].edges);
    assert!(audit.mesh.watertight);
    for check in [
        "nonmanifold-edges",
        "misoriented-edges",
        "reversed-faces",
        "zero-area-faces",
    ] {
        assert_eq!(audit.count(check), 0, "{check}");
    }
}

#[test]
fn a_hole_whose_diagonals_are_taken_gets_a_middle_vertex() {
    // Three sides of a tetrahedron-like tent: both diagonals of the square are edges already.
    let mut mesh = Mesh::default();
    for p in [
        (0., 0., 0.),
        (1., 0., 0.),
        (1., 1., 0.),
        (0., 1., 0.),
        (0.5, 0.5, 1.0),
        (0.5, 0.5, -1.0),
    ] {
        mesh.push_vertex(DVec3::new(p.0, p.1, p.2));
    }
    for face in [
        [0, 1, 4],
        [1, 2, 4],
        [2, 3, 4],
        [3, 0, 4],
        [0, 2, 5],
        [1, 3, 5],
    ] {
        mesh.push_face(face.map(VertexId));
    }
    let model = Model::from(mesh);
    let outcome = fill(
        &model,
        &Options {
            up_to_edges: Some(4),
            ..Options::default()
        },
        &(),
    );
    let after = audit(&outcome.model, &audit::Options::default(), &());
    assert_eq!(after.count("nonmanifold-edges"), 0);
    assert!(outcome.filled.iter().any(|f| f.edges == 4 && f.faces == 4));
}

#[test]
fn a_lone_triangle_is_not_doubled() {
    let mut mesh = Mesh::default();
    let corners = [DVec3::ZERO, DVec3::X, DVec3::Y].map(|p| mesh.push_vertex(p));
    mesh.push_face(corners);
    let (outcome, audit) = filled(&Model::from(mesh));
    assert_eq!(outcome.left.len(), 1);
    assert_eq!(audit.count("lamina-faces"), 0);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    #[test]
    fn random_holes_in_a_torus_close(gone in prop::collection::btree_set(0usize..600, 1..60)) {
        let torus = shapes::torus(3.0, 1.0, 30, 20);
        let open = without(&torus, |f| gone.contains(&f.index()));
        let (outcome, audit) = filled(&open);
        prop_assert!(outcome.left.is_empty());
        prop_assert!(audit.mesh.watertight, "{:?}", audit.mesh);
        prop_assert_eq!(audit.count("nonmanifold-edges"), 0);
    }
}
