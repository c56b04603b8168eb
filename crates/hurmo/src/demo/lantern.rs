//! The signal lantern: an open body with an unwelded seam, a pane with a face that repeats a
//! vertex, and faces left inside.

use super::draft::Draft;
use super::{DemoModel, planted};
use glam::{DMat4, DVec2, DVec3};
use hurmo_core::shapes;

const AROUND: usize = 36;
const RINGS: usize = 13;
const INSIDE: usize = 5;
const STRAY: usize = 5;
const COLLAPSED: usize = 3;

pub(super) fn make() -> DemoModel {
    let mut draft = Draft::default();
    let profile: Vec<DVec2> = (0..RINGS)
        .map(|i| {
            let rise = i as f64 / (RINGS - 1) as f64;
            DVec2::new(0.16 + 0.05 * (6.0 * rise).sin(), 0.5 * rise)
        })
        .collect();
    let body = draft.add(
        &shapes::lathe(&profile, AROUND, false),
        DMat4::IDENTITY,
        "body",
        "brass",
    );
    draft.unwrap(body, |face, corner| {
        let (ring, step) = (face / AROUND, face % AROUND);
        let (along, up) = [(0, 0), (1, 0), (1, 1), (0, 1)][corner];
        DVec2::new(
            (step + along) as f64 / AROUND as f64,
            (ring + up) as f64 / (RINGS - 1) as f64,
        )
    });
    // The seam: the last column of faces closes onto copies of the first column of vertices.
    let seam: Vec<u32> = (0..RINGS).map(|ring| (ring * AROUND) as u32).collect();
    draft.unweld(&seam, (0..RINGS - 1).map(|ring| ring * AROUND + AROUND - 1));

    let pane = shapes::cuboid(
        DVec3::new(-0.06, -0.24, 0.12),
        DVec3::new(0.06, -0.236, 0.38),
        3,
    );
    let pane = draft.add(&pane, DMat4::IDENTITY, "pane", "glass");
    let shelf = shapes::grid(INSIDE, INSIDE, 0.16, 0.16);
    let place = DMat4::from_translation(DVec3::new(-0.08, -0.08, 0.25));
    draft.add(&shelf, place, "left inside", "brass");
    // Faces that repeat a vertex, laid over edges of the pane.
    for i in 0..COLLAPSED {
        let mut face = draft.faces[pane.start + 2 * i].clone();
        face.vertices.truncate(3);
        face.vertices[2] = face.vertices[0];
        draft.faces.push(face);
    }
    draft.stray((0..STRAY).map(|i| DVec3::new(0.0, 0.1 * i as f64, -0.5)));
    DemoModel {
        file: "lantern.obj",
        what: "a signal lantern: open ends, an unwelded seam, a thin pane, faces left inside",
        model: draft.finish(),
        planted: vec![
            // Both ends, both sides of the seam, and the border of what was left inside.
            planted("open-edges", 2 * AROUND + 2 * (RINGS - 1) + 4 * INSIDE),
            planted("zero-area-faces", COLLAPSED),
            planted("duplicate-vertices", RINGS),
            planted("missing-uvs", INSIDE * INSIDE),
            planted("stray-vertices", STRAY),
            planted("interior-faces", INSIDE * INSIDE),
            planted("nested-parts", 1),
            planted("no-thickness", 2),
            // The pane's narrow sides, and where they meet its wide ones.
            planted("sliver-faces", 2 * 3 * 3),
            planted("uneven-density", 2 * 4 * 3),
        ],
        along: &[],
        // Unwelded, the body is a sheet with one rim; the other is that of what was left inside.
        rims: 2,
        brief: "engine",
        prepared: "lantern-engine.glb",
        packed: Some("lantern-handoff"),
        arguments: &["--unit", "m", "--up", "z"],
    }
}
