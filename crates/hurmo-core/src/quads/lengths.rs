//! Lengths of sides that differ from place to place: shorter where they must be, and growing gently from there.

use super::even::FINER;
use super::surface::{NONE, Surface};
use std::collections::BinaryHeap;

/// By how much sides are shortened round a fault.
const CLOSER: f64 = 0.5;
/// How fast sides of quads may grow along the surface.
const GROWTH: f64 = 0.4;
/// How far round a fault sides are shortened, in sides of quads.
const REACH: f64 = 2.0;

/// How long sides are to be.
pub(super) struct Lengths {
    /// In model units, and the longest where they differ.
    pub edge: f64,
    /// Whether they differ from place to place, as sides of the even triangles do.
    pub by_triangle: bool,
}

impl Lengths {
    /// By triangle of a piece of the surface, none longer than `longest`.
    pub fn on(&self, surface: &Surface, longest: f64) -> Vec<f64> {
        let own = |t: u32| {
            let sides = (3 * t..3 * t + 3).map(|h| surface.along(h).length());
            (sides.sum::<f64>() / 3.0 / FINER).min(longest)
        };
        let triangles = 0..surface.triangles.len() as u32;
        match self.by_triangle {
            true => triangles.map(own).collect(),
            false => vec![longest; surface.triangles.len()],
        }
    }
}

/// Lengths with sides shorter round triangles.
pub(super) fn closer(surface: &Surface, lengths: &[f64], faulty: &[u32]) -> Vec<f64> {
    let begin = faulty.iter().map(|&t| {
        let length = lengths[t as usize];
        Nearest {
            off: -REACH * length,
            length: length * CLOSER,
            triangle: t,
        }
    });
    shortened(surface, lengths, begin.collect())
}

/// Lengths with sides shorter at some triangles, and so far away that they grow gently.
pub(super) fn shortened(surface: &Surface, lengths: &[f64], begin: Vec<Nearest>) -> Vec<f64> {
    let middle = |t: u32| {
        let corners = surface.triangles[t as usize].map(|v| surface.positions[v as usize]);
        corners.iter().sum::<glam::DVec3>() / 3.0
    };
    // What is within reach, by the shortest ways over triangles.
    let mut queue = BinaryHeap::from(begin);
    let mut wanted = lengths.to_vec();
    while let Some(Nearest {
        off,
        length,
        triangle,
    }) = queue.pop()
    {
        let own = length + GROWTH * off.max(0.0);
        if own >= wanted[triangle as usize] {
            continue;
        }
        wanted[triangle as usize] = own;
        for half_edge in 3 * triangle..3 * triangle + 3 {
            let other = surface.across[half_edge as usize];
            if other != NONE {
                let way = middle(triangle).distance(middle(other / 3));
                queue.push(Nearest {
                    off: off + way,
                    length,
                    triangle: other / 3,
                });
            }
        }
    }
    wanted
}

/// A triangle to which a shorter length spreads; the greatest is the one that gets the shortest.
pub(super) struct Nearest {
    /// The distance from where sides are this short; negative within reach of a fault.
    pub off: f64,
    pub length: f64,
    pub triangle: u32,
}

impl Nearest {
    fn own(&self) -> f64 {
        self.length + GROWTH * self.off
    }
}

impl PartialEq for Nearest {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other).is_eq()
    }
}

impl Eq for Nearest {}

impl PartialOrd for Nearest {
    fn partial_cmp(&self, other: &Self) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Nearest {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        let order = other.own().total_cmp(&self.own());
        order.then(other.triangle.cmp(&self.triangle))
    }
}
