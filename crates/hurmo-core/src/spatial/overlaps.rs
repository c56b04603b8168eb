//! Which boxes overlap which, among boxes that lie along a space-filling curve.
//!
//! ```text
//! boxes ─▶ fours ─▶ fours of fours ─▶ … ─▶ one four     each with the boxes of its four
//! ```
//!
//! One box is held against four at a time. Fours that overlap are gone into together, from the top down; those of a middle
//! level are shared out among threads. Cost: near-linear in overlapping pairs; 32 bytes a box.
//!
//! Where boxes say little (long thin triangles side by side, shells in shells, thousands of faces
//! round one vertex), [`Known`] says more: fours of one group are passed over, and so are two that a
//! plane separates.

use super::boxes::{Bounds32, NOWHERE};
use super::four_boxes::Four;
use crate::parallel::{in_runs, mapped};
use std::ops::Range;
use std::sync::atomic::{AtomicUsize, Ordering::Relaxed};

/// The group of items that are of none.
pub const UNGROUPED: u32 = u32::MAX;

/// What is known of items beside their boxes.
pub trait Known: Sync {
    /// The group of each item; no two of one need be visited together. Empty if there are none.
    fn groups(&self) -> &[u32] {
        &[]
    }

    /// Whether surely no item of one run need be visited with one of another.
    fn are_apart(&self, _one: Range<usize>, _other: Range<usize>) -> bool {
        false
    }
}

impl Known for () {}

/// Calls `visit` with every two boxes that overlap, each pair once, the lower first, on several
/// threads.
pub fn overlapping_pairs(
    count: usize,
    bounds: impl Fn(usize) -> Bounds32 + Sync,
    visit: impl Fn(usize, usize) + Sync,
) {
    overlapping_pairs_but(count, bounds, &(), visit);
}

/// The same, without some of the pairs that need not be visited by what is known.
pub fn overlapping_pairs_but(
    count: usize,
    bounds: impl Fn(usize) -> Bounds32 + Sync,
    known: &impl Known,
    visit: impl Fn(usize, usize) + Sync,
) {
    if count < 2 {
        return;
    }
    let mut levels = vec![fours(count, &bounds)];
    while let Some(below) = levels.last()
        && below.len() > 1
    {
        let next = fours(below.len(), &|four| below[four].bounds());
        levels.push(next);
    }
    let mut groups = Vec::new();
    while groups.len() < levels.len() && !known.groups().is_empty() {
        let next = common(groups.last().map_or(known.groups(), Vec::as_slice));
        groups.push(next);
    }
    let search = Search {
        count,
        trials: levels.iter().map(|_| Trials::default()).collect(),
        levels,
        groups,
        known,
        visit,
    };
    search.run();
}

/// Boxes by fours; the last four is filled up with empty ones.
fn fours(count: usize, bounds: &(dyn Fn(usize) -> Bounds32 + Sync)) -> Vec<Four> {
    mapped(count.div_ceil(4), 1024, |four| {
        Four::of([0, 1, 2, 3].map(|i| match 4 * four + i {
            item if item < count => bounds(item),
            _ => NOWHERE,
        }))
    })
}

/// The group that all items of each four are of.
fn common(groups: &[u32]) -> Vec<u32> {
    let of_four = |four: &[u32]| match four.iter().all(|&group| group == four[0]) {
        true => four[0],
        false => UNGROUPED,
    };
    groups.chunks(4).map(of_four).collect()
}

struct Search<'k, K, V> {
    count: usize,
    /// The lowest first; a four's own boxes are those of fours `4n` to `4n + 3` of the level
    /// below.
    levels: Vec<Vec<Four>>,
    /// For each four of each level, its items' common group; no levels if there are no groups.
    groups: Vec<Vec<u32>>,
    known: &'k K,
    /// By level, what searches for a plane have come to.
    trials: Vec<Trials>,
    visit: V,
}

/// How often fours were asked for a plane between them. Where hardly any is found, as where surfaces run
/// through each other everywhere, most searches are left out; the pairs are the same.
#[derive(Default)]
struct Trials {
    asked: AtomicUsize,
    made: AtomicUsize,
    apart: AtomicUsize,
}

impl Trials {
    /// This many searches are made first.
    const FIRST: usize = 256;
    /// One search in this many must find a plane.
    const RARE: usize = 4;
    /// Where fewer do, one in this many is made.
    const SAMPLED: usize = 16;

    /// Whether a search finds a plane, where it is made.
    fn holds(&self, is_apart: impl FnOnce() -> bool) -> bool {
        let asked = self.asked.fetch_add(1, Relaxed);
        let worth = Self::FIRST + Self::RARE * self.apart.load(Relaxed);
        if self.made.load(Relaxed) > worth && !asked.is_multiple_of(Self::SAMPLED) {
            return false;
        }
        self.made.fetch_add(1, Relaxed);
        let is_apart = is_apart();
        self.apart.fetch_add(usize::from(is_apart), Relaxed);
        is_apart
    }
}

impl<K: Known, V: Fn(usize, usize) + Sync> Search<'_, K, V> {
    /// About how many fours there are to be on the level from which threads share the work.
    const SHARED: usize = 256;
    /// This many of the 16 pairs of boxes overlap only where boxes say little; side by side on a
    /// surface, fewer do.
    const MANY: usize = 10;
    /// Fours of this many items are worth the search for a plane. In smaller ones pairs cost less.
    const HELD_APART: std::ops::RangeInclusive<usize> = 64..=4096;

    fn run(&self) {
        let shared = self
            .levels
            .iter()
            .rposition(|level| level.len() >= Self::SHARED)
            .unwrap_or(0);
        let top = self.levels.len() - 1;
        let mut tasks = vec![(0, 0)];
        for level in (shared + 1..=top).rev() {
            let mut below = Vec::new();
            for &(a, b) in &tasks {
                below.extend(self.pairs_below(level, a, b));
                if a == b {
                    below.extend(self.children(level, a).map(|child| (child, child)));
                }
            }
            tasks = below;
        }
        in_runs(tasks.len(), 4, &|run| {
            tasks[run]
                .iter()
                .for_each(|&(a, b)| self.search(shared, a, b));
        });
    }

    /// Finds the pairs in a four, or in two, of a level.
    fn search(&self, level: usize, a: usize, b: usize) {
        if level == 0 {
            return self.pairs(0, a, b, &self.visit);
        }
        for (a, b) in self.pairs_below(level, a, b) {
            self.search(level - 1, a, b);
        }
        if a == b {
            self.children(level, a)
                .for_each(|child| self.search(level - 1, child, child));
        }
    }

    /// The pairs of fours in two of a level that are to be gone into.
    fn pairs_below(
        &self,
        level: usize,
        a: usize,
        b: usize,
    ) -> impl Iterator<Item = (usize, usize)> {
        let mut pairs = [(0, 0); 16];
        let mut count = 0;
        self.pairs(level, a, b, |a, b| {
            if !self.are_of_one_group(level - 1, a, b) {
                pairs[count] = (a, b);
                count += 1;
            }
        });
        if a != b && count >= Self::MANY && self.are_apart(level, a, b) {
            count = 0;
        }
        pairs.into_iter().take(count)
    }

    /// Whether what is known sets two fours of a level apart.
    fn are_apart(&self, level: usize, a: usize, b: usize) -> bool {
        let size = 4usize << (2 * level);
        let run = |four: usize| four * size..((four + 1) * size).min(self.count);
        let is_apart = || self.known.are_apart(run(a), run(b));
        Self::HELD_APART.contains(&size) && self.trials[level].holds(is_apart)
    }

    fn are_of_one_group(&self, level: usize, a: usize, b: usize) -> bool {
        let groups = self.groups.get(level);
        groups.is_some_and(|groups| groups[a] == groups[b] && groups[a] != UNGROUPED)
    }

    /// The fours in one of a level, those of one group left out.
    fn children(&self, level: usize, four: usize) -> impl Iterator<Item = usize> {
        let groups = self.groups.get(level - 1);
        let is_grouped = move |child: &usize| groups.is_some_and(|g| g[*child] != UNGROUPED);
        let all = 4 * four..(4 * four + 4).min(self.levels[level - 1].len());
        all.filter(move |child| !is_grouped(child))
    }

    /// The overlapping pairs, of two different boxes, between two fours or in one.
    #[inline]
    fn pairs(&self, level: usize, a: usize, b: usize, mut found: impl FnMut(usize, usize)) {
        let (four, other) = (&self.levels[level][a], &self.levels[level][b]);
        for i in 0..4 {
            let mut mask = other.overlapping(four.get(i));
            if a == b {
                mask &= 0b1110 << i;
            }
            while mask != 0 {
                found(4 * a + i, 4 * b + mask.trailing_zeros() as usize);
                mask &= mask - 1;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::boxes::rounded_outward;
    use super::*;
    use glam::DVec3;
    use proptest::prelude::*;
    use std::sync::Mutex;

    fn found(boxes: &[Bounds32]) -> Vec<(usize, usize)> {
        let seen = Mutex::new(Vec::new());
        overlapping_pairs(
            boxes.len(),
            |i| boxes[i],
            |a, b| seen.lock().unwrap().push((a, b)),
        );
        let mut seen = seen.into_inner().unwrap();
        seen.sort_unstable();
        seen
    }

    fn expected(boxes: &[Bounds32]) -> Vec<(usize, usize)> {
        let mut pairs = Vec::new();
        for a in 0..boxes.len() {
            for b in a + 1..boxes.len() {
                let (p, q) = (boxes[a], boxes[b]);
                if p[0].cmple(q[1]).all() && q[0].cmple(p[1]).all() {
                    pairs.push((a, b));
                }
            }
        }
        pairs
    }

    proptest! {
        #[test]
        fn every_overlapping_pair_is_visited_once(
            boxes in prop::collection::vec(
                (prop::array::uniform3(-9..9i8), prop::array::uniform3(0..5i8)),
                0..90,
            ),
        ) {
            let boxes: Vec<Bounds32> = boxes
                .iter()
                .map(|(low, size)| {
                    let low = DVec3::from_array(low.map(f64::from));
                    rounded_outward([low, low + DVec3::from_array(size.map(f64::from))])
                })
                .collect();
            prop_assert_eq!(found(&boxes), expected(&boxes));
        }
    }

    #[test]
    fn shared_work_is_all_done() {
        // A row of boxes, each overlapping the next two: enough for threads to share.
        let at = |i: usize| DVec3::new(i as f64, 0.0, 0.0);
        let boxes: Vec<Bounds32> = (0..9000)
            .map(|i| rounded_outward([at(i), at(i) + DVec3::new(2.0, 1.0, 1.0)]))
            .collect();
        let found = found(&boxes);
        assert_eq!(found.len(), 8999 + 8998);
        assert!(found.iter().all(|(a, b)| b - a <= 2));
        assert!(found.windows(2).all(|pair| pair[0] != pair[1]));
    }
}
