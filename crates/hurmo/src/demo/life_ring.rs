//! The life-ring on its board: torn, with a scrap of skin afloat in the hole; the board's halves
//! meet with twice as many edges on one side; a ribbon with a half twist; four bolts.

use super::draft::Draft;
use super::{DemoModel, planted};
use glam::{DMat4, DVec3};
use hurmo_core::{Mesh, VertexId, shapes};
use std::collections::HashMap;
use std::f64::consts::TAU;

/// Quads round the ring, and round its tube.
const AROUND: usize = 64;
const ACROSS: usize = 32;
/// The hole's quads along the ring and round its tube, and those of the scrap in its middle.
const HOLE: [usize; 2] = [7, 8];
const SCRAP: [usize; 2] = [1, 2];
/// Edges across a side of the board's coarser half; its other half has twice as many.
const CUTS: usize = 4;
const RIBBON: usize = 48;
const BOLTS: usize = 4;

pub(super) fn make() -> DemoModel {
    let mut draft = Draft::default();
    let at = DMat4::from_translation;
    draft.add(&torn_ring(), DMat4::IDENTITY, "ring", "cork");
    draft.add(&board(), at(DVec3::Z * -0.35), "board", "oak");
    draft.add(&ribbon(), at(DVec3::new(0.0, -0.9, 0.0)), "ribbon", "cloth");
    let bolt = shapes::cuboid(DVec3::splat(-0.015), DVec3::splat(0.015), 1);
    for i in 0..BOLTS {
        let turn = TAU * (i as f64 + 0.5) / BOLTS as f64;
        let place = at(0.15 * DVec3::new(turn.cos(), turn.sin(), 0.0));
        draft.add(&bolt, place, &format!("bolt {}", i + 1), "iron");
    }
    let around = |[along, across]: [usize; 2]| 2 * (along + across);
    DemoModel {
        file: "life-ring.obj",
        what: "a life-ring: a scrap afloat in a hole, a board whose halves meet unevenly, a \
               ribbon with a half twist, loose bolts",
        model: draft.finish(),
        planted: vec![
            // The hole and the scrap in it, where the board's halves meet, the ribbon's border.
            planted(
                "open-edges",
                around(HOLE) + around(SCRAP) + 4 * CUTS + 4 * 2 * CUTS + 2 * RIBBON,
            ),
            // One row of a half-twisted band cannot agree with the next.
            planted("misoriented-edges", 1),
            planted("floating-parts", BOLTS),
            // The ribbon and the scrap.
            planted("no-thickness", 2),
            planted("non-planar-faces", RIBBON),
            // Where the board's halves meet, both end at each corner of the coarser one, and
            // the finer half's faces lie along the coarser edges.
            planted("pinched-vertices", 4 * CUTS),
            planted("intersecting-faces", 3 * 4 * CUTS),
        ],
        along: &[],
        rims: 5,
        brief: "engine",
        prepared: "life-ring-engine.obj",
        packed: None,
        arguments: &["--cut-one-sided"],
    }
}

/// The ring without the faces of the hole, but for those of the scrap, which lies alone.
fn torn_ring() -> Mesh {
    let whole = shapes::torus(0.4, 0.1, AROUND, ACROSS);
    let mut torn = Mesh::default();
    let mut known: HashMap<VertexId, VertexId> = HashMap::new();
    // The hole lies on the ring's upper half.
    let first = [AROUND / 8, 4];
    let is_in = |place: [usize; 2], size: [usize; 2]| {
        (0..2).all(|i| {
            let low = first[i] + (HOLE[i] - size[i]) / 2;
            (low..low + size[i]).contains(&place[i])
        })
    };
    for (face, corners) in whole.faces() {
        let place = [face.index() / ACROSS, face.index() % ACROSS];
        if !is_in(place, HOLE) || is_in(place, SCRAP) {
            let face: Vec<VertexId> = corners
                .iter()
                .map(|&v| {
                    *known
                        .entry(v)
                        .or_insert_with(|| torn.push_vertex(whole.position(v)))
                })
                .collect();
            torn.push_face(face);
        }
    }
    torn
}

/// A closed board whose halves share the corners of the coarser one where they meet: in each of
/// its edges there lies a vertex of the finer one.
fn board() -> Mesh {
    let mut board = Mesh::default();
    let mut known: HashMap<[u64; 3], VertexId> = HashMap::new();
    for (cuts, from, to) in [(CUTS, -0.6, 0.0), (2 * CUTS, 0.0, 0.6)] {
        let half = shapes::cuboid(
            DVec3::new(from, -0.15, 0.0),
            DVec3::new(to, 0.15, 0.1),
            cuts,
        );
        for (_, corners) in half.faces() {
            let points = corners.iter().map(|&v| half.position(v));
            if points.clone().all(|point| point.x == 0.0) {
                continue;
            }
            let face: Vec<VertexId> = points
                .map(|point| {
                    let bits = (point + DVec3::ZERO).to_array().map(f64::to_bits);
                    *known
                        .entry(bits)
                        .or_insert_with(|| board.push_vertex(point))
                })
                .collect();
            board.push_face(face);
        }
    }
    board
}

/// A band of quads with a half twist.
fn ribbon() -> Mesh {
    let mut ribbon = Mesh::default();
    for i in 0..RIBBON {
        let turn = TAU * i as f64 / RIBBON as f64;
        let out = DVec3::new(turn.cos(), turn.sin(), 0.0);
        let across = (turn / 2.0).cos() * DVec3::Z + (turn / 2.0).sin() * out;
        for side in [-0.5, 0.5] {
            ribbon.push_vertex(0.25 * out + side * 0.06 * across);
        }
    }
    let at = |i: usize, side: usize| {
        let has_crossed = i == RIBBON;
        VertexId::new(2 * (i % RIBBON) + (side ^ usize::from(has_crossed)))
    };
    for i in 0..RIBBON {
        ribbon.push_face([at(i, 0), at(i, 1), at(i + 1, 1), at(i + 1, 0)]);
    }
    ribbon
}
