//! One arm of each triangle's cross as its first axis, chosen so that axes agree but across few edges: the
//! cut, along which the surface opens into a disc. Quarter turns between frames, and the irregular vertices
//! (Bommes, Zimmer, Kobbelt 2009, Mixed-Integer Quadrangulation).

use super::surface::{NONE, Surface, next, previous};
use super::wedges::turns_at_wedges;
use crate::geometry::corner_angle;
use std::collections::VecDeque;
use std::f64::consts::{FRAC_PI_2, PI, TAU};

/// The frames of a field of crosses.
pub(super) struct Frames {
    /// By triangle: the angle of the first axis.
    pub angles: Vec<f64>,
    /// By half-edge: by how many quarter turns the frame beside it is turned against the one here.
    pub turns: Vec<u8>,
    /// By half-edge: whether the surface is cut open there.
    pub is_cut: Vec<bool>,
    /// By vertex: how many quarter turns the field makes round it. Zero on rims.
    pub index: Vec<i32>,
}

impl Frames {
    /// Of the angles of crosses.
    pub fn of(surface: &Surface, mut angles: Vec<f64>) -> Self {
        let more = turns_at_wedges(surface, &angles);
        let mut index = indices(surface, &angles);
        for (&half_edge, &quarters) in &more {
            // What turns more to the left round one end turns less round the other.
            let end = surface.from(half_edge) as usize;
            if !surface.is_on_rim(end as u32) {
                index[end] += i32::from(quarters);
            }
        }
        let turned = |angles: &[f64], half_edge: u32| {
            let (turn, _) = turned(surface, angles, half_edge);
            let more = more.get(&half_edge).copied().unwrap_or(0);
            (turn as i8 + more).rem_euclid(4) as u8
        };
        let mut is_cut = comb(surface, &mut angles, turned);
        let mut turns = vec![0; is_cut.len()];
        for half_edge in 0..surface.half_edge_count() {
            let other = surface.across[half_edge as usize];
            if other != NONE && half_edge < other {
                let turn = turned(&angles, half_edge);
                turns[half_edge as usize] = turn;
                turns[other as usize] = (4 - turn) % 4;
            }
        }
        prune(surface, &mut is_cut, &index);
        Self {
            angles,
            turns,
            is_cut,
            index,
        }
    }

    /// The axis of a triangle's frame, 0 or 1, that is nearest to a half-edge of it.
    pub fn axis_along(&self, surface: &Surface, half_edge: u32) -> usize {
        let turned = surface.angle(half_edge) - self.angles[half_edge as usize / 3];
        (turned / FRAC_PI_2).round().rem_euclid(2.0) as usize
    }

    /// Whether a map can't be smooth at a vertex.
    pub fn is_irregular(&self, vertex: u32) -> bool {
        self.index[vertex as usize] != 0
    }
}

/// How the frame beside a half-edge is turned against the one here: in quarters, and the angle left over.
pub(super) fn turned(surface: &Surface, angles: &[f64], half_edge: u32) -> (u8, f64) {
    let other = surface.across[half_edge as usize];
    let here = angles[half_edge as usize / 3];
    let brought = here - surface.angle(half_edge) + surface.angle(other) + PI;
    let by = angles[other as usize / 3] - brought;
    let quarters = (by / FRAC_PI_2).round();
    (
        (quarters as i64).rem_euclid(4) as u8,
        by - quarters * FRAC_PI_2,
    )
}

/// How many quarter turns a field makes round each vertex that is not on a rim.
pub(super) fn indices(surface: &Surface, angles: &[f64]) -> Vec<i32> {
    let index = |v: u32| {
        if surface.is_on_rim(v) {
            return 0;
        }
        let turns = surface
            .around(v)
            .map(|half_edge| turned(surface, angles, previous(half_edge)).1);
        ((curvature(surface, v) + turns.sum::<f64>()) / FRAC_PI_2).round() as i32
    };
    (0..surface.positions.len() as u32).map(index).collect()
}

/// What the angles at a vertex lack of a full turn; on a rim, of half a turn.
pub(super) fn curvature(surface: &Surface, v: u32) -> f64 {
    let at = |v: u32| surface.positions[v as usize];
    let angle = |half_edge: u32| {
        let ends = [surface.to(half_edge), surface.from(previous(half_edge))];
        corner_angle(at(v), ends.map(at))
    };
    let full = if surface.is_on_rim(v) { PI } else { TAU };
    full - surface.around(v).map(angle).sum::<f64>()
}

/// Turns frames by quarters so that they agree along a tree of triangles; by half-edge, whether it is not
/// crossed by the tree.
fn comb(surface: &Surface, angles: &mut [f64], turned: impl Fn(&[f64], u32) -> u8) -> Vec<bool> {
    let mut is_cut: Vec<bool> = surface.across.iter().map(|&other| other != NONE).collect();
    let mut reached = vec![false; angles.len()];
    reached[0] = true;
    let mut queue = VecDeque::from([0u32]);
    while let Some(t) = queue.pop_front() {
        for half_edge in 3 * t..3 * t + 3 {
            let other = surface.across[half_edge as usize];
            if other == NONE || reached[other as usize / 3] {
                continue;
            }
            let turn = turned(angles, half_edge);
            angles[other as usize / 3] -= f64::from(turn) * FRAC_PI_2;
            reached[other as usize / 3] = true;
            is_cut[half_edge as usize] = false;
            is_cut[other as usize] = false;
            queue.push_back(other / 3);
        }
    }
    is_cut
}

/// Closes the cut where it ends at a regular vertex, again and again.
fn prune(surface: &Surface, is_cut: &mut [bool], index: &[i32]) {
    let mut ends = vec![0u32; surface.positions.len()];
    for half_edge in 0..surface.half_edge_count() {
        if is_cut[half_edge as usize] {
            ends[surface.from(half_edge) as usize] += 1;
        }
    }
    let is_loose = |v: u32, ends: &[u32]| {
        ends[v as usize] == 1 && index[v as usize] == 0 && !surface.is_on_rim(v)
    };
    let all = 0..surface.positions.len() as u32;
    let mut loose: Vec<u32> = all.filter(|&v| is_loose(v, &ends)).collect();
    while let Some(v) = loose.pop() {
        let Some(half_edge) = surface.around(v).find(|&h| is_cut[h as usize]) else {
            continue;
        };
        let other = surface.across[half_edge as usize];
        is_cut[half_edge as usize] = false;
        is_cut[other as usize] = false;
        for end in [v, surface.to(half_edge)] {
            ends[end as usize] -= 1;
        }
        let end = surface.to(half_edge);
        if is_loose(end, &ends) {
            loose.push(end);
        }
    }
    debug_assert!(is_cut.iter().enumerate().all(|(h, &cut)| {
        !cut || is_cut[surface.across[h] as usize] && next(h as u32) != h as u32
    }));
}
