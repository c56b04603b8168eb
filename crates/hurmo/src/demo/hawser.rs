//! The hawser coil: a rope that runs through itself, and is inside out.

use super::{DemoModel, planted};
use glam::DVec3;
use hurmo_core::{Mesh, Model, VertexId, shapes};
use std::f64::consts::TAU;

const AROUND: usize = 600;
const ACROSS: usize = 16;
const TURNS: f64 = 5.0;
const ROPE: f64 = 0.06;

/// The rope's middle line, all round once: it winds `TURNS` times before it closes.
fn line(share: f64) -> DVec3 {
    let turn = TAU * share;
    let reach = 0.6 + 0.12 * (2.0 * turn).cos();
    DVec3::new(
        reach * (TURNS * turn).cos(),
        reach * (TURNS * turn).sin(),
        0.1 * (turn).sin(),
    )
}

pub(super) fn make() -> DemoModel {
    let rope = shapes::tube_grid(AROUND, ACROSS, |i, j| {
        let share = i / AROUND as f64;
        let at = line(share);
        let forward = (line(share + 1e-4) - line(share - 1e-4)).normalize();
        let out = (at - at.dot(DVec3::Z) * DVec3::Z).normalize();
        let side = (out - forward * out.dot(forward)).normalize();
        let up = side.cross(forward);
        let turn = TAU * j / ACROSS as f64;
        // Three strands.
        let strands = 1.0 + 0.12 * (3.0 * turn + 90.0 * TAU * share).cos();
        at + (side * turn.cos() + up * turn.sin()) * ROPE * strands
    });
    let rounded = rope
        .positions()
        .iter()
        .map(|p| p.as_vec3().as_dvec3())
        .collect();
    // Whichever way the grid faces, the coil is to face inward.
    let outward = hurmo_core::measure::volume(&rope) > 0.0;
    let triangles: Vec<[VertexId; 3]> = rope
        .faces()
        .flat_map(|(_, f)| [[f[0], f[1], f[2]], [f[0], f[2], f[3]]])
        .map(|t| if outward { [t[0], t[2], t[1]] } else { t })
        .collect();
    let mesh = Mesh::from_triangles(rounded, &triangles).expect("a rope of sound triangles");
    DemoModel {
        file: "hawser.stl",
        what: "a hawser coil: a rope that runs through itself, inside out",
        model: Model::from(mesh),
        planted: vec![planted("reversed-faces", 2 * AROUND * ACROSS)],
        along: &["intersecting-faces", "interior-faces"],
        rims: 0,
        brief: "engine",
        prepared: "hawser-engine.ply",
        packed: None,
        arguments: &["--to", "6k"],
    }
}
