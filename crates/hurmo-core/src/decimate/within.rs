//! The fewest triangles that stay within a distance.
//!
//! ```text
//! half, a quarter, … of the triangles, until the distance is not held
//!      └─▶ between the last that holds and the first that doesn't: halved until they are near
//! ```
//!
//! Each time it is proved, both ways, that the reduced surface and the first one lie within the
//! distance, by branch and bound (see `compare`); where that can't be proved, it counts as not
//! held. Every try goes on from the last that held. Cost: some eight reductions and proofs.

use super::fit_in_the_end;
use super::reduce::Reduction;
use crate::compare::stay_within;
use crate::mesh::Mesh;
use crate::progress::Observer;

/// Between so many parts of the triangles, the search ends.
const FINE: usize = 100;

/// Reduces as far as the distance is proved to be held, and no further than to `least`
/// triangles; says whether something else than these ended it.
pub(super) fn reduce_within(
    reduction: &mut Reduction,
    original: &Mesh,
    within: f64,
    least: usize,
    observer: &dyn Observer,
) -> bool {
    let mut fails = 0;
    while !observer.cancelled() {
        let living = reduction.living();
        let to = match fails {
            0 => (living / 2).max(least),
            _ => (living + fails) / 2,
        };
        if to >= living || (fails > 0 && living - fails <= living.div_ceil(FINE).max(2)) {
            break;
        }
        let mut trial = reduction.clone();
        let reached = trial.run(to, observer);
        fit_in_the_end(&mut trial, original);
        match stay_within(original, &trial.surface(), within) {
            true => {
                *reduction = trial;
                if !reached {
                    return true;
                }
            }
            false => fails = to,
        }
    }
    false
}
