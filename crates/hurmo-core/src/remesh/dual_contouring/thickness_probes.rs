//! Walls that are too thin and gaps that are to be closed: how far it is across them, straight from
//! places all over the surface.
//!
//! From each place a ray goes along the face's normal, inward through a wall or outward over a gap,
//! to the face opposite. What is found becomes a post: across a thin wall one as long as the wall
//! should be thick, across a gap one that bridges it.
//! Cost: a short ray for every place, two to a cell's length each way, and winding numbers where
//! it meets something.

use super::added::Capsule;
use super::inside_test::{INSIDE, InsideTest};
use crate::parallel::{listed, listed_in_runs, mapped_of};
use crate::spatial::{Crossing, crossings};
use glam::{DVec3, IVec3};
use rayon::prelude::*;

/// Faces on both sides of a gap look at each other: cosine between their normals at most.
const OPPOSED: f64 = -0.5;

/// A place on the surface.
#[derive(Clone, Copy)]
struct Spot {
    at: DVec3,
    /// The face's normal, and a step along it that leads just off the face.
    normal: DVec3,
    off: DVec3,
    triangle: usize,
}

/// The way across a wall or a gap.
#[derive(Clone, Copy, Debug)]
pub struct Probe {
    /// Half-way across.
    pub middle: DVec3,
    /// How far it is across.
    pub across: f64,
    capsule: Capsule,
}

impl Probe {
    /// A post that stands in a wall, so long.
    pub fn thickened(&self, to: f64) -> Capsule {
        Capsule {
            half: to / 2.0,
            ..self.capsule
        }
    }

    /// A post that bridges a gap, and goes so deep into both sides.
    pub fn bridged(&self, deep: f64) -> Capsule {
        Capsule {
            half: self.across / 2.0 + deep,
            ..self.capsule
        }
    }
}

impl InsideTest<'_> {
    /// Walls thinner than `least`, looked at from places about so far apart. A sheet that closes in
    /// nothing is a wall of no thickness.
    pub fn thin_walls(&self, least: f64, spacing: f64) -> Vec<Probe> {
        let closed = self.is_closed();
        self.capped.make_tree();
        self.probes(spacing, |spot, found| {
            let from = spot.at - spot.off;
            crossings(self.hierarchy(), from, -spot.normal, least, found);
            if found.is_empty() && closed {
                return None;
            }
            let sides = self.capped.by_tree().both_sides(spot.at, spot.off);
            if sides.front > INSIDE {
                return None;
            }
            if sides.back > INSIDE {
                let mut winds = sides.back;
                let exit = found.iter().find(|crossing| {
                    winds += rise(crossing);
                    winds <= INSIDE
                });
                if let Some(exit) = exit {
                    return Some(exit.at);
                }
            }
            let deep = spot.at - spot.normal * (least / 2.0);
            (!closed && self.capped.by_tree().at(deep) <= INSIDE).then_some(0.0)
        })
        .into_iter()
        .map(|(spot, across)| self.probe(&spot, -spot.normal, across))
        .collect()
    }

    /// Walls of no thickness everywhere, for sheets that close in nothing, looked at from places about
    /// so far apart.
    pub fn sheets(&self, spacing: f64) -> Vec<Probe> {
        let spots = self.spots(spacing);
        mapped_of(&spots, 4096, |spot| self.probe(spot, -spot.normal, 0.0))
    }

    /// Gaps no wider than `widest`, between faces that look at each other.
    pub fn gaps(&self, widest: f64, spacing: f64) -> Vec<Probe> {
        self.capped.make_tree();
        self.probes(spacing, |spot, found| {
            let from = spot.at + spot.off;
            crossings(self.hierarchy(), from, spot.normal, widest, found);
            let entry = found.iter().find(|crossing| crossing.at > 0.0)?;
            let [a, b, c] = self.hierarchy().corners(entry.triangle);
            let normal = (b - a).cross(c - a).normalize_or_zero();
            if entry.outward || normal.dot(spot.normal) > OPPOSED {
                return None;
            }
            let sides = self.capped.by_tree().both_sides(spot.at, spot.off);
            (sides.front <= INSIDE && sides.back > INSIDE).then_some(entry.at)
        })
        .into_iter()
        .map(|(spot, across)| self.probe(&spot, spot.normal, across))
        .collect()
    }

    fn probe(&self, spot: &Spot, way: DVec3, across: f64) -> Probe {
        let middle = spot.at + way * (across / 2.0);
        Probe {
            middle,
            across,
            capsule: Capsule {
                middle,
                axis: spot.normal,
                half: across / 2.0,
                face: self.hierarchy().face(spot.triangle),
            },
        }
    }

    /// What is found across, from every spot from which something is.
    fn probes(
        &self,
        spacing: f64,
        across: impl Fn(&Spot, &mut Vec<Crossing>) -> Option<f64> + Sync,
    ) -> Vec<(Spot, f64)> {
        let spots = self.spots(spacing);
        listed_in_runs(spots.len(), 256, |run, list| {
            let mut found = Vec::new();
            let spots = spots[run].iter();
            list.extend(spots.filter_map(|spot| Some((*spot, across(spot, &mut found)?))));
        })
    }

    /// Places all over the surface, in a small cube no two that look the same way.
    fn spots(&self, spacing: f64) -> Vec<Spot> {
        let in_cube = |spot: &Spot| {
            let cube = (spot.at / spacing).floor().as_ivec3();
            (cube.to_array(), looks(spot.normal))
        };
        let mut spots: Vec<(([i32; 3], u8), Spot)> =
            listed(self.hierarchy().len(), 256, |t, list| {
                let spots = self.spots_on(t, spacing);
                list.extend(spots.map(|spot| (in_cube(&spot), spot)));
            });
        spots.par_sort_by_key(|spot| spot.0);
        spots.dedup_by_key(|spot| spot.0);
        spots.into_iter().map(|spot| spot.1).collect()
    }

    fn spots_on(&self, triangle: usize, spacing: f64) -> impl Iterator<Item = Spot> + use<> {
        let corners = self.hierarchy().corners(triangle);
        let long = |i: usize| corners[i].distance_squared(corners[(i + 1) % 3]);
        let first = (0..3)
            .max_by(|&i, &j| long(i).total_cmp(&long(j)))
            .unwrap_or(0);
        let [a, b, c] = [0, 1, 2].map(|i| corners[(first + i) % 3]);
        let across = (b - a).cross(c - a);
        let length = long(first).sqrt();
        let steps = |length: f64| (length / spacing).ceil().max(1.0) as u32;
        let along = if across.length() > 0.0 {
            steps(length)
        } else {
            0
        };
        let up = steps(across.length() / length);
        let normal = across.normalize_or_zero();
        let off = self.hierarchy().middle_and_offset(triangle).1;
        (0..along).flat_map(move |i| {
            (0..up).map(move |j| {
                let share = |i: u32, of: u32| (f64::from(i) + 0.5) / f64::from(of);
                Spot {
                    at: a.lerp(b, share(i, along)).lerp(c, share(j, up)),
                    normal,
                    off,
                    triangle,
                }
            })
        })
    }
}

/// By how much the winding number rises where a ray passes.
fn rise(crossing: &Crossing) -> f64 {
    if crossing.outward { -1.0 } else { 1.0 }
}

/// Which of 26 ways a normal looks.
fn looks(normal: DVec3) -> u8 {
    let [x, y, z] = (normal * 1.5)
        .round()
        .as_ivec3()
        .clamp(IVec3::NEG_ONE, IVec3::ONE)
        .to_array();
    (9 * (x + 1) + 3 * (y + 1) + z + 1) as u8
}
