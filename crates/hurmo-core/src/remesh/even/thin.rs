//! Where a surface is thin against the edges that it is to have for a while.
//!
//! From every vertex a step inward, and one outward should the faces look the wrong way: where the
//! other side is nearer to that place than the step is long, edges twice as long would not go
//! round. Edges there stay short, and from there on become longer bit by bit.

use super::sheet::{Ground, Sheet};
use super::wanted::Wanted;
use rayon::prelude::*;

/// The other side is so near to the place a step away, in steps.
const NEAR: f64 = 0.6;
/// How far its faces look the other way (cosine).
const OPPOSITE: f64 = -0.3;

/// How long edges may be while they are laid coarsely, by vertex of the model and as a share of
/// twice `step`; `None` where all may be as long.
pub(super) fn coarse_lengths(sheet: &Sheet, ground: &Ground<'_>, step: f64) -> Option<Wanted> {
    let vertices = (0..ground.net.positions.len() as u32).into_par_iter();
    let is_thin = |&v: &u32| {
        let here = ground.net.positions[v as usize];
        let normal = sheet.facing(v).normalize_or_zero();
        [-step, step].into_iter().any(|step| {
            let there = here + normal * step;
            let found = ground.carried.closest_within(there, NEAR * step.abs());
            found.is_some_and(|found| {
                let other = ground.carried.normal(found.triangle);
                other.dot(normal) < OPPOSITE * other.length()
            })
        })
    };
    let thin: Vec<u32> = vertices.with_min_len(4096).filter(is_thin).collect();
    (!thin.is_empty()).then(|| Wanted::shorter_at(ground.net, &thin, step))
}
