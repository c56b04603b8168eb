mod choosing;
mod surfaces;

use super::*;
use crate::audit::{self, audit};
use crate::mesh::{CornerLayer, FaceId, Mesh, VertexId};
use crate::random_cases::cases;
use crate::shapes;
use crate::units::Axis;
use glam::{DVec2, DVec3};
use proptest::prelude::*;

pub(super) fn without(mesh: &Mesh, gone: impl Fn(FaceId) -> bool) -> Model {
    let mut out = Mesh::from_parts(mesh.positions().to_vec(), vec![], vec![0]).unwrap();
    for (face, vertices) in mesh.faces() {
        if !gone(face) {
            out.push_face(vertices.iter().copied());
        }
    }
    Model::from(out)
}

fn filled(model: &Model) -> (FillOutcome, audit::Audit) {
    let outcome = fill(model, &FillOptions::default(), &()).unwrap();
    let audit = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
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
    let triangles = minimum_area::closed(&border, &vec![DVec3::ZERO; border.len()], &none).unwrap();
    assert_eq!(triangles.len(), border.len() - 2);
    let sum: f64 = triangles
        .iter()
        .map(|t| vector_area(&t.map(|i| border[i as usize])))
        .sum();
    assert!((sum - area).abs() < 1e-9 * area, "{sum} against {area}");
}

fn vector_area(points: &[DVec3]) -> f64 {
    crate::geometry::vector_area_of(points.iter().copied()).length()
}

#[test]
fn the_cap_of_a_sphere_closes_with_the_least_area() {
    let sphere = shapes::sphere(1.0, 5);
    let open = without(&sphere, |f| sphere.face_middle(f).z > 0.6);
    let (outcome, audit) = with_surface(&open, Surface::Flat);
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
        &FillOptions {
            up_to_edges: Some(4),
            ..FillOptions::default()
        },
        &(),
    )
    .unwrap();
    let after = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
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
    #![proptest_config(cases(48))]
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

pub(super) fn with_surface(model: &Model, surface: Surface) -> (FillOutcome, audit::Audit) {
    let options = FillOptions {
        surface: Some(surface),
        ..FillOptions::default()
    };
    let outcome = fill(model, &options, &()).unwrap();
    let audit = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
    (outcome, audit)
}

#[test]
fn uvs_and_colours_are_spread_over_new_faces() {
    let plane = shapes::grid(20, 20, 4.0, 4.0);
    let mut open = without(&plane, |f| {
        let middle = plane.face_middle(f);
        middle.truncate().length() < 1.0 || middle.truncate().distance(DVec2::splat(2.0)) < 1.0
    });
    let uv = |p: DVec3| DVec2::new(0.1 * p.x + 0.3, 0.2 * p.y);
    let mesh = &open.mesh;
    open.attributes.uvs = Some(CornerLayer {
        values: mesh.positions().iter().map(|&p| uv(p)).collect(),
        index: mesh.corners().iter().map(|v| v.0).collect(),
    });
    let color = |p: DVec3| [p.x as f32 * 0.25 + 0.5, 0.5, p.y as f32 * 0.25 + 0.5, 1.0];
    open.attributes.colors = Some(mesh.positions().iter().map(|&p| color(p)).collect());
    let facts = rims_described(mesh);
    let hole = facts.iter().find(|rim| rim.kind == Kind::Hole).unwrap().rim;
    for surface in [Surface::Flat, Surface::Tight] {
        let options = FillOptions {
            rims: vec![hole.index()..=hole.index()],
            surface: Some(surface),
            ..FillOptions::default()
        };
        let outcome = fill(&open, &options, &()).unwrap();
        let after = &outcome.model;
        assert!(outcome.filled[0].faces > 10);
        let (uvs, colors) = (&after.attributes.uvs, &after.attributes.colors);
        for (corner, &vertex) in after.mesh.corners().iter().enumerate() {
            let here = after.mesh.position(vertex);
            let assigned = uvs.as_ref().unwrap().at(corner).unwrap();
            assert!(assigned.distance(uv(here)) < 0.01, "{assigned} at {here}");
        }
        for (vertex, assigned) in colors.as_ref().unwrap().iter().enumerate() {
            let wanted = color(after.mesh.positions()[vertex]);
            assert!(
                (assigned[0] - wanted[0]).abs() < 0.02 && (assigned[2] - wanted[2]).abs() < 0.02
            );
        }
    }
}

#[test]
fn a_hole_across_a_uv_seam_gets_no_uvs() {
    let sphere = shapes::sphere(1.0, 4);
    let mut open = without(&sphere, |f| sphere.face_middle(f).z > 0.8);
    let count = open.mesh.corners().len();
    // Every face its own island.
    open.attributes.uvs = Some(CornerLayer {
        values: (0..count).map(|i| DVec2::splat(i as f64)).collect(),
        index: (0..count as u32).collect(),
    });
    let outcome = fill(&open, &FillOptions::default(), &()).unwrap();
    let uvs = outcome.model.attributes.uvs.unwrap();
    assert!((count..uvs.index.len()).all(|corner| uvs.at(corner).is_none()));
    assert!(uvs.index.len() > count);
}

#[test]
fn trimming_takes_ragged_rows_off_before_the_hole_closes() {
    let sphere = shapes::sphere(1.0, 5);
    let mut open = without(&sphere, |f| sphere.face_middle(f).z > 0.7);
    // Ragged: what lies at the border sticks out.
    let rim = Rims::of(&open.mesh, &Edges::of(&open.mesh)).closed[0].clone();
    for (i, vertex) in rim.vertices.iter().enumerate() {
        let sign = if i % 2 == 0 { 1.0 } else { -1.0 };
        open.mesh.positions_mut()[vertex.index()] *= 1.0 + 0.05 * sign;
    }
    let off = |trim: usize| {
        let options = FillOptions {
            trim,
            surface: Some(Surface::Round),
            ..FillOptions::default()
        };
        let outcome = fill(&open, &options, &()).unwrap();
        let after = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
        assert!(after.mesh.watertight);
        assert_eq!(outcome.filled[0].rim, crate::mesh::RimId(0));
        let far = outcome
            .model
            .mesh
            .positions()
            .iter()
            .map(|p| (p.length() - 1.0).abs());
        (outcome.trimmed, far.fold(0.0, f64::max))
    };
    let (none, ragged) = off(0);
    let (some, even) = off(1);
    assert_eq!(none, 0);
    assert!(some > 50);
    assert!(ragged > 0.04 && even < 0.02, "{ragged}, then {even}");
}

/// A ring of steep waves round a hole whose rim is jagged within it.
fn jagged_ring(edges: u32) -> Model {
    const ROWS: u32 = 8;
    let mut mesh = Mesh::default();
    for row in 0..ROWS {
        for i in 0..edges {
            let turn = std::f64::consts::TAU * f64::from(i) / f64::from(edges);
            let row = match row {
                0 => 0.3 * (1.7 * f64::from(i)).sin(),
                _ => f64::from(row),
            };
            let inward = 1.0 - row / f64::from(ROWS);
            let radius = 1.0 + 0.006 * row + 0.01 * (9.0 * turn).sin() * inward;
            let height = 0.05 * (5.0 * turn).cos() * inward;
            mesh.push_vertex(DVec3::new(radius * turn.cos(), radius * turn.sin(), height));
        }
    }
    let at = |row: u32, i: u32| VertexId(row * edges + i % edges);
    for row in 0..ROWS - 1 {
        for i in 0..edges {
            let (inner, outer) = (
                [at(row, i), at(row, i + 1)],
                [at(row + 1, i), at(row + 1, i + 1)],
            );
            mesh.push_face([inner[0], outer[0], outer[1], inner[1]]);
        }
    }
    Model::from(mesh)
}

#[test]
fn long_jagged_rims_get_what_was_asked_for_and_nothing_meets() {
    for surface in [Surface::Tight, Surface::Round] {
        let model = jagged_ring(2_000);
        let rims = rims_described(&model.mesh);
        let hole = rims.iter().position(|rim| rim.kind == Kind::Hole).unwrap();
        let options = FillOptions {
            rims: vec![hole..=hole],
            surface: Some(surface),
            ..FillOptions::default()
        };
        let outcome = fill(&model, &options, &()).unwrap();
        let filled = &outcome.filled[0];
        assert_eq!(filled.surface, surface, "{:?}", filled.why_plainer);
        assert!(!filled.meets_others);
        let audit = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!(audit.count("intersecting-faces"), 0, "{surface:?}");
        assert_eq!(audit.count("reversed-faces"), 0, "{surface:?}");
        assert_eq!(audit.mesh.rims, rims.len() - 1);
    }
}

#[test]
fn the_border_of_a_one_sided_band_is_left_but_a_hole_in_it_is_not() {
    const LONG: usize = 40;
    let mut band = Mesh::default();
    for i in 0..LONG {
        let turn = std::f64::consts::TAU * i as f64 / LONG as f64;
        let out = DVec3::new(turn.cos(), turn.sin(), 0.0);
        let across = (turn / 2.0).cos() * DVec3::Z + (turn / 2.0).sin() * out;
        for side in -2..=2 {
            band.push_vertex(out + f64::from(side) * 0.1 * across);
        }
    }
    let at = |i: usize, side: usize| {
        let side = if i == LONG { 4 - side } else { side };
        VertexId::new(5 * (i % LONG) + side)
    };
    for i in 0..LONG {
        for side in (0..4).filter(|&side| [i, side] != [LONG / 2, 1]) {
            let quad = [(i, side), (i, side + 1), (i + 1, side + 1), (i + 1, side)];
            band.push_face(quad.map(|(i, side)| at(i, side)));
        }
    }
    let (outcome, _) = filled(&Model::from(band));
    assert_eq!(outcome.filled.len(), 1);
    assert_eq!(outcome.filled[0].edges, 4);
    assert_eq!(outcome.left[0].reason, LeftBecause::OneSided);
}
