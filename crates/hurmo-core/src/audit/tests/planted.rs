//! A clean shape plus a number of planted faults gives exactly that number.

use super::{add, add_face, checked, counted};
use crate::mesh::{FaceId, Mesh, Model, VertexId};
use crate::random_cases::cases;
use crate::shapes;
use crate::units::{Axis, Length, Unit};
use glam::DVec3;
use proptest::prelude::*;

const RING: f64 = 3.0;
const TUBE: f64 = 1.0;

fn torus() -> Mesh {
    shapes::torus(RING, TUBE, 40, 40)
}

/// Where the `i`-th of up to twelve things goes: round the ring, at a distance from its middle
/// line, away from the vertices of the torus.
fn spot(i: usize, off: f64) -> DVec3 {
    let turn = std::f64::consts::TAU * (i as f64 + 0.37) / 12.0;
    DVec3::new(turn.cos(), turn.sin(), 0.0) * RING + DVec3::Z * off
}

fn cube(size: f64) -> Mesh {
    shapes::cuboid(DVec3::splat(-size / 2.0), DVec3::splat(size / 2.0), 1)
}

/// The torus, some of whose faces are made anew; they are far apart.
fn with_faces(count: usize, make: impl Fn(&mut Mesh, [VertexId; 4])) -> Model {
    let torus = torus();
    let mut mesh = Mesh::from_parts(torus.positions().to_vec(), vec![], vec![0]).unwrap();
    for (face, corners) in torus.faces() {
        let (row, column) = (face.index() / 40, face.index() % 40);
        let number = (row / 4) * 10 + column / 4;
        let chosen = row % 4 == 1 && column % 4 == 1 && number < count;
        match chosen {
            true => make(&mut mesh, [corners[0], corners[1], corners[2], corners[3]]),
            false => {
                mesh.push_face(corners.iter().copied());
            }
        }
    }
    Model::from(mesh)
}

/// The torus with loose faces or parts beside it.
fn with_things(count: usize, thing: impl Fn(&mut Mesh, usize)) -> Model {
    let mut mesh = torus();
    (0..count).for_each(|i| thing(&mut mesh, i));
    Model::from(mesh)
}

proptest! {
    #![proptest_config(cases(24))]

    #[test]
    fn stray_edges(k in 0..12usize) {
        let mut model = Model::from(torus());
        // On an edge of a face, which is none.
        model.lines.push(vec![VertexId(0), VertexId(1)]);
        for i in 0..k {
            let ends = [0.0, 1.0].map(|up| model.mesh.push_vertex(spot(i, 5.0 + up)));
            model.lines.push(ends.to_vec());
            model.lines.push(vec![ends[1], ends[0]]);
        }
        prop_assert_eq!(counted(&model, "stray-edges"), k);
    }

    #[test]
    fn zero_length_edges(k in 0..12usize) {
        let model = with_faces(k, |mesh, [a, b, c, d]| {
            let again = mesh.push_vertex(mesh.position(a));
            mesh.push_face([a, again, b, c, d]);
        });
        prop_assert_eq!(counted(&model, "zero-length-edges"), k);
        prop_assert_eq!(counted(&model, "duplicate-vertices"), k);
    }

    #[test]
    fn sliver_faces(k in 0..12usize, ratio in 55.0..5000.0f64) {
        let model = with_things(k, |mesh, i| {
            let at = spot(i, 4.0);
            add_face(mesh, [at, at + DVec3::X, at + DVec3::new(0.4, 1.0 / ratio, 0.0)]);
        });
        prop_assert_eq!(counted(&model, "sliver-faces"), k);
        let strict = checked(&model, "sliver-faces", |brief| brief.thresholds.sliver_ratio = 6000.0);
        prop_assert_eq!(strict.count, 0);
    }

    #[test]
    fn concave_and_non_planar_faces(k in 0..12usize, dent in 0.01..0.9f64) {
        let dart = with_things(k, |mesh, i| {
            let at = spot(i, 4.0);
            let corners = [(0.0, 0.0), (1.0, -1.0), (dent, 0.0), (1.0, 1.0)];
            add_face(mesh, corners.map(|(x, y)| at + DVec3::new(x, y, 0.3 * x)));
        });
        prop_assert_eq!(counted(&dart, "concave-faces"), k);
        prop_assert_eq!(counted(&dart, "non-planar-faces"), 0);
        let bent = with_things(k, |mesh, i| {
            let at = spot(i, 4.0);
            let corners = [(0.0, 0.0, 0.0), (1.0, 0.0, dent), (1.0, 1.0, 0.0), (0.0, 1.0, dent)];
            add_face(mesh, corners.map(|(x, y, z)| at + DVec3::new(x, y, z)));
        });
        // Off the best plane by half of what they differ, against an edge that is longer, too.
        let expected = if dent / 2.0 > 0.01 * (1.0 + dent * dent).sqrt() { k } else { 0 };
        prop_assert_eq!(counted(&bent, "non-planar-faces"), expected);
        prop_assert_eq!(counted(&bent, "concave-faces"), 0);
    }

    #[test]
    fn faces_that_cross(k in 0..12usize) {
        let model = with_things(k, |mesh, i| {
            let at = spot(i, 4.0);
            add_face(mesh, [at, at + DVec3::X, at + DVec3::Y]);
            let low = at + DVec3::new(0.2, 0.2, -0.5);
            add_face(mesh, [low, low + DVec3::Z, low + DVec3::new(0.1, -0.6, 0.5)]);
        });
        let found = checked(&model, "intersecting-faces", |_| {});
        prop_assert_eq!(found.count, 2 * k);
        prop_assert_eq!(found.place_count, k);
        prop_assert_eq!(counted(&model, "crossing-parts"), k);
    }

    #[test]
    fn parts_inside(k in 0..12usize) {
        let model = with_things(k, |mesh, i| add(mesh, &cube(0.3), |p| p + spot(i, 0.1)));
        prop_assert_eq!(counted(&model, "interior-faces"), 6 * k);
        prop_assert_eq!(counted(&model, "nested-parts"), k);
        prop_assert_eq!(counted(&model, "crossing-parts"), 0);
        prop_assert_eq!(counted(&model, "floating-parts"), k);
        // Facing inward they are hollows.
        let hollow = with_things(k, |mesh, i| add(mesh, &cube(0.3), |p| spot(i, 0.1) - p));
        for check in ["interior-faces", "nested-parts", "reversed-faces"] {
            prop_assert_eq!(counted(&hollow, check), 0);
        }
        let outside = with_things(k, |mesh, i| add(mesh, &cube(0.3), |p| spot(i, 1.6) - p));
        prop_assert_eq!(counted(&outside, "reversed-faces"), 6 * k);
        prop_assert_eq!(counted(&outside, "nested-parts"), 0);
    }

    #[test]
    fn parts_that_cross(k in 0..12usize) {
        let model = with_things(k, |mesh, i| add(mesh, &cube(0.4), |p| p + spot(i, TUBE)));
        prop_assert_eq!(counted(&model, "crossing-parts"), k);
        prop_assert_eq!(counted(&model, "nested-parts"), 0);
    }

    #[test]
    fn open_sheets(k in 0..12usize) {
        let sheet = shapes::grid(3, 3, 1.0, 1.0);
        let model = with_things(k, |mesh, i| add(mesh, &sheet, |p| p + spot(i, 4.0)));
        prop_assert_eq!(counted(&model, "no-thickness"), k);
        prop_assert_eq!(counted(&model, "open-edges"), 12 * k);
    }

    #[test]
    fn large_faces_beside_small_ones(k in 0..12usize) {
        let model = with_faces(k, |mesh, [a, b, c, d]| {
            let at = |v| mesh.position(v);
            let low = (at(a) + at(b)) / 2.0;
            let p = low.lerp((at(c) + at(d)) / 2.0, 0.05);
            let p = mesh.push_vertex(p);
            mesh.push_face([a, b, p]);
            mesh.push_face([a, p, b, c, d]);
        });
        // Two edges towards what is left of the face, one towards its neighbour.
        prop_assert_eq!(counted(&model, "uneven-density"), 3 * k);
    }

    #[test]
    fn near_duplicates(k in 0..12usize) {
        let model = with_faces(k, |mesh, [a, b, c, d]| {
            let near = mesh.push_vertex(mesh.position(a) + DVec3::Z * 1e-4);
            mesh.push_face([near, b, c, d]);
        });
        prop_assert_eq!(counted(&model, "duplicate-vertices"), 0);
        let near = |length| {
            checked(&model, "duplicate-vertices", |brief| {
                brief.thresholds.near = Some(Length::Own(length));
            })
        };
        prop_assert_eq!(near(2e-4).count, k);
        prop_assert_eq!(near(0.5e-4).count, 0);
    }

    #[test]
    fn what_exceeds_the_limits(parts in 1..9usize, limit in 1..9usize) {
        let model = with_things(parts - 1, |mesh, i| add(mesh, &cube(0.3), |p| p + spot(i, 3.0)));
        let over = |there: usize, most: usize| there.saturating_sub(most);
        let found = checked(&model, "too-many-parts", |b| b.limits.parts = Some(limit));
        prop_assert_eq!(found.count, over(parts, limit));
        let triangles = 2 * (1600 + 6 * (parts - 1));
        let found = checked(&model, "too-many-triangles", |b| {
            b.limits.triangles = Some(limit * 1000);
        });
        prop_assert_eq!(found.count, over(triangles, limit * 1000));
    }
}

#[test]
fn sizes_units_and_materials_are_held_to_the_brief() {
    let mut model = Model::from(cube(30.0));
    model.unit = Some(Unit::Mm);
    let large = |size: Length| checked(&model, "too-large", |b| b.limits.size = Some(size)).count;
    assert_eq!(large(Length::Real(2.9, Unit::Cm)), 3);
    assert_eq!(large(Length::Real(3.0, Unit::Cm)), 0);
    let unit = |unit| checked(&model, "wrong-unit", |b| b.handoff.unit = Some(unit)).count;
    assert_eq!([unit(Unit::Mm), unit(Unit::M)], [0, 1]);
    let tag = |name: &str| crate::mesh::Tag {
        material: Some(name.into()),
        ..Default::default()
    };
    let mut model = Model::from(cube(1.0));
    model.attributes.tags.table = vec![tag("tar"), tag("brass"), tag("unused")];
    model.attributes.tags.of_face = vec![0, 0, 1, 1, 0, 1];
    let found = checked(&model, "too-many-materials", |b| {
        b.limits.materials = Some(1)
    });
    assert_eq!((found.count, found.measure.unwrap().value), (1, 2.0));
}

#[test]
fn a_mirrored_half_has_no_hole_in_the_plane_and_its_faces_there_are_buried() {
    // Half a box whose open side lies in the plane x = 0, but for a wall of two faces there.
    let whole = shapes::cuboid(DVec3::new(0.0, -1.0, -1.0), DVec3::ONE, 4);
    let in_plane = |f: FaceId| whole.face_points(f).all(|p| p.x == 0.0);
    let mut half = Mesh::from_parts(whole.positions().to_vec(), vec![], vec![0]).unwrap();
    let mut walls = 0;
    for (face, corners) in whole.faces() {
        if !in_plane(face) || walls < 2 {
            walls += usize::from(in_plane(face));
            half.push_face(corners.iter().copied());
        }
    }
    let model = Model::from(half);
    let count = |check: &str, mirror| {
        let options = crate::audit::AuditOptions {
            mirror,
            ..Default::default()
        };
        crate::audit::audit(&model, &options, &())
            .unwrap()
            .count(check)
    };
    assert_eq!(count("open-edges", None), 16);
    assert_eq!(count("open-edges", Some(Axis::X)), 0);
    assert_eq!(count("open-edges", Some(Axis::Y)), 16);
    assert_eq!(count("mirror-plane-faces", None), 0);
    assert_eq!(count("mirror-plane-faces", Some(Axis::X)), 2);
    assert_eq!(count("mirror-plane-faces", Some(Axis::Z)), 0);
}
