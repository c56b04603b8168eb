//! The nearest thing to each fault that is none.

use super::{add, add_face, checked, counted};
use crate::mesh::{Mesh, Model, VertexId};
use crate::shapes;
use glam::{DVec2, DVec3};

fn faces(points: &[[f64; 3]], faces: &[&[u32]]) -> Model {
    let mut mesh = Mesh::default();
    for &point in points {
        mesh.push_vertex(DVec3::from_array(point));
    }
    for face in faces {
        mesh.push_face(face.iter().map(|&v| VertexId(v)));
    }
    Model::from(mesh)
}

fn flat(corners: &[(f64, f64)]) -> Model {
    let mut mesh = Mesh::default();
    add_face(
        &mut mesh,
        corners.iter().map(|&(x, y)| DVec3::new(x, y, 0.0)),
    );
    Model::from(mesh)
}

#[test]
fn a_straight_corner_is_not_concave_and_a_dented_one_is() {
    let corner = |y: f64| flat(&[(0.0, 0.0), (1.0, y), (2.0, 0.0), (2.0, 2.0), (0.0, 2.0)]);
    assert_eq!(counted(&corner(0.0), "concave-faces"), 0);
    assert_eq!(counted(&corner(1e-9), "concave-faces"), 0, "rounding");
    assert_eq!(counted(&corner(-0.1), "concave-faces"), 0);
    assert_eq!(counted(&corner(0.001), "concave-faces"), 1);
}

#[test]
fn edges_that_are_short_but_not_zero() {
    let tiny = f64::MIN_POSITIVE;
    let with = |length: f64| {
        faces(
            &[
                [0.0; 3],
                [length, 0.0, 0.0],
                [1.0, 1.0, 0.0],
                [0.0, 1.0, 0.0],
            ],
            &[&[0, 1, 2, 3]],
        )
    };
    assert_eq!(counted(&with(tiny), "zero-length-edges"), 0);
    assert_eq!(counted(&with(0.0), "zero-length-edges"), 1);
    assert_eq!(counted(&with(-0.0), "zero-length-edges"), 1);
}

#[test]
fn forty_nine_times_its_height_is_no_sliver() {
    let with = |ratio: f64| flat(&[(0.0, 0.0), (ratio, 0.0), (0.4 * ratio, 1.0)]);
    assert_eq!(counted(&with(49.0), "sliver-faces"), 0);
    assert_eq!(counted(&with(51.0), "sliver-faces"), 1);
    // Without area it is another fault.
    assert_eq!(counted(&with(1e13), "sliver-faces"), 0);
    assert_eq!(counted(&with(1e13), "zero-area-faces"), 1);
}

#[test]
fn neighbours_touch_only_where_they_are_joined() {
    // A quad folded along its diagonal: its halves share an edge and no more.
    let fold = |z: f64| {
        faces(
            &[[0.0; 3], [1.0, 0.0, 0.0], [1.0, 1.0, 0.0], [0.5, 0.0, z]],
            &[&[0, 1, 2], &[0, 2, 3]],
        )
    };
    assert_eq!(counted(&fold(1e-9), "intersecting-faces"), 0);
    assert_eq!(counted(&fold(0.0), "intersecting-faces"), 2);
    // An unwelded seam is no contact; a T-junction is: a vertex on another's edge.
    let seam = |x: f64| {
        faces(
            &[
                [0.0; 3],
                [1.0, 0.0, 0.0],
                [0.0, 1.0, 0.0],
                [0.0; 3],
                [1.0, 0.0, 0.0],
                [x, -1.0, 0.0],
                [0.5, 0.0, x],
            ],
            &[&[0, 1, 2], &[4, 3, 5]],
        )
    };
    assert_eq!(counted(&seam(0.0), "intersecting-faces"), 0);
    let junction = faces(
        &[
            [0.0; 3],
            [2.0, 0.0, 0.0],
            [0.0, 1.0, 0.0],
            [1.0, 0.0, 0.0],
            [1.0, -1.0, 0.0],
            [2.0, -1.0, 0.0],
        ],
        &[&[0, 1, 2], &[3, 4, 5]],
    );
    assert_eq!(counted(&junction, "intersecting-faces"), 2);
    for mesh in [
        shapes::torus(3.0, 1.0, 40, 20),
        shapes::bumpy_sphere(5000),
        shapes::cuboid(DVec3::ZERO, DVec3::ONE, 7),
        shapes::lathe(&[DVec2::new(1.0, 0.0), DVec2::new(2.0, 1.0)], 30, true),
    ] {
        assert_eq!(counted(&Model::from(mesh), "intersecting-faces"), 0);
    }
}

#[test]
fn a_bowl_is_a_sheet_and_a_bust_with_an_open_base_is_not() {
    let bowl = |top: f64| {
        let profile: Vec<DVec2> = (0..=20)
            .map(|i| {
                let turn = top * f64::from(i) / 20.0;
                DVec2::new(turn.sin(), -turn.cos())
            })
            .collect();
        Model::from(shapes::lathe(&profile, 40, false))
    };
    assert_eq!(counted(&bowl(90f64.to_radians()), "no-thickness"), 1);
    assert_eq!(counted(&bowl(160f64.to_radians()), "no-thickness"), 0);
    // Cut along a seam, it is the same body.
    let mut closed = Mesh::default();
    for (_, face) in shapes::sphere(1.0, 2).faces() {
        add_face(
            &mut closed,
            face.iter().map(|&v| shapes::sphere(1.0, 2).position(v)),
        );
    }
    assert_eq!(counted(&Model::from(closed), "no-thickness"), 0);
}

#[test]
fn nineteen_times_the_area_is_even_enough() {
    let with = |ratio: f64| {
        faces(
            &[
                [0.0; 3],
                [0.0, 1.0, 0.0],
                [-1.0, 0.0, 0.0],
                [ratio, 0.0, 0.0],
            ],
            &[&[0, 1, 2], &[1, 0, 3]],
        )
    };
    assert_eq!(counted(&with(19.0), "uneven-density"), 0);
    assert_eq!(counted(&with(21.0), "uneven-density"), 1);
    let loose = checked(&with(21.0), "uneven-density", |b| {
        b.thresholds.area_step = 22.0
    });
    assert_eq!(loose.count, 0);
}

#[test]
fn the_spread_of_lengths_is_that_of_the_95th_over_the_5th() {
    let grid = checked(
        &Model::from(shapes::grid(10, 10, 30.0, 10.0)),
        "uneven-density",
        |_| {},
    );
    assert_eq!(grid.measure.unwrap().value, 3.0);
}

#[test]
fn forty_five_degrees_are_no_overhang() {
    let lean = |over: f64| {
        let mut mesh = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1);
        mesh.positions_mut()
            .iter_mut()
            .for_each(|p| p.x += over * p.z);
        counted(&Model::from(mesh), "overhangs")
    };
    assert_eq!(lean(1.0), 0);
    assert_eq!(lean(1.001), 1);
}

#[test]
fn one_tear_is_one_place() {
    let sphere = shapes::torus(3.0, 1.0, 40, 40);
    let mut torn = Mesh::from_parts(sphere.positions().to_vec(), vec![], vec![0]).unwrap();
    for (face, corners) in sphere.faces() {
        if !(100..115).contains(&face.index()) && face.index() != 700 {
            torn.push_face(corners.iter().copied());
        }
    }
    let found = checked(&Model::from(torn), "open-edges", |_| {});
    assert_eq!(found.count, 32 + 4);
    assert_eq!(found.place_count, 2);
    assert_eq!(found.places[0].elements.len(), 32);
    let mut doubled = sphere.clone();
    add(&mut doubled, &shapes::grid(2, 2, 1.0, 1.0), |p| {
        p + DVec3::Z * 9.0
    });
    for i in (0..9).chain(500..503) {
        doubled.push_face(sphere.face(crate::mesh::FaceId(i)).iter().copied());
    }
    let found = checked(&Model::from(doubled), "lamina-faces", |_| {});
    assert_eq!((found.count, found.place_count), (12, 2));
    assert!(found.places[0].bounds.diagonal() > found.places[1].bounds.diagonal());
}
