//! What surfaces come out as, against closed forms.

use super::super::*;
use super::{filled, with_surface, without};
use crate::shapes;
use glam::DVec3;

/// The largest and the least of what `measure` says of the vertices that were added.
fn of_new(before: &Model, after: &Model, measure: impl Fn(DVec3) -> f64) -> (f64, f64) {
    let new = &after.mesh.positions()[before.mesh.vertex_count()..];
    assert!(!new.is_empty());
    let measures = new.iter().map(|&p| measure(p));
    measures.fold((f64::INFINITY, 0.0), |(low, high), m| {
        (low.min(m), high.max(m))
    })
}

#[test]
fn round_fills_of_a_sphere_lie_on_the_sphere() {
    // The last is nearly half of it, where the height depends most on the curvature.
    for (cut, off) in [(0.9, 0.002), (0.7, 0.005), (0.5, 0.005), (0.2, 0.015)] {
        let sphere = shapes::sphere(1.0, 5);
        let open = without(&sphere, |f| sphere.face_middle(f).z > cut);
        let (outcome, audit) = with_surface(&open, Surface::Round);
        assert_eq!(
            outcome.filled[0].surface,
            Surface::Round,
            "{:?}",
            outcome.filled
        );
        assert!(audit.mesh.watertight);
        let (low, high) = of_new(&open, &outcome.model, |p| p.length());
        assert!(
            low > 1.0 - off && high < 1.0 + off,
            "cut at {cut}: {low} to {high}"
        );
        for check in ["intersecting-faces", "zero-area-faces", "nonmanifold-edges"] {
            assert_eq!(audit.count(check), 0, "{check}");
        }
    }
}

#[test]
fn where_no_round_surface_is_found_a_tight_one_is_laid_and_told() {
    // All but half a sphere, with a jagged rim.
    let sphere = shapes::sphere(1.0, 4);
    let open = without(&sphere, |f| sphere.face_middle(f).z > 0.05);
    let (outcome, audit) = with_surface(&open, Surface::Round);
    assert!(audit.mesh.watertight);
    assert_eq!(audit.count("intersecting-faces"), 0);
    let (_, high) = of_new(&open, &outcome.model, |p| p.length());
    assert!(high < 1.1, "{high}");
    let filled = &outcome.filled[0];
    assert_eq!(
        filled.surface == Surface::Round,
        filled.why_plainer.is_none()
    );
}

#[test]
fn round_fills_of_a_cylinders_side_lie_on_the_cylinder() {
    let profile: Vec<glam::DVec2> = (0..=60)
        .map(|i| glam::DVec2::new(1.0, f64::from(i) * 0.1))
        .collect();
    let tube = shapes::lathe(&profile, 64, false);
    let model = crate::mesh::Model::from(tube);
    let middle = DVec3::new(1.0, 0.0, 3.0);
    let open = without(&model.mesh, |f| {
        model.mesh.face_middle(f).distance(middle) < 0.6
    });
    let rims = rims_described(&open.mesh);
    let hole = rims.iter().find(|rim| rim.kind == Kind::Hole).unwrap();
    let options = FillOptions {
        rims: vec![hole.rim.index()..=hole.rim.index()],
        ..FillOptions::default()
    };
    let outcome = fill(&open, &options, &()).unwrap();
    assert_eq!(
        outcome.filled[0].surface,
        Surface::Round,
        "asked for by the rim"
    );
    let (low, high) = of_new(&open, &outcome.model, |p| p.x.hypot(p.y));
    assert!(low > 0.98 && high < 1.02, "{low} to {high}");
}

#[test]
fn tight_fills_are_taut_and_as_dense_as_what_lies_round_them() {
    let sphere = shapes::sphere(1.0, 5);
    let open = without(&sphere, |f| sphere.face_middle(f).z > 0.6);
    let (outcome, audit) = with_surface(&open, Surface::Tight);
    assert!(audit.mesh.watertight);
    let disc = std::f64::consts::PI * (1.0 - 0.36);
    let filled = &outcome.filled[0];
    assert!((filled.area / disc - 1.0).abs() < 0.1, "{}", filled.area);
    let size = |area: f64, faces: usize| (area / faces as f64).sqrt();
    let around = size(4.0 * std::f64::consts::PI, sphere.face_count());
    let here = size(filled.area, filled.faces);
    assert!((0.6..1.6).contains(&(here / around)), "{}", here / around);
    assert_eq!(audit.count("intersecting-faces"), 0);
    assert_eq!(audit.count("sliver-faces"), 0);
}

#[test]
fn flat_rims_are_filled_flat_with_exactly_their_area() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::splat(2.0), 6);
    let open = without(&cube, |f| cube.face_middle(f).z > 2.0 - 1e-9);
    let (outcome, audit) = filled(&open);
    assert_eq!(outcome.filled[0].surface, Surface::Flat);
    assert!((outcome.filled[0].area - 4.0).abs() < 1e-12);
    assert!((audit.mesh.volume - 8.0).abs() < 1e-12);
}
