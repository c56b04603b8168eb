//! Whether a surface has a border.

use crate::mesh::Mesh;
use crate::spatial::{Soup, exact_weld};
use rayon::prelude::*;

/// Whether every edge, taken by its place, is run through as often one way as the other: whatever
/// the surface is like otherwise, its winding number is whole everywhere, and changes by one
/// where a triangle is crossed.
pub fn is_closed(soup: &Soup<'_>, mesh: &Mesh) -> bool {
    let place = exact_weld(mesh.positions());
    let mut sides: Vec<(u64, i32)> = (0..soup.len())
        .into_par_iter()
        .with_min_len(1024)
        .flat_map_iter(|t| {
            let [a, b, c] = soup.vertices(t).map(|v| place[v.index()].0);
            [(a, b), (b, c), (c, a)].map(|(from, to)| {
                let edge = u64::from(from.min(to)) << 32 | u64::from(from.max(to));
                (edge, if from < to { 1 } else { -1 })
            })
        })
        // A side of no length leads nowhere.
        .filter(|(edge, _)| edge >> 32 != edge & 0xffff_ffff)
        .collect();
    sides.par_sort_unstable();
    let mut edges = sides.chunk_by(|one, two| one.0 == two.0);
    edges.all(|edge| edge.iter().map(|side| side.1).sum::<i32>() == 0)
}
