//! Sheets that lie closer than the sagittas of quads.

use super::tests::{rebuilt, topology};
use super::*;
use crate::mesh::{FaceId, Mesh};
use crate::shapes;
use crate::spatial::Contacts;
use glam::DVec2;

/// A body of revolution with flat ends.
fn turned(profile: &[[f64; 2]]) -> Mesh {
    let profile: Vec<DVec2> = profile.iter().copied().map(DVec2::from_array).collect();
    shapes::lathe(&profile, 128, true)
}

/// No face meets another, in a mesh that is one of closed parts without handles.
fn assert_apart(mesh: Mesh, edge: f64, parts: i64) {
    let made = rebuilt(mesh.clone(), QuadTarget::Edge(edge));
    let quads = &made.model.mesh;
    assert_eq!(topology(quads), (2 * parts, 0, 0));
    let all: Vec<FaceId> = quads.face_ids().collect();
    assert_eq!(Contacts::meeting(quads, &all), []);
    assert_eq!(made.crossing, 0);
    let area = measure::area(&mesh);
    let wanted = area / (edge * edge);
    assert!(
        (quads.face_count() as f64) < 2.0 * wanted,
        "{}",
        quads.face_count()
    );
    let [was, is] = [&mesh, quads].map(measure::volume);
    // Less than half a sagitta off on the average.
    assert!((is - was).abs() < area * edge * edge / 16.0, "{was} {is}");
}

/// The hole's chords run a twentieth of a side into the shaft where vertices lie on the model.
#[test]
fn a_shaft_does_not_run_into_its_hub() {
    let mut both = turned(&[[1.6, 0.0], [1.6, 1.5], [1.01, 1.5], [1.01, 0.5]]);
    both.append(&turned(&[[1.0, 0.52], [1.0, 2.5]]));
    assert_apart(both, 0.4, 2);
}

/// A wall a fortieth of a side thick.
#[test]
fn the_sides_of_a_thin_bent_wall_stay_apart() {
    let cup = turned(&[[1.0, 0.0], [1.0, 1.0], [0.99, 1.0], [0.99, 0.01]]);
    assert_apart(cup, 0.4, 1);
}

/// Two flat rings, one in the other: their rims are chords that cross within the plane.
#[test]
fn flat_rings_in_each_other_stay_apart() {
    let ring = |inner: f64, outer: f64| {
        let profile = [[inner, 0.0], [outer, 0.0]].map(DVec2::from_array);
        shapes::lathe(&profile, 128, false)
    };
    let mut both = ring(0.3, 1.0);
    both.append(&ring(1.02, 3.0));
    let made = rebuilt(both, QuadTarget::Edge(0.5));
    let quads = &made.model.mesh;
    let all: Vec<FaceId> = quads.face_ids().collect();
    assert_eq!(Contacts::meeting(quads, &all), []);
    assert_eq!(made.crossing, 0);
    assert!(quads.positions().iter().all(|at| at.z == 0.0));
}
