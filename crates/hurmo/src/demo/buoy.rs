//! The bell buoy: closed parts pushed into each other, one of them inside out.

use super::draft::Draft;
use super::{DemoModel, planted};
use glam::{DMat4, DVec2, DVec3};
use hurmo_core::shapes;
use std::f64::consts::TAU;

const LEG_SIDES: usize = 12;
const LEG_RINGS: usize = 9;
const STRAY: usize = 7;

pub(super) fn make() -> DemoModel {
    let mut draft = Draft::default();
    let at = DMat4::from_translation;
    let hull: Vec<DVec2> = [
        (0.25, -0.55),
        (0.75, -0.4),
        (0.95, -0.1),
        (0.95, 0.15),
        (0.7, 0.3),
    ]
    .map(|(r, z)| DVec2::new(r, z))
    .to_vec();
    draft.add(
        &shapes::lathe(&hull, 48, true),
        DMat4::IDENTITY,
        "hull",
        "red lead",
    );
    let leg: Vec<DVec2> = (0..LEG_RINGS)
        .map(|i| DVec2::new(0.05, 1.5 * i as f64 / (LEG_RINGS - 1) as f64))
        .collect();
    let leg = shapes::lathe(&leg, LEG_SIDES, true);
    for i in 0..4 {
        let turn = TAU * (i as f64 + 0.5) / 4.0;
        let foot = DVec3::new(0.5 * turn.cos(), 0.5 * turn.sin(), 0.1);
        let lean =
            glam::DQuat::from_rotation_arc(DVec3::Z, (DVec3::Z * 1.5 - foot * 0.75).normalize());
        let place = DMat4::from_rotation_translation(lean, foot);
        let faces = draft.add(&leg, place, &format!("leg {}", i + 1), "iron");
        if i == 2 {
            draft.turn(faces);
        }
    }
    let bell: Vec<DVec2> = [
        (0.3, 0.0),
        (0.26, 0.08),
        (0.2, 0.22),
        (0.16, 0.34),
        (0.08, 0.4),
    ]
    .map(|(r, z)| DVec2::new(r, z))
    .to_vec();
    draft.add(
        &shapes::lathe(&bell, 32, true),
        at(DVec3::Z * 1.0),
        "bell",
        "bronze",
    );
    draft.add(
        &shapes::sphere(0.22, 3),
        at(DVec3::Z * 1.62),
        "lamp",
        "glass",
    );
    draft.stray((0..STRAY).map(|i| DVec3::new(0.2 * i as f64, 3.0, 0.0)));
    DemoModel {
        file: "buoy.obj",
        what: "a bell buoy: parts pushed into each other, a leg inside out, vertices left behind",
        model: draft.finish(),
        planted: vec![
            planted("reversed-faces", LEG_SIDES * (LEG_RINGS - 1) + 2),
            planted("stray-vertices", STRAY),
            // Two end caps each of hull, legs and bell.
            planted("ngons", 2 * 6),
            // The caps of hull and bell, beside the quads round them; a leg's are small.
            planted("uneven-density", 48 + 32),
            // Each leg runs into the hull, the bell and the lamp.
            planted("crossing-parts", 3 * 4),
        ],
        along: &["intersecting-faces", "interior-faces"],
        rims: 0,
        brief: "engine",
        prepared: "buoy-engine.obj",
        packed: None,
        arguments: &["--to", "1600"],
    }
}
