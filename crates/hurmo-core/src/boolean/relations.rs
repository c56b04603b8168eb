//! What an arrangement shows about its solids besides the boundary that is asked for: what each of them
//! fills alone and together with others, which meet, and which lie in others.

use super::Filled;
use super::fragments::All;
use super::patches::Patches;
use super::windings::{Sides, Windings};
use crate::parallel::mapped;
use crate::topology::UnionFind;
use glam::DVec3;
use rustc_hash::FxHashMap;
use std::collections::{BTreeMap, BTreeSet};

/// What is known of solids once they are cut where they meet, before any rounding.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Relations {
    /// How many solids there are.
    pub solids: usize,
    /// Every set of solids in which some place lies, with the volume of the places that lie in these and
    /// in no other: together they are all that is filled. In order of the sets.
    pub cells: Vec<Cell>,
    /// Pairs of solids whose surfaces have an edge or more in common, the lower first.
    pub meeting: BTreeSet<[usize; 2]>,
    /// Pairs of solids, the first of which lies in the second without meeting it.
    pub within: BTreeSet<[usize; 2]>,
    /// Lines along which solids meet: how many hang together each, and how long they all are.
    pub lines: usize,
    /// In the model's unit of length.
    pub line_length: f64,
}

/// The places that lie in the same solids.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Cell {
    /// Which solids, rising.
    pub of: Vec<usize>,
    /// In cubic units.
    pub volume: f64,
}

impl Relations {
    /// What a solid fills by itself, in cubic units.
    pub fn volume(&self, solid: usize) -> f64 {
        self.volume_where(|of| of.contains(&solid))
    }

    /// What each solid fills by itself, in cubic units.
    pub fn volumes(&self) -> Vec<f64> {
        let mut volumes = vec![0.0; self.solids];
        for cell in &self.cells {
            for &solid in &cell.of {
                volumes[solid] += cell.volume;
            }
        }
        volumes
    }

    /// What is filled by just such sets of solids, in cubic units.
    pub fn volume_where(&self, counts: impl Fn(&[usize]) -> bool) -> f64 {
        let cells = self.cells.iter().filter(|cell| counts(&cell.of));
        cells.map(|cell| cell.volume).sum()
    }

    pub(super) fn of(
        all: &All<'_, '_>,
        patches: &Patches,
        sides: &[Option<Sides>],
        solids: usize,
        filled: Filled,
        new_points: &[DVec3],
    ) -> Self {
        let position = |point: u32| all.position(point, new_points);
        let middle = middle(all, patches, position);
        let volume = |&fragment: &u32| {
            let [a, b, c] = all.corners(fragment).map(|id| position(id) - middle);
            a.dot(b.cross(c)) / 6.0
        };
        let volumes: Vec<f64> = mapped(patches.len(), 1, |patch| {
            patches.of(patch).iter().map(volume).sum()
        });
        let in_which = |windings: &Windings| -> Vec<usize> {
            let of = windings.iter();
            of.filter(|(_, times)| filled.holds(*times))
                .map(|(solid, _)| solid)
                .collect()
        };
        let mut cells: BTreeMap<Vec<usize>, f64> = BTreeMap::new();
        // By solid, how many patches it has; by pair, how many of the first's lie in the second.
        let mut own: FxHashMap<usize, usize> = FxHashMap::default();
        let mut lies: BTreeMap<[usize; 2], usize> = BTreeMap::new();
        for (patch, sides) in sides.iter().enumerate() {
            let Some(sides) = sides else { continue };
            let (front, back) = (in_which(&sides.front), in_which(&sides.back));
            let both = sides.front.iter().chain(sides.back.iter());
            let mut bounded: Vec<usize> = both.map(|(solid, _)| solid).collect();
            bounded.sort_unstable();
            bounded.dedup();
            bounded.retain(|&solid| sides.front[solid] != sides.back[solid]);
            for solid in bounded {
                *own.entry(solid).or_default() += 1;
                let around = front.iter().filter(|other| back.contains(other));
                for &other in around.filter(|other| **other != solid) {
                    *lies.entry([solid, other]).or_default() += 1;
                }
            }
            if front != back {
                *cells.entry(back).or_default() += volumes[patch];
                *cells.entry(front).or_default() -= volumes[patch];
            }
        }
        let mut meeting = BTreeSet::new();
        for (_, there) in &patches.common {
            for (i, &one) in there.iter().enumerate() {
                let others = there[i + 1..].iter();
                meeting.extend(others.map(|&other| [one as usize, other as usize]));
            }
        }
        let within = lies.into_iter().filter_map(|(pair, lies)| {
            let [one, other] = pair;
            let meets = meeting.contains(&[one.min(other), one.max(other)]);
            (!meets && lies == own[&one]).then_some(pair)
        });
        let (lines, line_length) = lines(patches, position);
        Self {
            solids,
            within: within.collect(),
            cells: cells
                .into_iter()
                .filter(|(of, _)| !of.is_empty())
                .map(|(of, volume)| Cell { of, volume })
                .collect(),
            meeting,
            lines,
            line_length,
        }
    }
}

/// The middle of the bounds of all fragments.
fn middle(all: &All<'_, '_>, patches: &Patches, position: impl Fn(u32) -> DVec3 + Sync) -> DVec3 {
    let nothing = [DVec3::MAX, DVec3::MIN];
    let bounds = mapped(patches.len(), 1, |patch| {
        let corners = patches
            .of(patch)
            .iter()
            .flat_map(|&fragment| all.corners(fragment));
        corners
            .map(&position)
            .fold(nothing, |[low, high], at| [low.min(at), high.max(at)])
    });
    let [low, high] = (bounds.into_iter()).fold(nothing, |[low, high], [other_low, other_high]| {
        [low.min(other_low), high.max(other_high)]
    });
    (low + high) / 2.0
}

/// Lines of common edges, and their length.
fn lines(patches: &Patches, position: impl Fn(u32) -> DVec3) -> (usize, f64) {
    let mut number: FxHashMap<u32, u32> = FxHashMap::default();
    let mut ends = Vec::with_capacity(patches.common.len());
    let mut length = 0.0;
    for (edge, _) in &patches.common {
        let [a, b] = edge.map(&position);
        length += a.distance(b);
        ends.push(edge.map(|point| {
            let next = number.len() as u32;
            *number.entry(point).or_insert(next)
        }));
    }
    let mut together = UnionFind::new(number.len());
    for [a, b] in ends {
        together.join(a, b);
    }
    let lines = (0..number.len() as u32).filter(|&point| together.find(point) == point);
    (lines.count(), length)
}
