use super::*;
use crate::measure::volume;
use crate::shapes;

/// Every vertex pushed off by up to so much, the same each time.
fn rough(mut mesh: Mesh, by: f64) -> Mesh {
    for (i, at) in mesh.positions_mut().iter_mut().enumerate() {
        let noise = |k: f64| ((i as f64 * k).sin() * 43_758.545).fract();
        let off = DVec3::new(noise(12.9898), noise(78.233), noise(37.719));
        *at += off * by;
    }
    mesh
}

fn smoothed(mesh: &Mesh, kind: Kind, rounds: usize) -> Mesh {
    let options = SmoothOptions {
        rounds,
        kind,
        faces: None,
    };
    smooth(&Model::from(mesh.clone()), &options, &())
        .unwrap()
        .model
        .mesh
}

fn rms(values: impl Iterator<Item = f64>) -> f64 {
    let all: Vec<f64> = values.map(|x| x * x).collect();
    (all.iter().sum::<f64>() / all.len() as f64).sqrt()
}

#[test]
fn a_rough_ball_becomes_smoother_and_stays_as_large() {
    let ball = rough(shapes::sphere(1.0, 4), 0.01);
    let off = |mesh: &Mesh| rms(mesh.positions().iter().map(|p| p.length() - 1.0));
    for kind in [Kind::Soft, Kind::Hard] {
        let after = smoothed(&ball, kind, 30);
        assert!(
            off(&after) < 0.5 * off(&ball),
            "{kind:?} {} {}",
            off(&ball),
            off(&after)
        );
        let (now, was) = (volume(&after), volume(&ball));
        assert!((now / was - 1.0).abs() < 0.005, "{kind:?} {now} {was}");
    }
}

#[test]
fn a_rough_box_keeps_its_edges_when_smoothed_hard() {
    let cube = shapes::cuboid(DVec3::splat(-1.0), DVec3::ONE, 16);
    let roughened = rough(cube.clone(), 0.012);
    let after = smoothed(&roughened, Kind::Hard, 20);
    let off = |mesh: &Mesh| {
        let edges = cube.positions().iter().zip(mesh.positions());
        let on_edge =
            edges.filter(|(p, _)| p.abs().to_array().iter().filter(|x| **x == 1.0).count() == 2);
        rms(on_edge.map(|(p, q)| {
            // How far off the edge, across it.
            let way = *q - *p;
            let along = p.abs().cmplt(DVec3::ONE);
            DVec3::select(along, DVec3::ZERO, way).length()
        }))
    };
    assert!(
        off(&after) < 0.5 * off(&roughened),
        "{} {}",
        off(&after),
        off(&roughened)
    );
    // Softly smoothed, they are rounded off.
    let soft = smoothed(&cube, Kind::Soft, 20);
    assert!(off(&soft) > off(&after));
}

#[test]
fn rims_move_along_themselves_and_the_rest_stays_where_it_is_not_asked_for() {
    let sheet = shapes::grid(12, 12, 12.0, 12.0);
    let after = smoothed(&sheet, Kind::Soft, 10);
    for (p, q) in sheet.positions().iter().zip(after.positions()) {
        // Corners are rounded off, but nothing is drawn in from the rims.
        assert!(p.z == q.z && p.distance(*q) < 0.6, "{p} {q}");
    }
    let ball = rough(shapes::sphere(1.0, 3), 0.02);
    let faces: Vec<bool> = ball
        .face_ids()
        .map(|face| ball.face_middle(face).z > 0.0)
        .collect();
    let options = SmoothOptions {
        rounds: 5,
        kind: Kind::Soft,
        faces: Some(faces.clone()),
    };
    let outcome = smooth(&Model::from(ball.clone()), &options, &()).unwrap();
    assert!(outcome.moved > 0 && outcome.furthest > 0.0);
    for face in ball.face_ids().filter(|face| !faces[face.index()]) {
        for v in ball.face(face) {
            assert_eq!(outcome.model.mesh.position(*v), ball.position(*v));
        }
    }
}

#[test]
fn nothing_happens_to_what_has_no_faces() {
    assert_eq!(smoothed(&Mesh::default(), Kind::Soft, 3), Mesh::default());
    assert_eq!(smoothed(&Mesh::default(), Kind::Hard, 3), Mesh::default());
}
