//! How the cost of decimation grows with the size of the model: to 10%, at 1, 4 and 16 million
//! triangles, as ratios to a yardstick (sorting three random `u64` keys a triangle on one
//! thread) taken just before each run; the median of three.
//!
//!     cargo bench -p hurmo-core --bench decimate             all sizes
//!     cargo bench -p hurmo-core --bench decimate -- 1 2      millions of triangles
//!
//! Beside it how far the result lies off, times its triangles: that stays the same as long as
//! the reduction does its best. Then of the edges that are left of bumps and of a rough scan the share
//! that could have gone for less than the last one that did.

#[path = "common/yardstick.rs"]
mod yardstick;

use hurmo_core::decimate::{DecimateOptions, cheaper_left, decimate};
use hurmo_core::measure::deviation;
use hurmo_core::{Model, shapes};
use std::time::Instant;
use yardstick::yardstick;

const RUNS: usize = 3;

fn main() {
    let arguments = std::env::args().skip(1);
    let mut sizes: Vec<f64> = arguments.filter_map(|word| word.parse().ok()).collect();
    if sizes.is_empty() {
        sizes = vec![1.0, 4.0, 16.0];
    }
    println!("bumpy sphere to 10%, median of {RUNS} runs");
    println!(
        "{:>10} {:>10} {:>10} {:>8} {:>12}",
        "triangles", "to", "yardsticks", "seconds", "rms * count"
    );
    for millions in sizes {
        let model = Model::from(shapes::bumpy_sphere((millions * 1e6) as usize));
        let before = model.mesh.face_count();
        let mut found = Vec::new();
        let mut last = None;
        for _ in 0..RUNS {
            let yardstick = yardstick(before).as_secs_f64();
            let mut options = DecimateOptions::default();
            options.to = Some(before / 10);
            let start = Instant::now();
            let outcome = decimate(&model, &options, &()).unwrap();
            let seconds = start.elapsed().as_secs_f64();
            found.push((seconds / yardstick, seconds));
            last = Some(outcome.model);
        }
        found.sort_by(|a, b| a.0.total_cmp(&b.0));
        let (ratio, seconds) = found[RUNS / 2];
        let low = last.expect("there are runs").mesh;
        let rms = deviation(&model.mesh, &low, 200_000).map_or(0.0, |off| off.rms);
        println!(
            "{before:>10} {:>10} {ratio:>10.2} {seconds:>8.2} {:>12.4}",
            low.face_count(),
            rms * low.face_count() as f64
        );
    }
    println!("edges left that could have gone for less");
    for (name, mesh) in [
        ("bumps", shapes::bumpy_sphere(200_000)),
        ("rough scan", shapes::rough_scan(70)),
    ] {
        let to = mesh.face_count() / 10;
        let (cheaper, all) = cheaper_left(&Model::from(mesh), to);
        let share = 100.0 * cheaper as f64 / all as f64;
        println!("{name:>10} to {to}: {cheaper} of {all}, {share:.2}%");
    }
}
