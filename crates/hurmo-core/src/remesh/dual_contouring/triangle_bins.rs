//! Which triangles reach into which cells.

use super::grid::{Grid, Key, Window, keys_between};
use crate::parallel::{chosen, listed, mapped};
use crate::spatial::TriangleHierarchy;
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

/// Triangles by cell, for those that any reaches into.
#[derive(Default)]
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
    pub fn of(hierarchy: &TriangleHierarchy<'_>, grid: &Grid) -> Self {
        if hierarchy.is_empty() {
            return Self::default();
        }
        let cells = |t: usize| cells(hierarchy.corners(t), grid);
        // A cell and a triangle in one number, if there is room for both.
        let [low, high] = hierarchy.tree().bounds(0).map(|corner| corner.as_dvec3());
        let rim = rim(grid);
        let window = Window::between(grid.cell_of(low - rim), grid.cell_of(high + rim));
        let number = hierarchy.len().ilog2() + 1;
        match window.bits() + number <= u64::BITS {
            true => {
                let pack = |cell, t| window.short(cell) << number | t as u64;
                let triangle = (1 << number) - 1;
                let unpack = |pair: u64| (window.cell(pair >> number), (pair & triangle) as u32);
                let pairs = listed(hierarchy.len(), 256, |t, list| {
                    list.extend(cells(t).map(|cell| pack(cell, t)));
                });
                Self::sorted(pairs, unpack)
            }
            false => {
                let pairs: Vec<(Key, u32)> = listed(hierarchy.len(), 256, |t, list| {
                    list.extend(cells(t).map(|cell| (cell, t as u32)));
                });
                Self::sorted(pairs, |pair| pair)
            }
        }
    }

    /// Of pairs that sort by cell and triangle.
    fn sorted<T: Copy + Ord + Send + Sync>(
        mut pairs: Vec<T>,
        unpack: impl Fn(T) -> (Key, u32) + Sync,
    ) -> Self {
        pairs.par_sort_unstable();
        let pair = |i: usize| unpack(pairs[i]);
        let begins = |i: usize| i == 0 || pair(i).0 != pair(i - 1).0;
        let begins = chosen(pairs.len(), 4096, |i| begins(i).then_some(i as u32));
        let ends = begins.iter().skip(1).copied().chain([pairs.len() as u32]);
        let ranges: Vec<(u32, u32)> = begins.iter().copied().zip(ends).collect();
        let cells: Vec<Key> = begins.iter().map(|&i| pair(i as usize).0).collect();
        let (triangles, of_cell) = rayon::join(
            || mapped(pairs.len(), 4096, |i| pair(i).1),
            || cells.iter().copied().zip(ranges).collect(),
        );
        Self {
            triangles,
            cells,
            of_cell,
        }
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

/// What lies so near to the border of two cells is in both.
fn rim(grid: &Grid) -> DVec3 {
    DVec3::splat(1e-6 * grid.cell)
}

/// The cells of a triangle's box that its plane comes through.
fn cells(corners: [DVec3; 3], grid: &Grid) -> impl Iterator<Item = Key> {
    let [a, b, c] = corners;
    let rim = rim(grid);
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
