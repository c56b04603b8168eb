//! What laying triangles coarsely first must not do.

use super::Target;
use super::tests::remeshed;
use crate::measure::{Evenness, deviation};
use crate::mesh::{Mesh, VertexId};
use crate::shapes;
use glam::{DVec2, DVec3};

/// A tube is about nine edges round, so four or five while edges are long.
#[test]
fn a_thin_tube_is_not_pinched() {
    let tube = shapes::lathe(&[DVec2::new(0.05, 0.0), DVec2::new(0.05, 3.0)], 12, true);
    for edge in [0.03, 0.036, 0.042] {
        let mesh = remeshed(&tube, Target::Edge(edge)).0.model.mesh;
        let off = deviation(&tube, &mesh, 20_000).unwrap();
        assert!(off.max < edge / 4.0, "{off:?} of {edge}");
        let even = Evenness::of(&mesh).unwrap();
        assert!(even.even_angles > 0.95, "{even:?}");
    }
}

/// Two sheets that end along the same wave, as at a seam that was never welded: each knows of its
/// own rim only.
#[test]
fn sheets_that_lie_side_by_side_are_divided_alike() {
    let wave = |t: f64| DVec3::new(t, 0.2 * (2.0 * t).sin(), 0.3 * (3.0 * t).cos());
    let sheet = |side: f64| {
        let mut mesh = Mesh::default();
        let count = 200;
        for i in 0..=count {
            let t = f64::from(i) / 50.0;
            mesh.push_vertex(wave(t));
            mesh.push_vertex(wave(t) + DVec3::Y * side);
        }
        for i in 0..count as u32 {
            let quad = [2 * i, 2 * i + 2, 2 * i + 3, 2 * i + 1].map(VertexId);
            match side > 0.0 {
                true => mesh.push_face(quad),
                false => mesh.push_face(quad.into_iter().rev()),
            };
        }
        mesh
    };
    let rims = [1.0, -1.0].map(|side| {
        let mesh = remeshed(&sheet(side), Target::Edge(0.05)).0.model.mesh;
        let mut rim: Vec<DVec3> = mesh.positions().to_vec();
        // What lies on the wave: no other place of the sheet lies there.
        rim.retain(|p| (p.y - wave(p.x).y).abs() < 1e-3);
        rim.sort_by(|a, b| a.x.total_cmp(&b.x));
        rim
    });
    assert!(rims[0].len() > 60, "{}", rims[0].len());
    assert_eq!(rims[0].len(), rims[1].len());
    for (one, other) in rims[0].iter().zip(&rims[1]) {
        assert!(one.distance(*other) < 1e-9, "{one} {other}");
    }
    let steps: Vec<f64> = rims[0].windows(2).map(|p| p[0].distance(p[1])).collect();
    let mean = steps.iter().sum::<f64>() / steps.len() as f64;
    assert!((mean - 0.05).abs() < 0.005, "{mean}");
    assert!(
        steps.iter().all(|step| (step / mean - 1.0).abs() < 0.05),
        "{steps:?}"
    );
}
