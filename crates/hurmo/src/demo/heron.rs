//! The heron figurehead: a scan of 200,000 triangles, with noise, holes and floating scraps.

use super::{DemoModel, planted};
use glam::{DMat4, DVec2, DVec3};
use hurmo_core::{Mesh, Model, VertexId, shapes};
use rand_pcg::Pcg32;
use rand_pcg::rand_core::{Rng, SeedableRng};
use std::f64::consts::{PI, TAU};

const AROUND: usize = 280;
const ALONG: usize = 360;
const NOISE: f64 = 0.000_6;
/// Holes as blocks of the scan's grid: where along, where around, how many rows, how many
/// columns.
const HOLES: [[usize; 4]; 6] = [
    [60, 20, 9, 14],
    [110, 150, 3, 5],
    [150, 240, 16, 7],
    [200, 90, 22, 30],
    [250, 10, 4, 4],
    [300, 200, 6, 12],
];
const SCRAPS: usize = 9;

/// The bird's middle line, from beak (0) to tail (1), and its width and height there.
fn body(along: f64) -> (DVec3, DVec2) {
    let knots: [(f64, [f64; 3], [f64; 2]); 9] = [
        (0.0, [0.95, 0.0, 1.18], [0.004, 0.004]),
        (0.14, [0.62, 0.0, 1.24], [0.025, 0.03]),
        (0.22, [0.46, 0.0, 1.25], [0.075, 0.085]),
        (0.32, [0.3, 0.0, 1.12], [0.06, 0.065]),
        (0.45, [0.36, 0.0, 0.82], [0.07, 0.07]),
        (0.58, [0.22, 0.0, 0.55], [0.12, 0.14]),
        (0.74, [-0.12, 0.0, 0.38], [0.24, 0.25]),
        (0.9, [-0.55, 0.0, 0.3], [0.14, 0.12]),
        (1.0, [-0.9, 0.0, 0.26], [0.01, 0.006]),
    ];
    let next = knots.iter().position(|k| k.0 >= along).unwrap_or(8).max(1);
    let (a, b) = (knots[next - 1], knots[next]);
    let share = (along - a.0) / (b.0 - a.0);
    // Catmull & Rom 1974: a smooth curve through all knots.
    let before = knots[next.saturating_sub(2)];
    let behind = knots[(next + 1).min(8)];
    let blend = |p: f64, q: f64, r: f64, s: f64| {
        let (t, t2, t3) = (share, share * share, share * share * share);
        0.5 * (2.0 * q
            + (r - p) * t
            + (2.0 * p - 5.0 * q + 4.0 * r - s) * t2
            + (3.0 * q - p - 3.0 * r + s) * t3)
    };
    let at = [0, 1, 2].map(|i| blend(before.1[i], a.1[i], b.1[i], behind.1[i]));
    let size = [0, 1].map(|i| a.2[i] + (b.2[i] - a.2[i]) * (3.0 - 2.0 * share) * share * share);
    (DVec3::from_array(at), DVec2::from_array(size))
}

fn surface(ring: usize, step: usize) -> DVec3 {
    // Rings crowd towards both ends, so that the ends are round.
    let along = 0.5 - 0.5 * (PI * ring as f64 / ALONG as f64).cos();
    let (at, size) = body(along);
    let ahead = body((along + 1e-3).min(1.0)).0 - body((along - 1e-3).max(0.0)).0;
    let forward = ahead.normalize_or(DVec3::X);
    let side = DVec3::Y;
    let up = forward.cross(side).normalize();
    let turn = TAU * step as f64 / AROUND as f64;
    let fade = (PI * ring as f64 / ALONG as f64).sin().max(0.0).sqrt();
    let feathers = 1.0 + 0.02 * fade * (18.0 * turn).sin() * (60.0 * along).sin();
    let round = if ring == 0 || ring == ALONG {
        0.0
    } else {
        feathers * fade.max(0.2)
    };
    at + (side * turn.cos() * size.x + up * turn.sin() * size.y) * round
}

/// A random number from -1 to below 1: 52 bits of it.
fn one_way_or_other(random: &mut Pcg32) -> f64 {
    let from_one_to_two = f64::from_bits(0x3ff0_0000_0000_0000 | random.next_u64() >> 12);
    (from_one_to_two - 1.0) * 2.0 - 1.0
}

/// Points of the surface, ring by ring, with a scanner's noise.
fn scanned(random: &mut Pcg32) -> Vec<DVec3> {
    let mut positions = vec![surface(0, 0)];
    for ring in 1..ALONG {
        for step in 0..AROUND {
            // Less than the points are apart, so that noise alone makes no face cross another.
            let at = surface(ring, step);
            let apart = [(ring + 1, step), (ring - 1, step), (ring, step + 1)]
                .map(|(ring, step)| surface(ring, step).distance(at))
                .into_iter()
                .fold(f64::INFINITY, f64::min);
            let most = NOISE.min(0.2 * apart);
            let noise = [0; 3].map(|_| one_way_or_other(random) * most);
            let noise = DVec3::from_array(noise);
            // A scanner's numbers are single-precision.
            positions.push((at + noise).as_vec3().as_dvec3());
        }
    }
    positions.push(surface(ALONG, 0));
    positions[0] = positions[0].as_vec3().as_dvec3();
    let last = positions.len() - 1;
    positions[last] = positions[last].as_vec3().as_dvec3();
    positions
}

pub(super) fn make() -> DemoModel {
    let mut random = Pcg32::seed_from_u64(0x5a17_3a25);
    let mut positions = scanned(&mut random);
    let last = positions.len() - 1;
    let at = |ring: usize, step: usize| match ring {
        0 => 0,
        ALONG => last as u32,
        _ => (1 + (ring - 1) * AROUND + step % AROUND) as u32,
    };
    let in_hole = |ring: usize, step: usize| {
        HOLES.iter().any(|&[row, column, rows, columns]| {
            (row..row + rows).contains(&ring) && (column..column + columns).contains(&step)
        })
    };
    let mut faces: Vec<[u32; 3]> = Vec::new();
    for ring in 0..ALONG {
        for step in (0..AROUND).filter(|&step| !in_hole(ring, step)) {
            let [a, b, c, d] = [
                at(ring, step),
                at(ring, step + 1),
                at(ring + 1, step + 1),
                at(ring + 1, step),
            ];
            if ring > 0 {
                faces.push([a, b, c]);
            }
            if ring + 1 < ALONG {
                faces.push([a, c, d]);
            }
        }
    }
    for i in 0..SCRAPS {
        let place = DMat4::from_translation(DVec3::new(
            0.9 - 0.2 * i as f64,
            0.45 + 0.03 * (i % 3) as f64,
            0.2 + 0.11 * (i % 5) as f64,
        ));
        let scrap = shapes::sphere(0.006 + 0.002 * (i % 4) as f64, 1);
        let base = positions.len() as u32;
        let moved = scrap.positions().iter().map(|p| place.transform_point3(*p));
        positions.extend(moved.map(|p| p.as_vec3().as_dvec3()));
        faces.extend(
            scrap
                .faces()
                .map(|(_, f)| [f[0].0 + base, f[1].0 + base, f[2].0 + base]),
        );
    }
    // Vertices inside the holes went with their faces.
    let triangles: Vec<_> = faces.iter().map(|f| f.map(VertexId)).collect();
    let mesh = Mesh::from_triangles(positions, &triangles).expect("a heron of sound triangles");
    let mut model = Model::from(mesh);
    model.drop_unused_vertices();
    let border = |[_, _, rows, columns]: [usize; 4]| 2 * (rows + columns);
    DemoModel {
        file: "heron.ply",
        what: "a heron figurehead: a scan with noise, holes and floating scraps",
        model,
        planted: vec![
            planted("open-edges", HOLES.into_iter().map(border).sum()),
            planted("floating-parts", SCRAPS),
        ],
        // Where rings crowd towards beak and tail.
        along: &["sliver-faces", "uneven-density"],
        rims: HOLES.len(),
        brief: "print",
        prepared: "heron-print.3mf",
        packed: None,
        arguments: &[
            "--to",
            "50k",
            "--up",
            "z",
            "--real-size",
            "height=12cm",
            "--origin",
            "base",
        ],
    }
}
