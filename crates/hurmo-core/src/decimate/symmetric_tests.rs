use super::*;
use crate::audit::{self, audit};
use crate::compare::stay_within;
use crate::mirror::{Half, find};
use crate::random_cases::cases;
use crate::shapes;
use crate::units::Axis;
use glam::DVec3;
use proptest::prelude::*;

fn half_of(mesh: &Mesh) -> (Model, Half) {
    let model = Model::from(mesh.clone());
    let half = Half::of(&model, &find(mesh, Some(Axis::X)).unwrap()).unwrap();
    (model, half)
}

/// Whether every face has its image among the faces, to the last bit.
fn is_its_own_image(mesh: &Mesh, half: &Half) -> bool {
    let key = |points: Vec<DVec3>| {
        let mut bits: Vec<[u64; 3]> = points
            .into_iter()
            .map(|p| p.to_array().map(|x| (x + 0.0).to_bits()))
            .collect();
        bits.sort_unstable();
        bits
    };
    let faces: std::collections::HashSet<_> = mesh
        .face_ids()
        .map(|face| key(mesh.face_points(face).collect()))
        .collect();
    mesh.face_ids().all(|face| {
        let images = mesh.face_points(face).map(|p| half.mirror.image(p));
        faces.contains(&key(images.collect()))
    })
}

#[test]
fn a_symmetric_model_stays_so_and_sound_at_every_budget() {
    let bumpy = shapes::bumpy_sphere(40_000);
    let mut mesh = bumpy.clone();
    // Its own image across x, but not so divided.
    mesh.positions_mut().iter_mut().for_each(|p| {
        let long = 1.0 + 0.15 * (9.0 * p.x.abs()).sin() + 0.1 * (7.0 * p.y).cos();
        *p = p.normalize() * long;
    });
    let (model, half) = half_of(&mesh);
    for to in [20_000, 2_000, 301, 60] {
        let options = DecimateOptions {
            to: Some(to),
            ..DecimateOptions::default()
        };
        let outcome = decimate_symmetric(&model, &half, &options, &()).unwrap();
        let low = &outcome.model.mesh;
        assert_eq!(outcome.stopped_by, None);
        let faces = low.face_count();
        assert!((to - 3..=to).contains(&faces), "{faces} of {to}");
        assert!(is_its_own_image(low, &half), "{to}");
        let audit = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
        assert!(audit.mesh.watertight, "{to}");
        assert_eq!(audit.mesh.parts, 1);
    }
}

#[test]
fn it_costs_little_of_the_shape() {
    let sphere = shapes::sphere(1.0, 6);
    let (model, half) = half_of(&sphere);
    let options = DecimateOptions {
        to: Some(1000),
        ..DecimateOptions::default()
    };
    let free = decimate(&model, &options, &()).unwrap().model.mesh;
    let symmetric = decimate_symmetric(&model, &half, &options, &())
        .unwrap()
        .model
        .mesh;
    let rms = |mesh: &Mesh| {
        crate::measure::deviation(mesh, &sphere, 20_000)
            .unwrap()
            .rms
    };
    assert!(
        rms(&symmetric) < 1.25 * rms(&free),
        "{} {}",
        rms(&symmetric),
        rms(&free)
    );
}

#[test]
fn a_distance_is_proved_on_both_sides() {
    let (model, half) = half_of(&shapes::sphere(1.0, 5));
    for (within, flat) in [(Some(0.02), None), (None, Some(1e-6))] {
        let options = DecimateOptions {
            within,
            flat,
            ..DecimateOptions::default()
        };
        let outcome = decimate_symmetric(&model, &half, &options, &()).unwrap();
        let limit = within.or(flat).unwrap();
        assert!(stay_within(&model.mesh, &outcome.model.mesh, limit));
        assert!(
            within.is_none() || outcome.held == within && outcome.model.mesh.face_count() < 500
        );
    }
    // What lies flat goes on both sides, and the plane cuts no face that is left.
    let (model, half) = half_of(&shapes::cuboid(DVec3::splat(-1.0), DVec3::splat(1.0), 7));
    let flat = DecimateOptions {
        flat: Some(1e-6),
        ..DecimateOptions::default()
    };
    let cube = decimate_symmetric(&model, &half, &flat, &())
        .unwrap()
        .model
        .mesh;
    assert_eq!(cube.face_count(), 20);
    assert!((crate::measure::volume(&cube) - 8.0).abs() < 1e-12);
}

#[test]
fn a_ladder_keeps_it() {
    let (model, half) = half_of(&shapes::sphere(1.0, 5));
    let rungs = ladder_symmetric(
        &model,
        &half,
        &[4000, 400, 40],
        &FeatureWeights::default(),
        &(),
    )
    .unwrap();
    for (rung, to) in rungs.iter().zip([4000, 400, 40]) {
        assert!(rung.model.mesh.face_count() <= to);
        assert!(is_its_own_image(&rung.model.mesh, &half));
    }
}

proptest! {
    #![proptest_config(cases(32))]

    /// Open, closed, holed: nothing is added that blocks, and the image stays whole.
    #[test]
    fn holes_and_rims_are_no_harm(
        cuts in 3..9usize, seed in 0..u64::MAX, share in 0.05..0.9f64, lean in -0.4..0.4f64,
    ) {
        let mut mesh = shapes::cuboid(DVec3::splat(-1.0), DVec3::splat(1.0), cuts);
        mesh.positions_mut().iter_mut().for_each(|p| {
            *p = DVec3::new(p.x * (1.0 + lean * p.y), p.y + 0.2 * (3.0 * p.x.abs()).sin(), p.z);
        });
        // Holes that are images of each other.
        let dig = |p: DVec3| {
            let cell = (p * 2.0).round();
            let hash = (cell.x.abs() * 7.0 + cell.y * 31.0 + cell.z * 101.0) as i64 as u64;
            (hash ^ seed).wrapping_mul(0x9E37_79B9_7F4A_7C15) >> 60 == 0
        };
        let (model, _) = Model::from(mesh).without_faces(|_| false);
        let middles: Vec<DVec3> = model.mesh.face_ids().map(|f| model.mesh.face_middle(f)).collect();
        let (model, _) = model.without_faces(|face| dig(middles[face.index()]));
        prop_assume!(model.mesh.face_count() > 20);
        let Some(found) = find(&model.mesh, Some(Axis::X)).filter(|found| found.is_symmetric) else {
            return Ok(());
        };
        let Ok(half) = Half::of(&model, &found) else { return Ok(()) };
        let triangles = all_triangles(&model.mesh).0.len();
        let options = DecimateOptions { to: Some((triangles as f64 * share) as usize + 8), ..DecimateOptions::default() };
        let outcome = decimate_symmetric(&model, &half, &options, &()).unwrap();
        prop_assert!(outcome.model.mesh.face_count() == triangles || is_its_own_image(&outcome.model.mesh, &half));
        let look = |model: &Model| audit(model, &audit::AuditOptions::default(), &()).unwrap();
        let (was, is) = (look(&model), look(&outcome.model));
        let count = |audit: &audit::Audit, check: &str| {
            audit.findings.iter().find(|f| f.check == check).map_or(0, |f| f.count())
        };
        for check in ["nonmanifold-edges", "misoriented-edges", "lamina-faces", "zero-area-faces"] {
            prop_assert!(count(&is, check) <= count(&was, check), "{}", check);
        }
        prop_assert_eq!(is.mesh.parts, was.mesh.parts);
        // Where rims meet in a vertex it is a matter of taste which is which.
        if count(&was, "pinched-vertices") == 0 {
            prop_assert_eq!(is.mesh.rims, was.mesh.rims);
        }
    }
}
