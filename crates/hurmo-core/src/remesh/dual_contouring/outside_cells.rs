//! Vertices on sharp edges, beyond their cells where an edge leads there.
//!
//! ```text
//!        ·  ╱╲  ·          No edge of the grid meets the tip:   both its ends are outside. The
//!      ┄┄┄┄╱┄┄╲┄┄┄┄        cell below sees both planes, and its vertex belongs into the cell
//!        ·╱    ╲·          above, in which there is no loop.
//! ```
//!
//! What keeps the skin free of crossings does not hold for a vertex that has left its cell. So its
//! triangles are held against all that are near, and where they meet any, or become slivers, it goes
//! back into the cell. With all of them back the skin is sound.

use super::crossing::Crossing;
use super::grid::{Key, key};
use super::near::Near;
use super::sharp::{are_sharp, place_on_edge, place_on_far_edge};
use super::surface_extraction::{Extracted, Lay, Loops};
use super::vertex_placement::{off_planes, place_anywhere};
use crate::mesh::VertexId;
use crate::parallel::chosen;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

/// A vertex stays so far from the sides of its cell, as a share of it, unless it leaves it.
const RIM: f64 = 0.004;
/// How strongly the middle of the crossings pulls where one begins to look: where facets differ by
/// little, along an edge that all but ends, stronger.
const PULLS: [f64; 2] = [1e-3, 0.03];
/// What lies nearer to the model than this share of the cell lies on it.
const ON_MODEL: f64 = 0.01;
/// Planes that differ as at a sharp edge, but meet in no place within this share of the cell, are
/// noise when there is no edge.
const NOISE: f64 = 0.02;
/// Unless what lies between them is further off the model than this: then they are facets, some of
/// which are not next to each other.
const FACETS: f64 = 0.05;
/// This many other places are tried for a vertex whose triangles meet others.
const TRIES: usize = 4;

/// Vertices that have left their cells, by loop, with their places in them.
#[derive(Default)]
pub struct OutsideVertices {
    back: FxHashMap<u32, DVec3>,
    /// The loops whose vertices are to lie on sharp edges, in their cells or not, and where.
    on_edges: FxHashMap<u32, DVec3>,
    /// How often another place was tried for each.
    tried: FxHashMap<u32, usize>,
    /// The skin as it was last held against itself, and what has moved since.
    last: Option<Last>,
}

/// Triangles of a skin, by the numbers of their points and loops' vertices, and the vertices that moved after it.
struct Last {
    triangles: FxHashSet<[u32; 3]>,
    moved: FxHashSet<u32>,
}

impl Last {
    /// Whether a triangle was there, and is where it was.
    fn had(&self, triangle: [u32; 3]) -> bool {
        self.triangles.contains(&triangle) && !triangle.iter().any(|v| self.moved.contains(v))
    }
}

impl OutsideVertices {
    /// Puts vertices on sharp edges of the model.
    pub fn of(cell_loops: &mut Loops<'_>) -> Self {
        let crossed = cell_loops.crossed;
        let mut outside_vertices = Self::default();
        if crossed.is_rounded {
            return outside_vertices;
        }
        let cells = cell_loops.cells_of_fans();
        let wishes: Vec<(u32, Key, bool, Wish)> = chosen(cells.len(), 256, |fan| {
            let ((cell, is_alone), fan) = (cells[fan], fan as u32);
            Some((fan, cell, is_alone, wish(cell_loops, fan, cell)?))
        });
        for (fan, cell, is_alone, wish) in wishes {
            let place = match wish {
                Wish::At(place) => {
                    outside_vertices.on_edges.insert(fan, place);
                    place
                }
                Wish::Onto(place) => place,
                Wish::Noise => {
                    cell_loops.is_noise[fan as usize] = is_alone;
                    continue;
                }
            };
            let low = crossed.grid.corner(cell);
            let size = crossed.grid.cell;
            let within = place.clamp(low + RIM * size, low + (1.0 - RIM) * size);
            let apex = &mut cell_loops.apexes[fan as usize];
            // Of several loops in a cell none may be anywhere in it.
            if is_alone && within.distance(place) <= RIM * size {
                *apex = within;
            } else {
                let is_to_stay_near = is_alone && !outside_vertices.on_edges.contains_key(&fan);
                outside_vertices
                    .back
                    .insert(fan, if is_to_stay_near { within } else { *apex });
                *apex = place;
            }
        }
        outside_vertices
    }

    /// For every vertex, where it should be if it is to lie on a sharp edge: where it is, if it has
    /// left its cell.
    pub fn wished(&self, extracted: &Extracted) -> Vec<Option<DVec3>> {
        let mut wished = vec![None; extracted.positions.len()];
        for (&fan, &place) in &self.on_edges {
            let vertex = extracted.first_apex + fan as usize;
            wished[vertex] = match self.is_loose(fan) {
                true => Some(extracted.positions[vertex]),
                false => Some(place),
            };
        }
        wished
    }

    /// Whether a loop's vertex is out of its cell.
    pub fn is_loose(&self, fan: u32) -> bool {
        self.back.contains_key(&fan)
    }

    /// The cells in which these vertices are.
    pub fn cells(&self, cell_loops: &Loops<'_>) -> FxHashSet<Key> {
        let grid = cell_loops.crossed.grid;
        let apexes = self.back.keys().map(|&fan| cell_loops.apexes[fan as usize]);
        apexes.map(|at| key(grid.cell_of(at))).collect()
    }

    /// Takes back those whose triangles meet others, or are slivers; whether there were any.
    pub fn take_back(&mut self, cell_loops: &mut Loops<'_>, extracted: &Extracted) -> bool {
        if self.back.is_empty() {
            return false;
        }
        let fan = |v: VertexId| {
            let fan = v.index().checked_sub(extracted.first_apex)? as u32;
            self.is_loose(fan).then_some(fan)
        };
        let corners = |t: u32| extracted.triangles[t as usize];
        let named = |t: u32| corners(t).map(|v| extracted.names[v.index()]);
        let has_moved = |t: u32| match &self.last {
            Some(last) => !last.had(named(t)),
            None => corners(t).iter().any(|&v| fan(v).is_some()),
        };
        let near = Near::of(cell_loops.crossed.grid, extracted, has_moved);
        let bad = near.unsound().flat_map(corners);
        let mut fans: Vec<u32> = bad.filter_map(fan).collect();
        fans.sort_unstable();
        fans.dedup();
        if fans.is_empty() {
            return false;
        }
        // Of every unsound pair a vertex moves now: pairs of which nothing moves need no second look.
        self.last = Some(Last {
            triangles: (0..extracted.triangles.len() as u32).map(named).collect(),
            moved: fans.iter().map(|&fan| cell_loops.apex_name(fan)).collect(),
        });
        for &fan in &fans {
            // Where it is between those beside it, with which it may have changed places.
            let tried = self.tried.entry(fan).or_default();
            *tried += 1;
            let between = match *tried <= TRIES {
                true => self.between(cell_loops, fan),
                false => None,
            };
            let back = || self.back.remove(&fan);
            if let Some(place) = between.or_else(back) {
                cell_loops.apexes[fan as usize] = place;
            }
        }
        true
    }

    /// The place on the sharp edge between the two vertices on it that are beside a loop's.
    fn between(&self, cell_loops: &Loops<'_>, fan: u32) -> Option<DVec3> {
        let grid = cell_loops.crossed.grid;
        let mut cell = None;
        let mut beside: Vec<u32> = Vec::new();
        for &segment in cell_loops.segments_of(fan) {
            let segment = &cell_loops.segments[segment as usize];
            let [one, two] = segment.sides;
            let (own, other) = if one.fan == fan {
                (one, two)
            } else {
                (two, one)
            };
            cell = Some(own.cell);
            if segment.lay == Lay::Turned && self.on_edges.contains_key(&other.fan) {
                beside.push(other.fan);
            }
        }
        let (&[one, two], Some(cell)) = (&beside[..], cell) else {
            return None;
        };
        let [one, two] = [one, two].map(|fan| cell_loops.apexes[fan as usize]);
        let low = grid.corner(cell);
        let is_near = |place: DVec3| is_beside((place - low) / grid.cell);
        place_on_edge(cell_loops.crossed.inside_test, (one + two) / 2.0, is_near)
    }
}

/// Whether a place is in a cell or one beside it, in cells from the low corner of the cell.
fn is_beside(place: DVec3) -> bool {
    place.cmpgt(DVec3::splat(-1.0)).all() && place.cmplt(DVec3::splat(2.0)).all()
}

/// What is to become of a loop's vertex, if anything.
enum Wish {
    /// It belongs to a sharp edge.
    At(DVec3),
    /// Planes meet where the model has no edge, since they are not next to each other: it belongs
    /// onto what lies between them.
    Onto(DVec3),
    /// Planes differ as at a sharp edge, but there is none.
    Noise,
}

/// Where a loop's vertex belongs that is to lie on a sharp edge, in its cell or one beside it.
fn wish(cell_loops: &Loops<'_>, fan: u32, cell: Key) -> Option<Wish> {
    let crossed = cell_loops.crossed;
    let (low, size) = (crossed.grid.corner(cell), crossed.grid.cell);
    let crossings = cell_loops.crossings_of(fan);
    if !are_sharp(&crossings) {
        return None;
    }
    // Openings that are closed, and what is added to the model, have no edges of it.
    let inside_test = crossed.inside_test;
    let is_of_model = |crossing: &Crossing| {
        let lies_on = || {
            !inside_test
                .planes_near(crossing.at, ON_MODEL * size)
                .is_empty()
        };
        crossing.face.is_some() && (inside_test.added.is_empty() || lies_on())
    };
    if !crossings.iter().all(is_of_model) {
        return None;
    }
    let is_near = |place: DVec3| is_beside((place - low) / size);
    let found = PULLS.iter().find_map(|&pull| {
        let begin = place_anywhere(&crossings, pull);
        place_on_edge(inside_test, begin, is_near)
    });
    if let Some(place) = found {
        return Some(Wish::At(place));
    }
    let closest = |place| {
        let closest = inside_test.closest(place, size);
        closest.filter(|&place| is_near(place)).map(Wish::Onto)
    };
    let begin = place_anywhere(&crossings, PULLS[0]);
    if off_planes(&crossings, begin) <= NOISE * size {
        let far = place_on_far_edge(inside_test, begin).filter(|&place| is_near(place));
        return far.map(Wish::At).or_else(|| closest(begin));
    }
    let apex = cell_loops.apexes[fan as usize];
    match inside_test.planes_near(apex, FACETS * size).is_empty() {
        true => closest(apex),
        false => Some(Wish::Noise),
    }
}
