//! The search for the skin: which corners are inside, which edges are crossed, and on from cell to
//! cell.
//!
//! Corners are told from each other by counting what is crossed between them, where the surface has
//! no border, so that one winding number is enough for all that hang together; else each has its
//! own worked out.

use super::crossing::{Crossing, Found, Ground, Hits, INSIDE};
use super::grid::{EdgeKey, Key, cells_round, corner_of, edge, edge_parts, step};
use super::loops::edge_of;
use crate::progress::Observer;
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};

/// What was found of the skin.
pub struct Search {
    /// Edges of the grid that it crosses, sorted.
    pub edges: Vec<EdgeKey>,
    /// Where it crosses each.
    pub points: Vec<Crossing>,
    /// The cells that it goes through, with which corners are inside.
    pub cells: Vec<(Key, u8)>,
    /// Where walls or gaps are thinner than a cell.
    pub thin: Vec<DVec3>,
}

impl Search {
    /// Goes through the cells that triangles reach into, and on from those where the skin leads
    /// out of them.
    pub fn through(ground: &Ground<'_>, observer: &dyn Observer) -> Self {
        let mut winds: FxHashMap<Key, f64> = FxHashMap::default();
        let mut seen: FxHashSet<Key> = FxHashSet::default();
        let mut found: Vec<(EdgeKey, Crossing)> = Vec::new();
        let mut cells: Vec<(Key, u8)> = Vec::new();
        let mut thin: Vec<(EdgeKey, DVec3)> = Vec::new();
        let mut asked: FxHashSet<EdgeKey> = FxHashSet::default();
        let mut next = ground.reach.cells();
        observer.begin("asking what is inside", 0);
        while !next.is_empty() && !observer.cancelled() {
            seen.extend(&next);
            let mut edges = each_once(next.iter().flat_map(|&cell| edges_of(cell)));
            edges.retain(|edge| !asked.contains(edge));
            asked.extend(&edges);
            let hits: Vec<(EdgeKey, Hits)> = edges
                .into_par_iter()
                .with_min_len(64)
                .map(|edge| (edge, ground.hits(edge)))
                .collect();
            let corners = next
                .iter()
                .flat_map(|&cell| (0..8).map(move |c| corner_of(cell, c)));
            let mut corners = each_once(corners);
            corners.retain(|corner| !winds.contains_key(corner));
            if ground.is_closed {
                count_crossings(ground, &corners, &hits, &mut winds);
            }
            corners.retain(|corner| !winds.contains_key(corner));
            let at = |corner: &Key| ground.winding.at(ground.grid.corner(*corner));
            let told: Vec<f64> = corners.par_iter().with_min_len(64).map(at).collect();
            winds.extend(corners.into_iter().zip(told));
            let told: Vec<(EdgeKey, Found)> = hits
                .into_par_iter()
                .with_min_len(64)
                .map(|(edge, hits)| {
                    (
                        edge,
                        ground.along(edge, hits, ends(edge).map(|c| winds[&c])),
                    )
                })
                .collect();
            let mut leads_to: Vec<Key> = Vec::new();
            for (edge, told) in told {
                match told {
                    Found::Skin(crossing) => {
                        found.push((edge, crossing));
                        let round = cells_round(edge).into_iter();
                        leads_to.extend(round.filter(|cell| !seen.contains(cell)));
                    }
                    Found::Thin(at) => thin.push((edge, at)),
                    Found::Nothing => {}
                }
            }
            let crossed = next.iter().map(|&cell| {
                let is_in = |corner: usize| winds[&corner_of(cell, corner)] > INSIDE;
                (
                    cell,
                    (0..8)
                        .map(|corner| u8::from(is_in(corner)) << corner)
                        .sum::<u8>(),
                )
            });
            cells.extend(crossed.filter(|(_, inside)| !matches!(inside, 0 | 255)));
            next = each_once(leads_to.into_iter());
        }
        cells.par_sort_unstable();
        found.par_sort_unstable_by_key(|found| found.0);
        thin.sort_unstable_by_key(|thin| thin.0);
        let (edges, points) = found.into_iter().unzip();
        Self {
            edges,
            points,
            cells,
            thin: thin.into_iter().map(|(_, at)| at).collect(),
        }
    }
}

fn each_once(keys: impl Iterator<Item = u64>) -> Vec<u64> {
    let mut keys: Vec<u64> = keys.collect();
    keys.par_sort_unstable();
    keys.dedup();
    keys
}

fn edges_of(cell: Key) -> impl Iterator<Item = EdgeKey> {
    (0..12).map(move |which| {
        let (axis, low) = edge_of(which);
        edge(corner_of(cell, low), axis)
    })
}

fn ends(edge: EdgeKey) -> [Key; 2] {
    let (low, axis) = edge_parts(edge);
    [low, step(low, axis)]
}

/// Winding numbers of corners (sorted), from one to the next over edges on which it is certain what
/// is crossed. Where they begin anew, the number is worked out.
fn count_crossings(
    ground: &Ground<'_>,
    corners: &[Key],
    hits: &[(EdgeKey, Hits)],
    winds: &mut FxHashMap<Key, f64>,
) {
    // By corner, which edges lead away from it and how the number rises along them.
    let place = |corner: &Key| corners.binary_search(corner).ok();
    let mut ways: Vec<(u32, u32, i32)> = hits
        .par_iter()
        .with_min_len(1024)
        .flat_map_iter(|(edge, hits)| {
            let [a, b] = ends(*edge);
            let way = place(&a).zip(place(&b)).zip(hits.rise());
            way.into_iter().flat_map(|((a, b), rise)| {
                let (a, b) = (a as u32, b as u32);
                [(a, b, rise), (b, a, -rise)]
            })
        })
        .collect();
    ways.par_sort_unstable();
    let mut number: Vec<Option<i32>> = vec![None; corners.len()];
    let mut waiting: Vec<u32> = Vec::new();
    for start in 0..corners.len() as u32 {
        if number[start as usize].is_none() {
            let at = ground.grid.corner(corners[start as usize]);
            number[start as usize] = Some(ground.winding.at(at).round() as i32);
            waiting.push(start);
        }
        while let Some(here) = waiting.pop() {
            let own = number[here as usize].expect("set before it waits");
            let first = ways.partition_point(|way| way.0 < here);
            for &(_, there, rise) in ways[first..].iter().take_while(|way| way.0 == here) {
                let other = &mut number[there as usize];
                if other.is_none() {
                    *other = Some(own + rise);
                    waiting.push(there);
                }
            }
        }
    }
    let told = corners.iter().zip(number);
    winds.extend(told.filter_map(|(&corner, number)| Some((corner, f64::from(number?)))));
}
