//! Shrinking a little and swelling a little more (Taubin 1995): of the waves on a surface, short
//! ones die out, long ones stay as high as they are.

use super::{May, Neighbourhood, mean};
use crate::parallel::mapped;
use glam::DVec3;

/// How far towards the mean of its neighbours a vertex goes.
const SHRINK: f64 = 0.5;
/// Waves that lose less than this share of their height to a whole step stay. More would let
/// what is round swell: a ball of edges of a fourteenth by half a percent in a hundred rounds.
const PASS: f64 = 0.02;

/// Where vertices are after one step there and one back.
pub(super) fn round(neighbourhood: &Neighbourhood, places: &[DVec3]) -> Vec<DVec3> {
    let swell = 1.0 / (PASS - 1.0 / SHRINK);
    stepped(
        &stepped(places, neighbourhood, SHRINK),
        neighbourhood,
        swell,
    )
}

fn stepped(places: &[DVec3], neighbourhood: &Neighbourhood, step: f64) -> Vec<DVec3> {
    mapped(places.len(), 4096, |v| {
        if neighbourhood.may[v] == May::Stay {
            return places[v];
        }
        let others = neighbourhood.around.of(v).iter();
        match mean(others.map(|&other| places[other as usize])) {
            Some(mean) => places[v].lerp(mean, step),
            None => places[v],
        }
    })
}
