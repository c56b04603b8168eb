//! The cells into which lines divide a surface: their pieces in triangles, joined across sides.

use super::lines::{Border, Lines, along};
use crate::quads::surface::{NONE, next};
use crate::topology::UnionFind;
use rustc_hash::FxHashMap;

/// A cell as a triangle sees it: by the whole numbers that its places are nearest to.
pub(super) type Key = (u32, [i32; 2]);

/// The cells of a surface as its triangles see them, joined across sides.
pub(super) struct Cells {
    names: FxHashMap<Key, u32>,
    pub sets: UnionFind,
}

impl Cells {
    pub fn of(&self, key: Key) -> Option<u32> {
        self.names.get(&key).copied()
    }

    /// The triangles on which a cell lies that is no disc, nor a half of one at a rim. Open pieces of triangles
    /// less open stretches of sides plus vertices are one for a disc, none for a half disc with its one stretch
    /// of rim.
    pub fn undivided(&self, lines: &Lines<'_>, sets: &mut UnionFind) -> Vec<u32> {
        let mut sums = vec![[0i32; 2]; self.names.len()];
        for &name in self.names.values() {
            sums[sets.find(name) as usize][0] += 1;
        }
        let mut add = |key: Key, [sum, rim]: [i32; 2]| {
            if let Some(name) = self.of(key) {
                let own = &mut sums[sets.find(name) as usize];
                own[0] += sum;
                own[1] += rim;
            }
        };
        for half_edge in 0..lines.surface.half_edge_count() {
            let other = lines.surface.across[half_edge as usize];
            let (t, from) = (half_edge / 3, lines.place(half_edge));
            if other > half_edge {
                let is_rim = i32::from(other == NONE);
                for place in along(from, lines.on(half_edge)) {
                    add((t, place), [-1, is_rim]);
                }
            }
        }
        for v in 0..lines.surface.positions.len() as u32 {
            let half_edge = lines.surface.first[v as usize];
            let is_rim = i32::from(lines.surface.is_on_rim(v));
            add((half_edge / 3, lines.place(half_edge)), [1, -is_rim]);
        }
        let mut triangles: Vec<u32> = (self.names.iter())
            .filter(|&(_, &name)| !matches!(sums[sets.find(name) as usize], [1, 0] | [0, 1]))
            .map(|(key, _)| key.0)
            .collect();
        triangles.extend(self.short_rims(lines, sets));
        triangles.sort_unstable();
        triangles.dedup();
        triangles
    }

    /// The triangles at rims with fewer cells than three: they would close up.
    fn short_rims(&self, lines: &Lines<'_>, sets: &mut UnionFind) -> Vec<u32> {
        let mut short = Vec::new();
        for rim in lines.surface.rims() {
            let mut cells = Vec::new();
            for &half_edge in &rim {
                let from = lines.place(half_edge);
                let places = along(from, lines.on(half_edge));
                let own = places.filter_map(|place| self.of((half_edge / 3, place)));
                cells.extend(own.map(|own| sets.find(own)));
            }
            cells.sort_unstable();
            cells.dedup();
            if cells.len() < 3 {
                short.extend(rim.iter().map(|half_edge| half_edge / 3));
            }
        }
        short
    }
}

/// Names all cells and joins them across sides.
pub(super) fn joined(lines: &Lines<'_>) -> Option<Cells> {
    let mut names: FxHashMap<Key, u32> = FxHashMap::default();
    let mut pairs = Vec::new();
    let mut name = |key: Key| {
        let next = names.len() as u32;
        *names.entry(key).or_insert(next)
    };
    for half_edge in 0..lines.surface.half_edge_count() {
        let other = lines.surface.across[half_edge as usize];
        if other != NONE && other < half_edge {
            continue;
        }
        let across = lines.across(half_edge);
        let from = lines.place(half_edge);
        let list = lines.on(half_edge);
        for place in along(from, list) {
            let own = name((half_edge / 3, place));
            if other != NONE {
                pairs.push((own, name((other / 3, across.place(place)))));
            }
        }
        if other != NONE && across.place(from) != lines.place(next(other)) {
            return None;
        }
    }
    // Cells that touch no side of their triangle.
    for t in 0..lines.surface.triangles.len() as u32 {
        let border = Border::of(lines, t);
        border.quads(&mut |keys| {
            keys.iter().for_each(|&key| {
                name((t, key));
            });
            Some(())
        })?;
    }
    let mut sets = UnionFind::new(names.len());
    pairs.iter().for_each(|&(a, b)| {
        sets.join(a, b);
    });
    Some(Cells { names, sets })
}
