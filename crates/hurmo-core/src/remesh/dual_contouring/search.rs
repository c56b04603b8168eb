//! The search for the skin: which corners are inside, which edges are crossed, and on from cell to
//! cell.
//!
//! Corners differ by the crossings counted between them, so that one winding
//! number is enough for all connected ones. A surface with a border is closed by caps for that,
//! whose own winding number is then taken off; only where those would be very many, each corner has
//! its own worked out.

use super::blocks::Blocks;
use super::case_table::edge_of;
use super::crossing::{Corner, Crossing, Found};
use super::grid::{EdgeKey, Key, cells_round, corner_of, edge, edge_parts, step};
use super::inside_test::{Hits, InsideTest};
use crate::parallel::{chosen, listed_in_runs, mapped};
use crate::progress::Observer;
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};

/// What was found of the skin.
pub struct SurfaceSearch {
    /// Edges of the grid that it crosses, sorted.
    pub edges: Vec<EdgeKey>,
    /// Where it crosses each.
    pub points: Vec<Crossing>,
    /// The cells that it goes through, with which corners are inside.
    pub cells: Vec<(Key, u8)>,
    /// Edges on which walls or gaps are thinner than a cell, and where.
    pub thin: Vec<(EdgeKey, DVec3)>,
}

impl SurfaceSearch {
    /// Goes through the cells that triangles reach into, and these others, and on from those where
    /// the skin leads out of them.
    pub fn through(
        inside_test: &InsideTest<'_>,
        others: Vec<Key>,
        observer: &dyn Observer,
    ) -> Self {
        let mut known: FxHashMap<Key, Corner> = FxHashMap::default();
        let mut seen: FxHashSet<Key> = FxHashSet::default();
        let mut found: Vec<(EdgeKey, Crossing)> = Vec::new();
        let mut cells: Vec<(Key, u8)> = Vec::new();
        let mut thin: Vec<(EdgeKey, DVec3)> = Vec::new();
        let mut asked: FxHashSet<EdgeKey> = FxHashSet::default();
        let mut next: Vec<Key> = inside_test.reach.cells().to_vec();
        if !others.is_empty() {
            next.extend(others);
            next = each_once(next);
        }
        observer.begin("asking what is inside", 0);
        while !next.is_empty() && !observer.cancelled() {
            let (edges, corners) = rayon::join(
                || {
                    let mut edges = each_once(of_each(&next, edges_of));
                    edges.retain(|edge| !asked.contains(edge));
                    edges
                },
                || {
                    let mut corners = each_once(of_each(&next, corners_of));
                    corners.retain(|corner| !known.contains_key(corner));
                    corners
                },
            );
            let (hits, ()) = rayon::join(
                || inside_test.hits(&edges),
                || {
                    seen.extend(&next);
                    asked.extend(&edges);
                },
            );
            known.extend(classified(inside_test, &corners, &edges, &hits));
            let along = |(&edge, hits): (&EdgeKey, &Hits)| {
                let found = inside_test.along(edge, hits, ends(edge).map(|corner| known[&corner]));
                (edge, found)
            };
            let crossed: Vec<(EdgeKey, Found)> = chosen(edges.len(), 64, |i| {
                Some(along((&edges[i], &hits[i])))
                    .filter(|(_, found)| !matches!(found, Found::Nothing))
            });
            let mut leads_to: Vec<Key> = Vec::new();
            for (edge, on_edge) in crossed {
                match on_edge {
                    Found::Skin(crossing) => {
                        found.push((edge, crossing));
                        let round = cells_round(edge).into_iter();
                        leads_to.extend(round.filter(|cell| !seen.contains(cell)));
                    }
                    Found::Thin(at) => thin.push((edge, at)),
                    Found::Nothing => {}
                }
            }
            let inside = |&cell: &Key| {
                let is_in = |(at, corner): (usize, Key)| u8::from(known[&corner].is_inside()) << at;
                (cell, corners_of(cell).enumerate().map(is_in).sum::<u8>())
            };
            cells.extend(chosen(next.len(), 1024, |i| {
                Some(inside(&next[i])).filter(|(_, inside)| !matches!(inside, 0 | 255))
            }));
            next = each_once(leads_to);
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

/// What there is of each cell, one after the other.
fn of_each<I: Iterator<Item = u64>>(cells: &[Key], of: impl Fn(Key) -> I + Sync) -> Vec<u64> {
    listed_in_runs(cells.len(), 1024, |run, list| {
        list.extend(cells[run].iter().flat_map(|&cell| of(cell)));
    })
}

fn each_once(mut keys: Vec<u64>) -> Vec<u64> {
    keys.par_sort_unstable();
    keys.dedup();
    keys
}

fn corners_of(cell: Key) -> impl Iterator<Item = Key> {
    (0..8).map(move |corner| corner_of(cell, corner))
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
fn classified(
    inside_test: &InsideTest<'_>,
    corners: &[Key],
    edges: &[EdgeKey],
    hits: &[Hits],
) -> Vec<(Key, Corner)> {
    let counted = match inside_test.capped.caps() {
        Some(_) => count_crossings(inside_test, corners, &ways(corners, edges, hits)),
        None => Vec::new(),
    };
    let blocks = Blocks::of(inside_test, corners);
    let side_of = |(i, &corner): (usize, &Key)| {
        let at = inside_test.grid.corner(corner);
        let caps_wind = || {
            blocks
                .caps_wind(corner)
                .unwrap_or_else(|| inside_test.capped.caps_wind(at))
        };
        let winds = match counted.get(i) {
            Some(&whole) => f64::from(whole) - caps_wind(),
            None => inside_test.capped.by_tree().at(at),
        };
        let mut state = Corner {
            winds,
            is_added: false,
        };
        state.is_added = !state.is_filled() && inside_test.is_added(at);
        (corner, state)
    };
    mapped(corners.len(), 64, |i| side_of((i, &corners[i])))
}

/// Where one gets from a corner, on along each axis and then back: to which, by its place in a list,
/// and how the number rises on the way.
type Ways = [Option<(u32, i32)>; 6];

/// The ways between corners (sorted) over edges (sorted) on which it is certain what is crossed.
fn ways(corners: &[Key], edges: &[EdgeKey], hits: &[Hits]) -> Vec<Ways> {
    const RUN: usize = 8192;
    let found: Vec<(u32, u32, usize, i32)> = listed_in_runs(edges.len(), RUN, |run, list| {
        // Low ends follow each other, and so do the high ones of edges along one axis.
        let mut low_ends = Following::of(corners);
        let mut high_ends = [0, 1, 2].map(|_| Following::of(corners));
        let hits = &hits[run.clone()];
        list.extend(edges[run].iter().zip(hits).filter_map(|(&edge, hits)| {
            let [low, high] = ends(edge);
            let (_, axis) = edge_parts(edge);
            let places = low_ends.find(low).zip(high_ends[axis].find(high));
            let ((a, b), rise) = places.zip(hits.rise())?;
            Some((a, b, axis, rise))
        }));
    });
    let mut ways = vec![Ways::default(); corners.len()];
    for (a, b, axis, rise) in found {
        ways[a as usize][axis] = Some((b, rise));
        ways[b as usize][axis + 3] = Some((a, -rise));
    }
    ways
}

/// Finds keys in a sorted list, one after the other.
struct Following<'k> {
    keys: &'k [Key],
    at: Option<usize>,
}

impl<'k> Following<'k> {
    fn of(keys: &'k [Key]) -> Self {
        Self { keys, at: None }
    }

    /// The place of a key that is no lower than the last.
    fn find(&mut self, key: Key) -> Option<u32> {
        let from = self
            .at
            .unwrap_or_else(|| self.keys.partition_point(|&k| k < key));
        let passed = self.keys[from..].iter().take_while(|&&k| k < key).count();
        self.at = Some(from + passed);
        (self.keys.get(from + passed) == Some(&key)).then_some((from + passed) as u32)
    }
}

/// How often surface and caps wind round corners, from one to the next. Where they begin anew, the
/// number is worked out.
fn count_crossings(inside_test: &InsideTest<'_>, corners: &[Key], ways: &[Ways]) -> Vec<i32> {
    let mut number: Vec<Option<i32>> = vec![None; corners.len()];
    let mut waiting: Vec<u32> = Vec::new();
    for start in 0..corners.len() as u32 {
        if number[start as usize].is_none() {
            let at = inside_test.grid.corner(corners[start as usize]);
            number[start as usize] = Some(inside_test.capped.whole(at));
            waiting.push(start);
        }
        while let Some(here) = waiting.pop() {
            let own = number[here as usize].expect("set before it waits");
            for &(there, rise) in ways[here as usize].iter().flatten() {
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
    use crate::audit::SortedAnalysis;
    use crate::mesh::{Mesh, Model};
    use crate::remesh::dual_contouring::grid::Grid;
    use crate::remesh::dual_contouring::triangle_bins::Reach;
    use crate::shapes;
    use crate::spatial::{Capped, TriangleHierarchy, solid_angle};

    /// Against the sum of all solid angles, with a third of the faces gone here and there.
    #[test]
    fn corners_of_open_surfaces_are_told_as_summing_up_says() {
        let torus = Model::from(shapes::torus(1.0, 0.4, 40, 24));
        let (open, _) = torus.without_faces(|face| face.index() % 67 < 7 || face.index() < 60);
        let mesh: &Mesh = &open.mesh;
        let analysis = SortedAnalysis::of(&open, &());
        let hierarchy = analysis.hierarchy();
        let caps = TriangleHierarchy::whole(analysis.caps().expect("few enough"));
        assert!(!caps.is_empty());
        let bounds = crate::measure::bounds(mesh).unwrap();
        let grid = Grid::over(&bounds, 0.11);
        let reach = Reach::of(hierarchy, &grid);
        let inside_test = InsideTest {
            capped: Capped::new(hierarchy, Some(&caps)),
            reach: &reach,
            grid: &grid,
            added: Vec::new(),
        };
        let cells = reach.cells();
        let edges = each_once(of_each(cells, edges_of));
        let corners = each_once(of_each(cells, corners_of));
        assert!(corners.len() > 1000);
        for (key, corner) in classified(&inside_test, &corners, &edges, &inside_test.hits(&edges)) {
            let at = grid.corner(key);
            let all = (0..hierarchy.len()).map(|t| solid_angle(hierarchy.corners(t), at));
            let exact = all.sum::<f64>() / (4.0 * std::f64::consts::PI);
            let side = |winds: f64| (winds + 0.5).floor();
            let is_near = (corner.winds - exact).abs() < 0.03;
            assert!(
                is_near || side(corner.winds) == side(exact),
                "{} of {exact}",
                corner.winds
            );
        }
    }
}
