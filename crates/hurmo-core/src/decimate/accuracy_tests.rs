//! How near reduced surfaces come to the best possible for their number of triangles.

use super::*;
use crate::measure::{area_samples, deviation};
use crate::mesh::VertexId;
use crate::shapes;
use glam::DVec3;

fn reduced(mesh: &Mesh, to: usize) -> Mesh {
    let options = DecimateOptions {
        to: Some(to),
        ..DecimateOptions::default()
    };
    decimate(&Model::from(mesh.clone()), &options, &())
        .unwrap()
        .model
        .mesh
}

/// The largest distance and the root of the mean square from the unit sphere, each times the
/// number of triangles.
fn off_the_sphere(mesh: &Mesh) -> (f64, f64) {
    let count = mesh.face_count() as f64;
    let out = mesh.positions().iter().map(|p| p.length() - 1.0);
    let within = mesh.faces().map(|(_, face)| {
        let corners = [0, 1, 2].map(|i| mesh.position(face[i]));
        1.0 - crate::spatial::closest_on_triangle(DVec3::ZERO, corners).length()
    });
    let max = out.chain(within).fold(0.0, f64::max);
    let samples = area_samples(mesh, 200_000);
    let squares = samples.iter().map(|(p, _)| (p.length() - 1.0).powi(2));
    let rms = (squares.sum::<f64>() / samples.len() as f64).sqrt();
    (max * count, rms * count)
}

/// Even triangles that touch the sphere to best effect lie 2.42 / N off at most and 0.94 / N in
/// the root of the mean square.
#[test]
fn a_sphere_is_met_nearly_as_well_as_can_be() {
    let sphere = shapes::sphere(1.0, 7);
    for count in [200, 2_000] {
        let (max, rms) = off_the_sphere(&reduced(&sphere, count));
        assert!(max < 2.5 * 2.42, "{max} at {count}");
        assert!(rms < 1.35 * 0.94, "{rms} at {count}");
    }
}

/// Four times the triangles, about a quarter of the distance.
#[test]
fn the_distance_falls_as_the_count_rises() {
    let torus = shapes::torus(1.0, 0.4, 240, 120);
    let ball = shapes::sphere(1.0, 6);
    let stretched = ball
        .positions()
        .iter()
        .map(|p| *p * DVec3::new(3.0, 2.0, 1.0));
    let triangles: Vec<_> = ball.faces().map(|(_, f)| [f[0], f[1], f[2]]).collect();
    let ellipsoid = Mesh::from_triangles(stretched.collect(), &triangles).unwrap();
    let bumpy = shapes::bumpy_sphere(50_000);
    for (name, mesh, low) in [
        ("torus", torus, 800),
        ("ellipsoid", ellipsoid, 800),
        ("bumpy", bumpy, 2_000),
    ] {
        let off = |count: usize| {
            let low = reduced(&mesh, count);
            let off = deviation(&mesh, &low, 50_000).expect("faces");
            (off.rms, off.max)
        };
        let (coarse, fine) = (off(low), off(4 * low));
        let ratio = coarse.0 / fine.0;
        assert!((3.0..4.8).contains(&ratio), "{name}: {ratio}");
    }
}

/// At three budgets, on smooth shapes, on one with edges and on a rough scan, the reduction lies no
/// further off than plain edge collapse.
#[test]
fn nothing_lies_further_off_than_the_textbooks_collapse() {
    let triangulated = |mesh: Mesh| {
        let (triangles, _) = all_triangles(&mesh);
        Mesh::from_triangles(mesh.positions().to_vec(), &triangles).unwrap()
    };
    let shapes = [
        ("rough scan", shapes::rough_scan(28)),
        ("bumps", shapes::bumpy_sphere(8_000)),
        ("torus", triangulated(shapes::torus(1.0, 0.4, 90, 45))),
        ("pane", triangulated(shapes::grid(50, 50, 1.0, 1.0))),
    ];
    for (name, mesh) in shapes {
        let budgets = [2, 12, 60].map(|share| mesh.face_count() / share);
        for (to, plain) in budgets.into_iter().zip(textbook(&mesh, &budgets)) {
            let off = |low: &Mesh| deviation(&mesh, low, 25_000).expect("faces").rms;
            let (own, plain) = (off(&reduced(&mesh, to)), off(&plain));
            // Sampling resolves no smaller difference, and rounding no smaller distance.
            assert!(
                own <= 1.02 * plain + 1e-12,
                "{name} to {to}: {own:e}, {plain:e}"
            );
        }
    }
}

/// Half the triangles never lie nearer: the distance falls smoothly with the budget, down to a few.
#[test]
fn a_larger_budget_lies_no_further_off() {
    let mesh = shapes::rough_scan(32);
    let mut last = 0.0;
    let mut to = 64;
    while to < mesh.face_count() {
        let off = deviation(&mesh, &reduced(&mesh, to), 40_000)
            .expect("faces")
            .rms;
        assert!(
            last == 0.0 || off <= last,
            "{off:e} at {to}, {last:e} at half"
        );
        (last, to) = (off, to * 2);
    }
}

/// What comes out reaches no further than what went in by more than it lies off.
#[test]
fn no_vertex_shoots_out() {
    let legs = [0.0, 1.0, 2.0, 3.0]
        .map(|x| shapes::cuboid(DVec3::new(x, 0.0, 0.0), DVec3::new(x + 0.06, 0.06, 2.4), 12));
    let mut mesh = Mesh::default();
    for leg in legs {
        let base = mesh.vertex_count() as u32;
        leg.positions().iter().for_each(|&p| {
            mesh.push_vertex(p + 0.01 * DVec3::new((9.0 * p.z).sin(), (7.0 * p.z).cos(), 0.0));
        });
        for (_, face) in leg.faces() {
            mesh.push_face(face.iter().map(|v| VertexId(v.0 + base)));
        }
    }
    let before = crate::measure::bounds(&mesh).unwrap();
    for to in [400, 100, 40] {
        let low = reduced(&mesh, to);
        let off = deviation(&mesh, &low, 40_000).unwrap().max;
        let after = crate::measure::bounds(&low).unwrap();
        let beyond = (after.max - before.max)
            .max(before.min - after.min)
            .max_element();
        assert!(
            beyond <= 1.05 * off + 1e-9,
            "{beyond} beyond at {to}, {off} off"
        );
        assert!(off < 0.02 * before.diagonal(), "{off} at {to}");
    }
}

#[test]
fn hardly_an_edge_is_left_that_is_cheaper_than_the_last() {
    for (name, mesh) in [
        ("rough scan", shapes::rough_scan(28)),
        ("bumps", shapes::bumpy_sphere(16_000)),
    ] {
        let model = Model::from(mesh);
        let to = model.mesh.face_count() / 10;
        let (cheaper, all) = cheaper_left(&model, to);
        assert!(all > 1000, "{name}: {all} edges");
        assert!(100 * cheaper <= all, "{name}: {cheaper} of {all}");
    }
}
