//! What regions must not change.

use super::*;
use crate::measure::deviation;
use crate::shapes;
use glam::DVec3;

fn to(count: usize) -> DecimateOptions {
    DecimateOptions {
        to: Some(count),
        ..DecimateOptions::default()
    }
}

#[test]
fn the_number_of_threads_changes_nothing() {
    let model = Model::from(shapes::bumpy_sphere(40_000));
    let with = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads);
        let pool = pool.build().expect("threads");
        pool.install(|| decimate_in_regions(&model, &to(3_000), 1_000, &()))
    };
    let one = with(1).model.mesh;
    assert!(one.face_count() <= 3_000 && one.face_count() >= 2_998);
    for threads in [2, 5] {
        let other = with(threads).model.mesh;
        assert!(one.positions() == other.positions() && one.corners() == other.corners());
    }
}

#[test]
fn regions_cost_next_to_no_accuracy() {
    let sphere = shapes::bumpy_sphere(50_000);
    let model = Model::from(sphere.clone());
    let rms = |count: usize, region: usize| {
        let low = decimate_in_regions(&model, &to(count), region, &())
            .model
            .mesh;
        deviation(&sphere, &low, 50_000).expect("faces").rms
    };
    for count in [5_000, 500] {
        let (whole, parted) = (rms(count, REGION), rms(count, 2_000));
        assert!(parted < 1.06 * whole, "{parted} against {whole} at {count}");
    }
}

#[test]
fn flat_sheets_are_reduced_as_far_in_regions() {
    let grid = Model::from(shapes::grid(100, 100, 1.0, 1.0));
    let low = decimate_in_regions(&grid, &to(2), 500, &()).model.mesh;
    assert_eq!(low.face_count(), 2);
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 40);
    let flat = DecimateOptions {
        flat: Some(1e-6),
        ..DecimateOptions::default()
    };
    let low = decimate_in_regions(&Model::from(cube), &flat, 400, &());
    assert_eq!(low.model.mesh.face_count(), 12);
}
