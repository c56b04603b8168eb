//! How near reduced surfaces come to the best that so many triangles can do.

use super::*;
use crate::measure::{area_samples, deviation};
use crate::shapes;
use glam::DVec3;

fn reduced(mesh: &Mesh, to: usize) -> Mesh {
    let options = Options {
        to: Some(to),
        ..Options::default()
    };
    decimate(&Model::from(mesh.clone()), &options, &())
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
    let sphere = shapes::sphere(1.0, 8);
    for count in [200, 2_000, 20_000] {
        let (max, rms) = off_the_sphere(&reduced(&sphere, count));
        assert!(max < 2.5 * 2.42, "{max} at {count}");
        assert!(rms < 1.35 * 0.94, "{rms} at {count}");
    }
}

/// Four times the triangles, about a quarter of the distance.
#[test]
fn the_distance_falls_as_the_count_rises() {
    let torus = shapes::torus(1.0, 0.4, 800, 400);
    let ball = shapes::sphere(1.0, 8);
    let stretched = ball
        .positions()
        .iter()
        .map(|p| *p * DVec3::new(3.0, 2.0, 1.0));
    let triangles: Vec<_> = ball.faces().map(|(_, f)| [f[0], f[1], f[2]]).collect();
    let ellipsoid = Mesh::from_triangles(stretched.collect(), &triangles).unwrap();
    let bumpy = shapes::bumpy_sphere(200_000);
    for (name, mesh) in [("torus", torus), ("ellipsoid", ellipsoid), ("bumpy", bumpy)] {
        let off = |count: usize| {
            let low = reduced(&mesh, count);
            let off = deviation(&mesh, &low, 50_000).expect("faces");
            (off.rms, off.max)
        };
        let (coarse, fine) = (off(4_000), off(16_000));
        let ratio = coarse.0 / fine.0;
        assert!((3.0..4.8).contains(&ratio), "{name}: {ratio}");
    }
}
