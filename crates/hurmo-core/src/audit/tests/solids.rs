//! What lies inside what, on random boxes for which it is plain.

use super::{add, checked, counted, listed};
use crate::mesh::{FaceId, Mesh, Model};
use crate::random_cases::cases;
use crate::shapes;
use glam::DVec3;
use proptest::prelude::*;

/// A box with whole corners, shifted a little by its number so that no two faces lie in one
/// plane.
fn shifted(i: usize, low: [i8; 3], size: [i8; 3]) -> (DVec3, DVec3) {
    let shift = DVec3::splat(0.07 * i as f64);
    let low = DVec3::from_array(low.map(f64::from)) + shift;
    (
        low,
        low + DVec3::from_array(size.map(f64::from)) * (1.0 - 0.003 * i as f64),
    )
}

/// A face larger than a box can hold a piece of it although no corner lies inside.
fn crosses_a_box(mesh: &Mesh, face: usize, solids: &[(DVec3, DVec3)]) -> bool {
    let middle = mesh.face_middle(FaceId::new(face));
    solids.iter().any(|&solid| within(middle, solid))
}

fn within(p: DVec3, (low, high): (DVec3, DVec3)) -> bool {
    p.cmpgt(low).all() && p.cmplt(high).all()
}

proptest! {
    #![proptest_config(cases(100))]

    #[test]
    fn faces_inside_boxes_are_interior_and_boxes_inside_boxes_nested(
        boxes in prop::collection::vec(
            (prop::array::uniform3(0..6i8), prop::array::uniform3(1..6i8), any::<bool>()),
            1..7,
        ),
    ) {
        let solids: Vec<(DVec3, DVec3)> = boxes
            .iter()
            .enumerate()
            .map(|(i, &(low, size, _))| shifted(i, low, size))
            .collect();
        let mut mesh = Mesh::default();
        let mut owners = Vec::new();
        for (i, &(low, high)) in solids.iter().enumerate() {
            let solid = shapes::cuboid(low, high, 5);
            owners.extend(solid.face_ids().map(|_| i));
            add(&mut mesh, &solid, |p| p);
        }
        // How many corners of a face lie in a box, and its middle: those that are half in are
        // left out.
        let lies_in = |face: FaceId| {
            let others = (0..solids.len()).filter(|&other| other != owners[face.index()]);
            let corners_in = others.map(|other| {
                mesh.face_points(face).filter(|&p| within(p, solids[other])).count()
            });
            corners_in.max().unwrap_or(0)
        };
        let ins: Vec<usize> = mesh.face_ids().map(lies_in).collect();
        let nested = (0..solids.len()).filter(|&inner| {
            (0..solids.len()).any(|outer| {
                outer != inner
                    && within(solids[inner].0, solids[outer])
                    && within(solids[inner].1, solids[outer])
            })
        });
        let nested = nested.count();
        let model = Model::from(mesh.clone());
        let found = checked(&model, "interior-faces", |_| {});
        let listed = listed(&found);
        for (face, &corners) in ins.iter().enumerate() {
            let is_listed = listed.contains(&FaceId::new(face));
            prop_assert!(corners != 4 || is_listed);
            prop_assert!(corners != 0 || !is_listed || crosses_a_box(&mesh, face, &solids));
        }
        prop_assert_eq!(counted(&model, "nested-parts"), nested);
        // The same when it is known which faces meet, and a face may speak for its patch.
        let all = crate::audit::audit(&model, &Default::default(), &()).unwrap();
        prop_assert_eq!(all.count("interior-faces"), found.count);
        prop_assert_eq!(all.count("nested-parts"), nested);
    }
}

#[test]
fn hollows_doubled_skins_and_open_bodies_are_not_interior() {
    let outer = shapes::cuboid(DVec3::splat(-2.0), DVec3::splat(2.0), 4);
    let inner = shapes::cuboid(DVec3::splat(-1.0), DVec3::splat(1.0), 4);
    let mut hollow = outer.clone();
    // Mirrored, the inner box faces inward.
    add(&mut hollow, &inner, |p| -p);
    let hollow = Model::from(hollow);
    for check in ["interior-faces", "nested-parts", "reversed-faces"] {
        assert_eq!(counted(&hollow, check), 0, "{check}");
    }
    let mut doubled = outer.clone();
    add(&mut doubled, &outer, |p| p);
    assert_eq!(counted(&Model::from(doubled), "interior-faces"), 0);

    let mut solid = outer.clone();
    add(&mut solid, &inner, |p| p);
    let solid = Model::from(solid);
    assert_eq!(counted(&solid, "interior-faces"), inner.face_count());
    assert_eq!(counted(&solid, "nested-parts"), 1);
    assert_eq!(counted(&solid, "reversed-faces"), 0);

    let bowl = shapes::lathe(
        &[(0.0, 0.0), (1.0, 0.2), (1.5, 1.0), (1.6, 2.0)].map(|(r, z)| glam::DVec2::new(r, z)),
        24,
        false,
    );
    assert_eq!(counted(&Model::from(bowl), "interior-faces"), 0);
}

#[test]
fn a_wall_inside_is_interior_whether_or_not_it_is_joined_and_which_way_it_faces() {
    for (joined, turned) in [(false, false), (false, true), (true, false), (true, true)] {
        let mut mesh = shapes::cuboid(DVec3::ZERO, DVec3::splat(4.0), 4);
        let outside = mesh.face_count();
        for y in 0..4 {
            for z in 0..4 {
                let quad = [[0, 0], [1, 0], [1, 1], [0, 1]]
                    .map(|[a, b]| DVec3::new(2.0, f64::from(y + a), f64::from(z + b)));
                let mut vertices = quad.map(|p| {
                    let known = mesh.vertex_ids().find(|&v| mesh.position(v) == p);
                    match (known, joined) {
                        (Some(vertex), true) => vertex,
                        (_, true) => mesh.push_vertex(p),
                        (_, false) => mesh.push_vertex(DVec3::splat(0.05) + p * 0.97),
                    }
                });
                if turned {
                    vertices.reverse();
                }
                mesh.push_face(vertices);
            }
        }
        let found = checked(&Model::from(mesh), "interior-faces", |_| {});
        assert_eq!(found.count, 16, "joined: {joined}, turned: {turned}");
        assert_eq!(found.place_count, 1);
        let crate::audit::Elements::Faces(faces) = &found.places[0].elements else {
            panic!("faces")
        };
        assert!(faces.iter().all(|f| f.index() >= outside));
    }
}

#[test]
fn a_plate_is_thin_on_both_sides_and_a_touch_thicker_it_is_not() {
    let plate = shapes::cuboid(DVec3::ZERO, DVec3::new(10.0, 10.0, 0.5), 4);
    let mut turned = Mesh::default();
    add(&mut turned, &plate, |p| DVec3::new(p.z, p.y, p.x));
    for mesh in [plate, turned] {
        let model = Model::from(mesh);
        let thin = |wall: f64| {
            checked(&model, "thin-walls", |brief| {
                brief.thresholds.wall = Some(crate::units::Length::Own(wall));
            })
        };
        let found = thin(0.8);
        assert_eq!(found.count, 32);
        assert!((found.measure.unwrap().value - 0.5).abs() < 1e-9);
        assert_eq!(thin(0.499).count, 0);
    }
}

#[test]
fn parts_pushed_into_each_other_are_one_wall() {
    let mut mesh = shapes::cuboid(DVec3::ZERO, DVec3::new(4.0, 4.0, 0.5), 4);
    let other = shapes::cuboid(DVec3::new(-0.1, -0.2, 0.31), DVec3::new(4.3, 4.4, 3.0), 4);
    add(&mut mesh, &other, |p| p);
    let found = checked(&Model::from(mesh), "thin-walls", |brief| {
        brief.thresholds.wall = Some(crate::units::Length::Own(0.8));
    });
    assert_eq!(found.count, 0);
}

#[test]
fn overhangs_of_a_sphere_have_the_area_of_its_cap() {
    let radius = 3.0;
    let model = Model::from(shapes::sphere(radius, 6));
    let found = checked(&model, "overhangs", |_| {});
    let cap = std::f64::consts::TAU * radius * radius * (1.0 - 45f64.to_radians().cos());
    let measured = found.measure.unwrap().value;
    assert!((measured / cap - 1.0).abs() < 0.02, "{measured} of {cap}");
    let steep = checked(&model, "overhangs", |brief| {
        brief.thresholds.overhang_angle = 80.0
    });
    let cap = std::f64::consts::TAU * radius * radius * (1.0 - 10f64.to_radians().cos());
    assert!((steep.measure.unwrap().value / cap - 1.0).abs() < 0.1);
}

#[test]
fn what_rests_on_the_bed_is_no_overhang() {
    let table = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
    assert_eq!(counted(&Model::from(table.clone()), "overhangs"), 0);
    let mut raised = table.clone();
    add(&mut raised, &table, |p| p + DVec3::new(4.0, 0.0, 0.1));
    assert_eq!(counted(&Model::from(raised), "overhangs"), 9);
}
