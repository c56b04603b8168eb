//! Which boxes overlap which, among boxes that lie along a space-filling curve.
//!
//! ```text
//! boxes ─▶ fours ─▶ fours of fours ─▶ … ─▶ one four     each with the boxes of its four
//! ```
//!
//! One box is held against four at a time. Fours that overlap are gone into together, from the top down; those of a middle
//! level are shared out among threads. Cost: near-linear in overlapping pairs; 32 bytes a box.

use super::boxes::{Bounds32, NOWHERE};
use super::four::Four;
use rayon::prelude::*;

/// Calls `visit` with every two boxes that overlap, each pair once, the lower first, on several
/// threads.
pub fn overlapping_pairs(
    count: usize,
    bounds: impl Fn(usize) -> Bounds32 + Sync,
    visit: impl Fn(usize, usize) + Sync,
) {
    if count < 2 {
        return;
    }
    let mut levels = vec![fours(count, &bounds)];
    while let Some(below) = levels.last()
        && below.len() > 1
    {
        let next = fours(below.len(), |four| below[four].bounds());
        levels.push(next);
    }
    let search = Search { levels, visit };
    search.run();
}

/// Boxes by fours; the last four is filled up with empty ones.
fn fours(count: usize, bounds: impl Fn(usize) -> Bounds32 + Sync) -> Vec<Four> {
    (0..count.div_ceil(4))
        .into_par_iter()
        .with_min_len(1024)
        .map(|four| {
            Four::of([0, 1, 2, 3].map(|i| match 4 * four + i {
                item if item < count => bounds(item),
                _ => NOWHERE,
            }))
        })
        .collect()
}

struct Search<V> {
    /// The lowest first; a four's own boxes are those of fours `4n` to `4n + 3` of the level
    /// below.
    levels: Vec<Vec<Four>>,
    visit: V,
}

impl<V: Fn(usize, usize) + Sync> Search<V> {
    /// About how many fours there are to be on the level from which threads share the work.
    const SHARED: usize = 256;

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
                self.pairs(level, a, b, |a, b| below.push((a, b)));
                if a == b {
                    let children = 4 * a..(4 * a + 4).min(self.levels[level - 1].len());
                    below.extend(children.map(|child| (child, child)));
                }
            }
            tasks = below;
        }
        tasks
            .par_iter()
            .with_max_len(4)
            .for_each(|&(a, b)| self.search(shared, a, b));
    }

    /// Finds the pairs in a four, or in two, of a level.
    fn search(&self, level: usize, a: usize, b: usize) {
        if level == 0 {
            return self.pairs(0, a, b, &self.visit);
        }
        self.pairs(level, a, b, |a, b| self.search(level - 1, a, b));
        if a == b {
            let children = 4 * a..(4 * a + 4).min(self.levels[level - 1].len());
            children.for_each(|child| self.search(level - 1, child, child));
        }
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
