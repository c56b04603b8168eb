//! On which side of a half caps wind round corners of the grid: decided for whole blocks of them, where
//! that varies too little within the block to matter.
//!
//! The winding number of a triangle changes by no more than its area over 2π d³ for each length, d away:
//! it is the potential of a layer of dipoles (Jacobson, Kavan & Sorkine-Hornung 2013).

use super::grid::{Key, parts};
use super::inside_test::InsideTest;
use crate::parallel::chosen;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// Blocks are 2 to this many corners along: the large ones are tried first.
const SIZES: [u32; 2] = [3, 1];
/// What winding numbers may be wrong by.
const ERROR: f64 = 0.03;

/// For blocks of corners, how often caps wind round all of them; for decisions only.
pub struct Blocks {
    steady: [FxHashMap<[u32; 3], f64>; SIZES.len()],
}

impl Blocks {
    /// Of all that some corners lie in.
    pub fn of(inside_test: &InsideTest<'_>, corners: &[Key]) -> Self {
        let mut steady = [const { None }; SIZES.len()].map(|_: Option<()>| FxHashMap::default());
        if inside_test.capped.caps().is_none_or(|caps| caps.is_empty()) {
            return Self { steady };
        }
        let mut left: Vec<Key> = corners.to_vec();
        for (size, found) in SIZES.into_iter().zip(&mut steady) {
            let mut first: FxHashMap<[u32; 3], Key> = FxHashMap::default();
            for &corner in &left {
                first.entry(block(corner, size)).or_insert(corner);
            }
            let blocks: Vec<([u32; 3], Key)> = first.into_iter().collect();
            let states = chosen(blocks.len(), 16, |i| {
                let (block, corner) = blocks[i];
                let [low, middle] = middle(inside_test, corner, size);
                let winds = inside_test.capped.caps_wind(middle);
                let off = inside_test
                    .capped
                    .caps_vary(middle, low.distance(middle), 0.5)
                    + ERROR;
                let side = |winds: f64| (winds + 0.5).floor();
                (side(winds - off) == side(winds + off)).then_some((block, winds))
            });
            *found = states.into_iter().collect();
            left.retain(|&corner| !found.contains_key(&block(corner, size)));
        }
        Self { steady }
    }

    /// On the side of a half on which caps wind round a corner; `None` if that was not decided.
    pub fn caps_wind(&self, corner: Key) -> Option<f64> {
        let mut all = SIZES.into_iter().zip(&self.steady);
        all.find_map(|(size, steady)| steady.get(&block(corner, size)).copied())
    }
}

fn block(corner: Key, size: u32) -> [u32; 3] {
    parts(corner).map(|part| part >> size)
}

/// The low end of the block of a corner, and the middle of its corners.
fn middle(inside_test: &InsideTest<'_>, corner: Key, size: u32) -> [DVec3; 2] {
    let low = parts(corner).map(|part| part >> size << size);
    let high = low.map(|part| part + (1 << size) - 1);
    let [low, high] = [low, high].map(|parts| inside_test.grid.corner(super::grid::key(parts)));
    [low, (low + high) / 2.0]
}
