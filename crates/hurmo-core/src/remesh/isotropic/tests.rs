use super::*;
use crate::audit::{self, Audit, audit};
use crate::measure::{Evenness, deviation};
use crate::mesh::Mesh;
use crate::shapes;
use glam::{DVec2, DVec3};
use std::collections::BTreeSet;

pub(super) fn remeshed(mesh: &Mesh, target: Target) -> (RemeshOutcome, Audit) {
    let options = RemeshOptions::of(target);
    let outcome = remesh(&Model::from(mesh.clone()), &options, &()).unwrap();
    let audit = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
    (outcome, audit)
}

/// A square sheet round the origin, of quads as long as one.
pub(super) fn centred(across: usize, along: usize) -> Mesh {
    let mut mesh = shapes::grid(across, along, across as f64, along as f64);
    let half = DVec3::new(across as f64, along as f64, 0.0) / 2.0;
    mesh.positions_mut().iter_mut().for_each(|p| *p -= half);
    mesh
}

/// At least this share of the angles from 35° to 85°, none under `narrowest`, and seven of ten
/// vertices with six neighbours.
fn assert_even(mesh: &Mesh, share: f64, narrowest: f64) {
    let even = Evenness::of(mesh).unwrap();
    assert!(even.even_angles >= share, "{even:?}");
    assert!(even.smallest_angle >= narrowest, "{even:?}");
    assert!(even.six_neighbours > 0.7, "{even:?}");
}

#[test]
fn smooth_shapes_become_even_and_stay_where_they_are() {
    let fine = shapes::sphere(1.0, 5);
    // At its poles its triangles are needles, however long they are to be.
    let bumpy = shapes::bumpy_sphere(40_000);
    for target in [Target::Edge(0.04), Target::Count(40_000)] {
        assert_even(&remeshed(&bumpy, target).0.model.mesh, 0.95, 15.0);
    }
    for (mesh, edge) in [(fine, 0.08), (shapes::torus(2.0, 0.7, 240, 120), 0.1)] {
        let (outcome, audit) = remeshed(&mesh, Target::Edge(edge));
        assert_even(&outcome.model.mesh, 0.95, 15.0);
        assert!(audit.mesh.watertight);
        let moved = deviation(&mesh, &outcome.model.mesh, 20_000).unwrap();
        assert!(moved.max < edge / 20.0, "{moved:?} of {edge}");
    }
}

/// Where a scan comes to a point, its triangles are far narrower than its noise.
#[test]
fn a_noisy_point_far_thinner_than_edges_becomes_even_too() {
    let profile: Vec<DVec2> = (0..=150)
        .map(|i| f64::from(i) / 150.0)
        .map(|z| DVec2::new(0.12 * (1.0 - z) + 1e-4, z))
        .collect();
    let mut spike = shapes::lathe(&profile, 300, true);
    for (i, at) in spike.positions_mut().iter_mut().enumerate() {
        let noise = |k: u32| (i as f64 * 0.754_877_666 * f64::from(k)).fract() - 0.5;
        *at += DVec3::new(noise(1), noise(3), noise(7)) * 2e-4;
    }
    let options = RemeshOptions {
        // Its noise folds it.
        crease: 180.0,
        ..RemeshOptions::of(Target::Edge(0.02))
    };
    let outcome = remesh(&Model::from(spike), &options, &()).unwrap();
    let even = Evenness::of(&outcome.model.mesh).unwrap();
    assert!(even.triangles < 6_000, "{even:?}");
    assert!(even.even_angles > 0.85, "{even:?}");
    assert!(even.narrow_angles < 500, "{even:?}");
}

#[test]
fn a_count_is_met_from_far_more_and_far_fewer() {
    for (from, to) in [(400, 9_000), (60_000, 2_000), (20_000, 20_000)] {
        let (_, audit) = remeshed(&shapes::bumpy_sphere(from), Target::Count(to));
        let share = audit.mesh.faces as f64 / to as f64;
        assert!((share - 1.0).abs() < 0.03, "{from} to {to}: {share}");
    }
}

#[test]
fn lines_are_followed_and_divided_evenly() {
    // Round the rim of a drum the edges bend by 3°: a line that goes round.
    let drum = shapes::lathe(&[DVec2::new(1.0, 0.0), DVec2::new(1.0, 1.0)], 120, true);
    let (outcome, audit) = remeshed(&drum, Target::Edge(0.09));
    assert!(audit.mesh.watertight);
    let mesh = &outcome.model.mesh;
    let mut angles: Vec<f64> = mesh
        .positions()
        .iter()
        .filter(|p| p.z == 1.0 && p.truncate().length() > 0.99)
        .map(|p| p.y.atan2(p.x))
        .collect();
    angles.sort_unstable_by(f64::total_cmp);
    let steps: Vec<f64> = angles.windows(2).map(|pair| pair[1] - pair[0]).collect();
    let mean = steps.iter().sum::<f64>() / steps.len() as f64;
    assert!((mean - 0.09).abs() < 0.02, "{mean}");
    assert!(
        steps.iter().all(|step| (step / mean - 1.0).abs() < 0.02),
        "{steps:?}"
    );
    // On the rim as the drum has it, not on the circle round it.
    let inner = (std::f64::consts::PI / 120.0).cos();
    for p in mesh.positions().iter().filter(|p| p.z == 1.0) {
        assert!(p.truncate().length() <= 1.0 + 1e-12);
    }
    let on_rim = mesh
        .positions()
        .iter()
        .filter(|p| p.z == 1.0 && p.truncate().length() > 0.99);
    assert!(
        on_rim
            .clone()
            .all(|p| p.truncate().length() >= inner - 1e-12)
    );
    let loss = crate::measure::volume(&drum) - audit.mesh.volume;
    assert!((0.0..6e-3).contains(&loss), "{loss}");
}

#[test]
fn exact_rims_keep_every_vertex_and_no_other() {
    let sheet = centred(9, 9);
    let options = RemeshOptions {
        rims_exact: true,
        ..RemeshOptions::of(Target::Edge(0.4))
    };
    let outcome = remesh(&Model::from(sheet.clone()), &options, &()).unwrap();
    let on_rim = |p: &&DVec3| p.x.abs() == 4.5 || p.y.abs() == 4.5;
    let rim = |mesh: &Mesh| -> BTreeSet<[u64; 3]> {
        let those = mesh.positions().iter().filter(on_rim);
        those.map(|p| p.to_array().map(f64::to_bits)).collect()
    };
    assert_eq!(rim(&outcome.model.mesh), rim(&sheet));
    assert!(outcome.after > 400, "{}", outcome.after);
    let audit = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
    assert!((audit.mesh.area - 81.0).abs() < 1e-9);
}

#[test]
fn a_region_is_joined_to_the_rest_without_a_gap_or_a_cliff() {
    let ball = shapes::sphere(1.0, 4);
    let faces: Vec<bool> = ball
        .face_ids()
        .map(|face| ball.face_middle(face).z > 0.8)
        .collect();
    let count = faces.iter().filter(|asked| **asked).count();
    for edge in [0.02, 0.2] {
        let options = RemeshOptions {
            faces: Some(faces.clone()),
            ..RemeshOptions::of(Target::Edge(edge))
        };
        let outcome = remesh(&Model::from(ball.clone()), &options, &()).unwrap();
        let audit = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
        assert!(audit.mesh.watertight);
        assert!(
            audit.findings.iter().all(|finding| finding.count() == 0),
            "{audit:?}"
        );
        assert_eq!(outcome.touched, count + outcome.belt);
        // What lies far off is as it was, to the last bit.
        let far = |mesh: &Mesh| -> BTreeSet<[u64; 3]> {
            let those = mesh.positions().iter().filter(|p| p.z < 0.2);
            those.map(|p| p.to_array().map(f64::to_bits)).collect()
        };
        assert_eq!(far(&outcome.model.mesh), far(&ball));
        let mesh = &outcome.model.mesh;
        let within = mesh
            .face_ids()
            .filter(|face| mesh.face_middle(*face).z > 0.9);
        let lengths: Vec<f64> = within
            .map(|face| {
                let points: Vec<DVec3> = mesh.face_points(face).collect();
                points[0].distance(points[1])
            })
            .collect();
        let mean = lengths.iter().sum::<f64>() / lengths.len() as f64;
        assert!((mean / edge - 1.0).abs() < 0.35, "{mean} for {edge}");
        // No neighbours of very different size.
        for face in mesh.face_ids() {
            let points: Vec<DVec3> = mesh.face_points(face).collect();
            let sides = [0, 1, 2].map(|i| points[i].distance(points[(i + 1) % 3]));
            let (least, most) = (
                sides[0].min(sides[1]).min(sides[2]),
                sides[0].max(sides[1]).max(sides[2]),
            );
            assert!(most < 6.0 * least, "{sides:?}");
        }
    }
}

#[test]
fn lengths_follow_the_bend_and_the_distance_holds() {
    let ring = shapes::torus(2.0, 0.2, 400, 60);
    let target = |distance| Target::Within {
        distance,
        shortest: 1e-3,
        longest: 0.5,
    };
    let (coarse, _) = remeshed(&ring, target(4e-3));
    let (fine, _) = remeshed(&ring, target(1e-3));
    for (outcome, limit) in [(&coarse, 4e-3), (&fine, 1e-3)] {
        let moved = deviation(&ring, &outcome.model.mesh, 20_000).unwrap();
        assert!(moved.max < limit, "{moved:?} for {limit}");
    }
    // Triangles grow with one over the distance.
    let share = fine.after as f64 / coarse.after as f64;
    assert!((3.0..6.0).contains(&share), "{share}");
    // Flat faces pay for nothing.
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 10);
    let (flat, _) = remeshed(&cube, target(1e-3));
    assert!(flat.after < 150, "{}", flat.after);
}

#[test]
fn threads_make_no_difference() {
    let mesh = shapes::bumpy_sphere(50_000);
    let with = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build();
        let run = || remeshed(&mesh, Target::Count(60_000)).0.model.mesh;
        pool.unwrap().install(run)
    };
    assert_eq!(with(1), with(3));
}

#[test]
fn a_sphere_becomes_even_and_stays_a_sphere() {
    let sphere = shapes::bumpy_sphere(20_000);
    let (outcome, audit) = remeshed(&sphere, Target::Count(12_000));
    let share = audit.mesh.faces as f64 / 12_000.0;
    assert!((share - 1.0).abs() < 0.03, "{share}");
    assert!(audit.mesh.watertight);
    assert!(audit.findings.iter().all(|finding| finding.count() == 0));
    assert_even(&outcome.model.mesh, 0.95, 15.0);
    let moved = deviation(&sphere, &outcome.model.mesh, 20_000).unwrap();
    assert!(moved.max < 0.012 && moved.rms < 0.002, "{moved:?}");
}

#[test]
fn a_box_keeps_its_edges_and_corners_exactly() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::new(2.0, 1.0, 1.0), 1);
    let (outcome, audit) = remeshed(&cube, Target::Edge(0.11));
    assert!(
        (audit.mesh.volume - 2.0).abs() < 1e-9,
        "{}",
        audit.mesh.volume
    );
    assert!((audit.mesh.area - 10.0).abs() < 1e-9);
    assert!(audit.mesh.watertight);
    assert_even(&outcome.model.mesh, 0.95, 15.0);
    for corner in cube.positions() {
        assert!(outcome.model.mesh.positions().contains(corner), "{corner}");
    }
}

#[test]
fn an_open_sheet_keeps_its_border() {
    let sheet = shapes::grid(7, 5, 7.0, 5.0);
    for edge in [0.3, 2.2] {
        let (_, audit) = remeshed(&sheet, Target::Edge(edge));
        assert!((audit.mesh.area - 35.0).abs() < 1e-9);
        assert_eq!(audit.mesh.rims, 1);
        assert_eq!(audit.count("nonmanifold-edges"), 0);
    }
}

#[test]
fn what_would_not_fit_is_refused_with_what_would() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1);
    let options = RemeshOptions::of;
    let model = Model::from(cube);
    assert!(matches!(
        remesh(&model, &options(Target::Edge(1e-7)), &()),
        Err(RemeshError::TooFine { .. })
    ));
    assert!(matches!(
        remesh(&model, &options(Target::Edge(0.0)), &()),
        Err(RemeshError::NoLength)
    ));
    assert!(matches!(
        remesh(&Model::default(), &options(Target::Edge(1.0)), &()),
        Err(RemeshError::NoSurface)
    ));
}
