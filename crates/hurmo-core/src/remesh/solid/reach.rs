//! Which triangles reach into which cells.

use super::grid::{Grid, Key, keys_between};
use crate::spatial::Soup;
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

/// Triangles by cell, for those that any reaches into.
pub struct Reach {
    /// Sorted by cell.
    triangles: Vec<u32>,
    /// The cells, in order.
    cells: Vec<Key>,
    /// For each cell where its triangles begin and end.
    of_cell: FxHashMap<Key, (u32, u32)>,
}

impl Reach {
    /// Looks at every triangle. A cell may be listed that one only comes near.
    pub fn of(soup: &Soup<'_>, grid: &Grid) -> Self {
        let mut pairs: Vec<(Key, u32)> = (0..soup.len() as u32)
            .into_par_iter()
            .with_min_len(256)
            .flat_map_iter(|t| cells(soup.corners(t as usize), grid).map(move |cell| (cell, t)))
            .collect();
        pairs.par_sort_unstable();
        let mut reach = Self {
            triangles: pairs.iter().map(|pair| pair.1).collect(),
            cells: Vec::new(),
            of_cell: FxHashMap::default(),
        };
        let mut begin = 0;
        for these in pairs.chunk_by(|a, b| a.0 == b.0) {
            let end = begin + these.len() as u32;
            reach.cells.push(these[0].0);
            reach.of_cell.insert(these[0].0, (begin, end));
            begin = end;
        }
        reach
    }

    /// The cells, each once, in order.
    pub fn cells(&self) -> &[Key] {
        &self.cells
    }

    /// The triangles that reach into a cell.
    pub fn at(&self, cell: Key) -> impl Iterator<Item = u32> + '_ {
        let &(begin, end) = self.of_cell.get(&cell).unwrap_or(&(0, 0));
        self.triangles[begin as usize..end as usize].iter().copied()
    }
}

/// The cells of a triangle's box that its plane comes through.
fn cells(corners: [DVec3; 3], grid: &Grid) -> impl Iterator<Item = Key> {
    let [a, b, c] = corners;
    // What lies on the border of two cells is in both.
    let rim = DVec3::splat(1e-6 * grid.cell);
    let low = grid.cell_of(a.min(b).min(c) - rim);
    let high = grid.cell_of(a.max(b).max(c) + rim);
    let area = (b - a).cross(c - a);
    let longest = (b - a).length_squared().max((c - a).length_squared());
    // The plane of a needle is not known well enough.
    let normal = match area.length() > 1e-7 * longest {
        true => area.normalize_or_zero(),
        false => DVec3::ZERO,
    };
    // How far along the normal a cell reaches from its middle.
    let reach = normal.abs().element_sum() * grid.cell * 0.5 + rim.x;
    let grid = *grid;
    keys_between(low, high).filter(move |&cell| {
        let middle = grid.corner(cell) + DVec3::splat(grid.cell * 0.5);
        normal.dot(middle - a).abs() <= reach
    })
}
