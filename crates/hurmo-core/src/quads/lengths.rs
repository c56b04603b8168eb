//! Lengths of sides that differ from place to place: shorter where they must be, and growing gently from there.

use super::even::FINER;
use super::extraction::Merged;
use super::frames::Frames;
use super::grid_map::GridMap;
use super::surface::{NONE, Surface};
use std::collections::BinaryHeap;

/// By how much sides are shortened round a fault.
const CLOSER: f64 = 0.5;
/// How fast sides of quads may grow along the surface.
const GROWTH: f64 = 0.4;
/// How far round a fault sides are shortened, in sides of quads.
const REACH: f64 = 2.0;

/// An axis along which a map runs this many times faster than along the other one needs no closer lines.
const FASTER: f64 = 2.0;

/// No strip between feature lines is taken for narrower than this, in sides of quads.
const NARROWEST: f64 = 1e-6;

/// The lengths of sides along the two axes of a triangle's frame.
pub(super) type Sides = [f64; 2];

/// How long sides are to be.
pub(super) struct Lengths {
    /// In model units, and the longest where they differ.
    pub edge: f64,
    /// Whether they differ from place to place, as sides of the even triangles do.
    pub by_triangle: bool,
}

impl Lengths {
    /// By triangle of a piece of the surface, none longer than `longest`.
    pub fn on(&self, surface: &Surface, longest: f64) -> Vec<Sides> {
        let own = |t: u32| {
            let sides = (3 * t..3 * t + 3).map(|h| surface.along(h).length());
            [(sides.sum::<f64>() / 3.0 / FINER).min(longest); 2]
        };
        let triangles = 0..surface.triangles.len() as u32;
        match self.by_triangle {
            true => triangles.map(own).collect(),
            false => vec![[longest; 2]; surface.triangles.len()],
        }
    }
}

/// Lengths with sides shorter round triangles: where a map runs far more slowly along one axis than along the other, as
/// between two lines that lie close, along that one only.
pub(super) fn closer(
    surface: &Surface,
    frames: &Frames,
    lengths: &[Sides],
    faulty: &[u32],
    map: Option<&GridMap>,
) -> Vec<Sides> {
    let speeds = |t: u32| {
        let gradients = map.and_then(|map| map.gradients(surface, t));
        let [u, v] = gradients.map_or([1.0; 2], |both| both.map(|gradient| gradient.length()));
        let [along, across] = lengths[t as usize];
        [u * along, v * across]
    };
    let begin = faulty.iter().flat_map(|&t| {
        let speeds = speeds(t);
        let axes = (0..2).filter(move |&axis| speeds[axis] <= FASTER * speeds[1 - axis]);
        axes.map(move |axis| {
            let length = lengths[t as usize][axis];
            Nearest {
                off: -REACH * length,
                length: length * CLOSER,
                triangle: t,
                axis,
                is_between_lines: false,
            }
        })
    });
    shortened(surface, frames, lengths, begin.collect())
}

/// Lengths with sides that fit between feature lines which a map with `scale` times these lengths lays on each other.
pub(super) fn between_lines(
    surface: &Surface,
    frames: &Frames,
    lengths: &[Sides],
    merged: &[Merged],
    scale: f64,
) -> Vec<Sides> {
    let begin = merged.iter().map(|place| Nearest {
        off: 0.0,
        length: (place.apart / scale).max(lengths[place.triangle as usize][place.axis] * NARROWEST),
        triangle: place.triangle,
        axis: place.axis,
        is_between_lines: true,
    });
    shortened(surface, frames, lengths, begin.collect())
}

/// Lengths with sides shorter at some triangles, and so far away that they grow gently.
pub(super) fn shortened(
    surface: &Surface,
    frames: &Frames,
    lengths: &[Sides],
    begin: Vec<Nearest>,
) -> Vec<Sides> {
    let middle = |t: u32| {
        let corners = surface.triangles[t as usize].map(|v| surface.positions[v as usize]);
        corners.iter().sum::<glam::DVec3>() / 3.0
    };
    // What is within reach, by the shortest ways over triangles.
    let mut queue = BinaryHeap::from(begin);
    let mut wanted = lengths.to_vec();
    while let Some(nearest) = queue.pop() {
        let Nearest { off, length, .. } = nearest;
        let own = length + GROWTH * off.max(0.0);
        let triangle = nearest.triangle;
        let known = &mut wanted[triangle as usize][nearest.axis];
        if own >= *known {
            continue;
        }
        *known = own;
        for half_edge in 3 * triangle..3 * triangle + 3 {
            let other = surface.across[half_edge as usize];
            let is_end = nearest.is_between_lines
                && surface.is_feature[half_edge as usize]
                && frames.axis_along(surface, half_edge) != nearest.axis;
            if other != NONE && !is_end {
                let way = middle(triangle).distance(middle(other / 3));
                let is_turned = frames.turns[half_edge as usize] % 2 == 1;
                queue.push(Nearest {
                    off: off + way,
                    triangle: other / 3,
                    axis: if is_turned {
                        1 - nearest.axis
                    } else {
                        nearest.axis
                    },
                    ..nearest
                });
            }
        }
    }
    wanted
}

/// A triangle to which a shorter length spreads; the greatest is the one that gets the shortest.
#[derive(Clone, Copy)]
pub(super) struct Nearest {
    /// The distance from where sides are this short; negative within reach of a fault.
    pub off: f64,
    pub length: f64,
    pub triangle: u32,
    /// Along which axis of the triangle's frame.
    pub axis: usize,
    /// Whether it is no more beyond feature lines across the axis.
    pub is_between_lines: bool,
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
        order.then((other.triangle, other.axis).cmp(&(self.triangle, self.axis)))
    }
}
