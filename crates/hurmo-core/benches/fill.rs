//! How long it takes to close a rim of 10,000 edges, with each surface.
//!
//! Round the hole lie twenty rows of quads. One rim is even, one ragged. Every figure is the median of five
//! runs of `fill` alone, in seconds.
//!
//!     cargo bench -p hurmo-core --bench fill

use glam::DVec3;
use hurmo_core::Model;
use hurmo_core::fill::{FillOptions, Kind, RimFacts, Surface, fill, rims_described};
use hurmo_core::mesh::{Mesh, VertexId};
use std::f64::consts::TAU;
use std::time::Instant;

const EDGES: u32 = 10_000;
const ROWS: u32 = 20;
const RUNS: usize = 5;

fn main() {
    let wanted: Vec<String> = std::env::args().skip(1).collect();
    let is_wanted = |surface: &Surface| {
        let named = |word: &String| word.as_str() == surface.name();
        !wanted.iter().any(|word| !word.starts_with('-')) || wanted.iter().any(named)
    };
    let surfaces = [Surface::Flat, Surface::Tight, Surface::Round];
    for (name, ragged) in [("even", 0.0), ("ragged", 0.3)] {
        let model = ring(ragged);
        let rims = rims_described(&model.mesh);
        let is_hole = |rim: &RimFacts| rim.kind == Kind::Hole;
        let hole = rims.iter().position(is_hole).expect("a hole");
        println!("{name} rim of {EDGES} edges, median of {RUNS} runs");
        for surface in surfaces.iter().copied().filter(is_wanted) {
            let mut options = FillOptions::default();
            options.rims = vec![hole..=hole];
            options.surface = Some(surface);
            let mut seconds = Vec::new();
            let mut last = None;
            for _ in 0..RUNS {
                let start = Instant::now();
                let outcome = fill(&model, &options, &()).unwrap();
                seconds.push(start.elapsed().as_secs_f64());
                last = outcome.filled.into_iter().next();
            }
            seconds.sort_by(f64::total_cmp);
            let filled = last.expect("the rim is closed");
            println!(
                "{:6} {:>8.2} s  {:>8} faces, {}{}{}",
                surface.name(),
                seconds[RUNS / 2],
                filled.faces,
                filled.surface.name(),
                if filled.held_back { ", held back" } else { "" },
                if filled.meets_others {
                    ", meets others"
                } else {
                    ""
                },
            );
        }
    }
}

/// Twenty rows of quads round a hole; the first row is ragged within the surface, by this many rows.
fn ring(ragged: f64) -> Model {
    let mut mesh = Mesh::default();
    for row in 0..ROWS {
        for i in 0..EDGES {
            let turn = TAU * f64::from(i) / f64::from(EDGES);
            let row = match row {
                0 => ragged * (1.7 * f64::from(i)).sin(),
                _ => f64::from(row),
            };
            let inward = 1.0 - row / f64::from(ROWS);
            let radius = 1.0 + 0.0012 * row + 0.01 * (9.0 * turn).sin() * inward;
            let height = 0.05 * (5.0 * turn).cos() * inward;
            mesh.push_vertex(DVec3::new(radius * turn.cos(), radius * turn.sin(), height));
        }
    }
    let at = |row: u32, i: u32| VertexId(row * EDGES + i % EDGES);
    for row in 0..ROWS - 1 {
        for i in 0..EDGES {
            let corners = [
                at(row, i),
                at(row + 1, i),
                at(row + 1, i + 1),
                at(row, i + 1),
            ];
            mesh.push_face(corners);
        }
    }
    Model::from(mesh)
}
