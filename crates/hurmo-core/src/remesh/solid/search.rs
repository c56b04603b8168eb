//! The search for the skin: which corners are inside, which edges are crossed, and on from cell to
//! cell.
//!
//! Corners are told from each other by counting what is crossed between them, so that one winding
//! number is enough for all that hang together. A surface with a border is closed by caps for that,
//! whose own winding number is then taken off; only where those would be very many, each corner has
//! its own worked out.

use super::crossing::{Corner, Crossing, Found};
use super::grid::{EdgeKey, Key, cells_round, corner_of, edge, edge_parts, step};
use super::ground::{Ground, Hits};
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
    /// Edges on which walls or gaps are thinner than a cell, and where.
    pub thin: Vec<(EdgeKey, DVec3)>,
}

impl Search {
    /// Goes through the cells that triangles reach into, and these others, and on from those where
    /// the skin leads out of them.
    pub fn through(ground: &Ground<'_>, others: Vec<Key>, observer: &dyn Observer) -> Self {
        let mut known: FxHashMap<Key, Corner> = FxHashMap::default();
        let mut seen: FxHashSet<Key> = FxHashSet::default();
        let mut found: Vec<(EdgeKey, Crossing)> = Vec::new();
        let mut cells: Vec<(Key, u8)> = Vec::new();
        let mut thin: Vec<(EdgeKey, DVec3)> = Vec::new();
        let mut asked: FxHashSet<EdgeKey> = FxHashSet::default();
        let mut next = each_once(ground.reach.cells().iter().copied().chain(others));
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
            corners.retain(|corner| !known.contains_key(corner));
            known.extend(told(ground, corners, &hits));
            let told: Vec<(EdgeKey, Found)> = hits
                .into_par_iter()
                .with_min_len(64)
                .map(|(edge, hits)| {
                    (
                        edge,
                        ground.along(edge, hits, ends(edge).map(|c| known[&c])),
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
                let is_in = |corner: usize| known[&corner_of(cell, corner)].is_inside();
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
            thin,
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

/// What is known of corners (sorted), when this is what crosses the edges between them.
fn told(ground: &Ground<'_>, corners: Vec<Key>, hits: &[(EdgeKey, Hits)]) -> Vec<(Key, Corner)> {
    let counted = match &ground.caps {
        Some(_) => count_crossings(ground, &corners, hits),
        None => Vec::new(),
    };
    let tell = |(i, corner): (usize, Key)| {
        let at = ground.grid.corner(corner);
        let winds = match (&ground.caps, counted.get(i)) {
            (Some(caps), Some(&whole)) => f64::from(whole) - caps.winding.at(at),
            _ => ground.winding.at(at),
        };
        let mut told = Corner {
            winds,
            is_added: false,
        };
        told.is_added = !told.is_filled() && ground.is_added(at);
        (corner, told)
    };
    let corners = corners.into_par_iter().with_min_len(64).enumerate();
    corners.map(tell).collect()
}

/// How often surface and caps wind round corners (sorted), from one to the next over edges on which
/// it is certain what is crossed. Where they begin anew, the number is worked out.
fn count_crossings(ground: &Ground<'_>, corners: &[Key], hits: &[(EdgeKey, Hits)]) -> Vec<i32> {
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
    let whole = |corner: Key| {
        let at = ground.grid.corner(corner);
        let of_caps = ground.caps.as_ref().map_or(0.0, |caps| caps.winding.at(at));
        (ground.winding.at(at) + of_caps).round() as i32
    };
    let mut number: Vec<Option<i32>> = vec![None; corners.len()];
    let mut waiting: Vec<u32> = Vec::new();
    for start in 0..corners.len() as u32 {
        if number[start as usize].is_none() {
            number[start as usize] = Some(whole(corners[start as usize]));
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
    number.into_iter().flatten().collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{Mesh, Model};
    use crate::remesh::solid::grid::Grid;
    use crate::remesh::solid::ground::{Caps, Facing};
    use crate::remesh::solid::reach::Reach;
    use crate::shapes;
    use crate::spatial::{Winding, solid_angle};
    use crate::topology::{Edges, Patches};

    /// Against the sum of all solid angles, with a third of the faces gone here and there.
    #[test]
    fn corners_of_open_surfaces_are_told_as_summing_up_says() {
        let torus = Model::from(shapes::torus(1.0, 0.4, 40, 24));
        let (open, _) = torus.without_faces(|face| face.index() % 67 < 7 || face.index() < 60);
        let mesh: &Mesh = &open.mesh;
        let edges = Edges::of(mesh);
        let facing = Facing::of(mesh, &edges, &Patches::of(mesh, &edges));
        let caps = facing.caps().expect("few enough");
        assert!(!caps.is_empty());
        let winding = Winding::of(&facing.soup);
        let bounds = crate::measure::bounds(mesh).unwrap();
        let grid = Grid::over(&bounds, 0.11);
        let reach = Reach::of(&facing.soup, &grid);
        let ground = Ground {
            soup: &facing.soup,
            winding: &winding,
            caps: Some(Caps::of(&caps)),
            reach: &reach,
            grid: &grid,
            added: Vec::new(),
        };
        let cells = reach.cells();
        let edges = each_once(cells.iter().flat_map(|&cell| edges_of(cell)));
        let hits: Vec<_> = edges.into_iter().map(|e| (e, ground.hits(e))).collect();
        let corners = cells
            .iter()
            .flat_map(|&cell| (0..8).map(move |c| corner_of(cell, c)));
        let corners = each_once(corners);
        assert!(corners.len() > 1000);
        for (key, corner) in told(&ground, corners, &hits) {
            let at = grid.corner(key);
            let all = (0..facing.soup.len()).map(|t| solid_angle(facing.soup.corners(t), at));
            let exact = all.sum::<f64>() / (4.0 * std::f64::consts::PI);
            assert!(
                (corner.winds - exact).abs() < 0.03,
                "{} of {exact}",
                corner.winds
            );
        }
    }
}
