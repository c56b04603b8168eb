//! Which lines are kept and which are noise.

use super::tests::centred;
use super::*;
use crate::mesh::Mesh;
use crate::shapes;
use glam::DVec3;
use std::f64::consts::FRAC_PI_2;

/// A sheet with a ridge along the middle, twelve quads long, that fades out into it.
fn ridge() -> Mesh {
    let mut sheet = centred(40, 40);
    for at in sheet.positions_mut() {
        let out = (at.x.abs() / 10.0).min(1.0) * FRAC_PI_2;
        let steep = 1.2 * out.cos().powi(2);
        at.z = -steep * 4.0 * (1.0 - (-at.y.abs() / 4.0).exp());
    }
    sheet
}

fn lines_of(mesh: &Mesh, edge: f64, short_features: ShortFeatures) -> (usize, usize) {
    let options = RemeshOptions {
        short_features,
        ..RemeshOptions::of(Target::Edge(edge))
    };
    let outcome = remesh(&Model::from(mesh.clone()), &options, &()).unwrap();
    (outcome.lines, outcome.short_features)
}

#[test]
fn creases_that_fade_out_within_two_edges_are_noise() {
    let sheet = ridge();
    // The four sides of the sheet, and the ridge.
    assert_eq!(lines_of(&sheet, 4.0, ShortFeatures::Noise), (5, 0));
    assert_eq!(lines_of(&sheet, 7.0, ShortFeatures::Noise), (4, 1));
    assert_eq!(lines_of(&sheet, 7.0, ShortFeatures::Under(0.0)), (5, 0));
    assert_eq!(lines_of(&sheet, 4.0, ShortFeatures::Under(20.0)), (4, 1));
}

#[test]
fn what_is_creased_all_round_is_kept_however_small() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::splat(0.1), 1);
    assert_eq!(lines_of(&cube, 5.0, ShortFeatures::Noise), (12, 0));
}
