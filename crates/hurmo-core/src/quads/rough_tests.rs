//! Rough and pointed surfaces.

use super::cleaning::QuadMesh;
use super::extraction::{Cell, Extracted, On};
use super::tests::{angles, rebuilt, topology};
use super::*;
use crate::mesh::Mesh;
use crate::shapes;
use glam::{DVec2, DVec3};

/// Coordinates of few digits: hundreds of edges have no length, and rows of edges bend sharply.
#[test]
fn a_rough_scan_has_no_creases() {
    let mut scan = shapes::rough_scan(40);
    let step = 3e-4;
    scan.move_vertices(|_, at| (at / step).round() * step)
        .unwrap();
    let made = rebuilt(scan, QuadTarget::Count(2_500));
    assert_eq!(topology(&made.model.mesh), (2, 0, 0));
    assert_eq!((made.parts_paired, made.feature_edges.len()), (0, 0));
    assert!(made.irregular < 50, "{}", made.irregular);
    let angles = angles(&made.model.mesh);
    assert!(angles[0] > 25.0 && angles[angles.len() - 1] < 160.0);
}

/// At the tip of a needle the surface turns by four quarters, within less than a quad.
#[test]
fn a_needle_ends_in_vertices_of_three_quads() {
    let profile = [
        [0.5, 0.0],
        [0.5, 0.6],
        [0.06, 0.9],
        [0.03, 1.6],
        [0.01, 2.4],
    ];
    let needle: Mesh = shapes::lathe(&profile.map(DVec2::from_array), 48, true);
    let mut options = QuadOptions::of(QuadTarget::Edge(0.09));
    options.crease = 180.0;
    let made = quads(&Model::from(needle), &options, &()).unwrap();
    let mesh = &made.model.mesh;
    assert_eq!(topology(mesh), (2, 0, 0));
    assert_eq!(made.parts_paired, 0);
    let mut quads_at = vec![0; mesh.vertex_count()];
    mesh.corners().iter().for_each(|v| quads_at[v.index()] += 1);
    assert!(quads_at.iter().all(|count| (3..=6).contains(count)));
    let tip = (mesh.positions().iter()).fold(0.0, |most: f64, at| most.max(at.z));
    assert!(tip > 2.2, "{tip}");
}

/// The rims of a cylinder are polygons of many short edges: quads end on these, not on chords of longer ones.
#[test]
fn vertices_of_lines_lie_on_the_models_lines() {
    let cylinder = shapes::lathe(&[[0.5, 0.0], [0.5, 2.0]].map(DVec2::from_array), 360, true);
    let made = rebuilt(cylinder, QuadTarget::Edge(0.15));
    let mesh = &made.model.mesh;
    let ends = made.feature_edges.iter().flatten();
    let places: Vec<_> = ends.map(|&v| mesh.position(v)).collect();
    assert!(places.len() >= 2 * 2 * 20);
    // Within the sagitta of an edge of the polygon.
    let most = 0.5 * (1.0 - (std::f64::consts::PI / 360.0).cos());
    for at in places {
        let off = 0.5 - at.truncate().length();
        assert!((-1e-9..=most + 1e-9).contains(&off), "{off} at {at}");
    }
}

/// A strip a millionth of its length across is one quad wide: lines lie closer across it, and not along.
#[test]
fn a_strip_far_too_narrow_for_quads_becomes_few_of_them() {
    let mut strip = shapes::grid(16, 1, 1.0, 1.0);
    strip
        .move_vertices(|_, at| at * DVec3::new(4.0, 1e-6, 1.0))
        .unwrap();
    let made = rebuilt(strip, QuadTarget::Edge(0.25));
    assert_eq!(made.parts_paired, 0);
    let count = made.model.mesh.face_count();
    assert!((1..600).contains(&count), "{count}");
}

/// No map runs over an edge of three sides: pairs of triangles take its place.
#[test]
fn three_sheets_on_one_edge_become_pairs() {
    let mut sheets = Mesh::default();
    let out = [0.0, 2.1, 4.2f64].map(|turn| DVec3::new(turn.cos(), turn.sin(), 0.0));
    let places = [DVec3::ZERO, DVec3::Z]
        .into_iter()
        .chain(out.into_iter().flat_map(|along| [along + DVec3::Z, along]));
    places.for_each(|at| {
        sheets.push_vertex(at);
    });
    for sheet in 1..4 {
        sheets.push_face([0, 1, 2 * sheet, 2 * sheet + 1].map(VertexId::new));
    }
    let made = rebuilt(sheets, QuadTarget::Edge(0.2));
    let mesh = &made.model.mesh;
    assert_eq!(made.parts_paired, 1);
    assert!(mesh.face_ids().all(|face| mesh.face(face).len() == 4));
    assert!(
        (40..400).contains(&mesh.face_count()),
        "{}",
        mesh.face_count()
    );
    assert!((measure::area(mesh) - 3.0).abs() < 1e-6);
}

/// Three sides of a quad on a straight line leave it no area; where it turns they do.
#[test]
fn quads_with_three_sides_on_a_straight_line_are_flat() {
    let flat = |places: [[f64; 2]; 4]| {
        let cells = places.map(|[x, y]| Cell {
            at: DVec3::new(x, y, 0.0),
            triangle: 0,
            on: On::Line,
        });
        let made = Extracted {
            quads: vec![[0, 1, 2, 3]],
            cells: cells.to_vec(),
            feature_edges: vec![[0, 1], [1, 2], [2, 3]],
            undivided: Vec::new(),
            merged: Vec::new(),
        };
        QuadMesh::cleaned(made).flat().len()
    };
    assert_eq!(flat([[0.0, 0.0], [1.0, 0.0], [2.0, 0.1], [3.0, 0.3]]), 1);
    assert_eq!(flat([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]]), 0);
    assert_eq!(flat([[0.0, 0.0], [1.0, 0.0], [2.0, 0.0], [2.0, 1.0]]), 0);
}
