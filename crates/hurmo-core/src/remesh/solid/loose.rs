//! Vertices on sharp edges, beyond their cells where an edge leads there.
//!
//! ```text
//!        ·  ╱╲  ·          No edge of the grid tells of the tip: both its ends are outside. The
//!      ┄┄┄┄╱┄┄╲┄┄┄┄        cell below sees both planes, and its vertex belongs into the cell
//!        ·╱    ╲·          above, in which there is no loop.
//! ```
//!
//! What keeps the skin free of crossings does not hold for a vertex that has left its cell. So its
//! triangles are held against all that are near, and where they meet any, or become slivers, it goes
//! back into the cell. With all of them back the skin is sound.

use super::crossing::Crossing;
use super::grid::{Key, key, keys_between};
use super::place::{Fit, off_planes, place_anywhere};
use super::sharp::{are_sharp, place_on_edge};
use super::weave::{Lay, Threads, Woven};
use crate::audit::{is_sliver, is_zero_area};
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::spatial::Contacts;
use glam::DVec3;
use rayon::prelude::*;
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
/// So many other places are tried for a vertex whose triangles meet others.
const TRIES: usize = 4;
/// Nor may a triangle's longest edge be so many times its height.
const SLIVER: f64 = 50.0;

/// Vertices that have left their cells, by loop, with their places in them.
#[derive(Default)]
pub struct Loose {
    back: FxHashMap<u32, DVec3>,
    /// The loops whose vertices are on sharp edges, in their cells or not.
    on_edges: FxHashSet<u32>,
    /// How often another place was tried for each.
    tried: FxHashMap<u32, usize>,
}

impl Loose {
    /// Puts vertices on sharp edges of the model.
    pub fn of(threads: &mut Threads<'_>) -> Self {
        let crossed = threads.crossed;
        let mut loose = Self::default();
        if crossed.is_rounded {
            return loose;
        }
        let cells = threads.cells_of_fans();
        let wishes: Vec<(u32, Key, Wish)> = (0..cells.len() as u32)
            .into_par_iter()
            .with_min_len(256)
            .filter_map(|fan| {
                let cell = cells[fan as usize]?;
                Some((fan, cell, wish(threads, fan, cell)?))
            })
            .collect();
        for (fan, cell, wish) in wishes {
            let Wish::At(place) = wish else {
                threads.is_noise[fan as usize] = true;
                continue;
            };
            loose.on_edges.insert(fan);
            let low = crossed.grid.corner(cell);
            let size = crossed.grid.cell;
            let within = place.clamp(low + RIM * size, low + (1.0 - RIM) * size);
            let apex = &mut threads.apexes[fan as usize];
            if within.distance(place) <= RIM * size {
                *apex = within;
            } else {
                loose.back.insert(fan, *apex);
                *apex = place;
            }
        }
        loose
    }

    /// Whether a loop's vertex is out of its cell.
    pub fn is_loose(&self, fan: u32) -> bool {
        self.back.contains_key(&fan)
    }

    /// The cells in which these vertices are.
    pub fn cells(&self, threads: &Threads<'_>) -> FxHashSet<Key> {
        let grid = threads.crossed.grid;
        let apexes = self.back.keys().map(|&fan| threads.apexes[fan as usize]);
        apexes.map(|at| key(grid.cell_of(at))).collect()
    }

    /// Takes back those whose triangles meet others; whether there were any.
    pub fn take_back(&mut self, threads: &mut Threads<'_>, woven: &Woven) -> bool {
        if self.back.is_empty() {
            return false;
        }
        let fan = |v: VertexId| {
            let fan = v.index().checked_sub(woven.first_apex)? as u32;
            self.is_loose(fan).then_some(fan)
        };
        let near = Near::of(threads, woven, |v| fan(v).is_some());
        let meeting = near.meeting();
        let mut fans: Vec<u32> = meeting.flatten().filter_map(fan).collect();
        fans.sort_unstable();
        fans.dedup();
        for &fan in &fans {
            // Where it is between those beside it, with which it may have changed places.
            let tried = self.tried.entry(fan).or_default();
            *tried += 1;
            let between = match *tried <= TRIES {
                true => self.between(threads, fan),
                false => None,
            };
            let back = || self.back.remove(&fan);
            if let Some(place) = between.or_else(back) {
                threads.apexes[fan as usize] = place;
            }
        }
        !fans.is_empty()
    }

    /// The place on the sharp edge between the two vertices on it that are beside a loop's.
    fn between(&self, threads: &Threads<'_>, fan: u32) -> Option<DVec3> {
        let grid = threads.crossed.grid;
        let mut cell = None;
        let mut beside: Vec<u32> = Vec::new();
        for &segment in threads.segments_of(fan) {
            let segment = &threads.segments[segment as usize];
            let [one, two] = segment.sides;
            let (own, other) = if one.fan == fan {
                (one, two)
            } else {
                (two, one)
            };
            cell = Some(own.cell);
            if segment.lay == Lay::Turned && self.on_edges.contains(&other.fan) {
                beside.push(other.fan);
            }
        }
        let (&[one, two], Some(cell)) = (&beside[..], cell) else {
            return None;
        };
        let [one, two] = [one, two].map(|fan| threads.apexes[fan as usize]);
        let low = grid.corner(cell);
        let is_near = |place: DVec3| is_beside((place - low) / grid.cell);
        place_on_edge(threads.crossed.ground, (one + two) / 2.0, is_near)
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
    /// Planes differ as at a sharp edge, but there is none.
    Noise,
}

/// Where a loop's vertex belongs that is to lie on a sharp edge, in its cell or one beside it.
fn wish(threads: &Threads<'_>, fan: u32, cell: Key) -> Option<Wish> {
    let crossed = threads.crossed;
    let (low, size) = (crossed.grid.corner(cell), crossed.grid.cell);
    let crossings = threads.crossings_of(fan);
    if !are_sharp(&crossings) || Fit::of(&crossings).is_smooth(&crossings, size) {
        return None;
    }
    // Openings that are closed, and what is added to the model, have no edges of it.
    let ground = crossed.ground;
    let is_of_model = |crossing: &Crossing| {
        let lies_on = || !ground.planes_near(crossing.at, ON_MODEL * size).is_empty();
        crossing.face.is_some() && (ground.added.is_empty() || lies_on())
    };
    if !crossings.iter().all(is_of_model) {
        return None;
    }
    let is_near = |place: DVec3| is_beside((place - low) / size);
    let found = PULLS.iter().find_map(|&pull| {
        let begin = place_anywhere(&crossings, pull);
        place_on_edge(ground, begin, is_near)
    });
    let off = || off_planes(&crossings, place_anywhere(&crossings, PULLS[0]));
    match found {
        Some(place) => Some(Wish::At(place)),
        None if off() > NOISE * size => Some(Wish::Noise),
        None => None,
    }
}

/// Triangles of the skin at vertices that have moved, and all that are near them.
struct Near<'w> {
    woven: &'w Woven,
    /// By number in the skin.
    triangles: Vec<u32>,
    /// Whether each is one of those that have moved.
    moved: Vec<bool>,
}

impl<'w> Near<'w> {
    fn of(
        threads: &Threads<'_>,
        woven: &'w Woven,
        moves: impl Fn(VertexId) -> bool + Sync,
    ) -> Self {
        let grid = threads.crossed.grid;
        let cells = |t: &[VertexId; 3]| {
            let [a, b, c] = t.map(|v| woven.positions[v.index()]);
            let low = grid.cell_of(a.min(b).min(c));
            let high = grid.cell_of(a.max(b).max(c));
            keys_between(low, high)
        };
        let has_moved = |t: &[VertexId; 3]| t.iter().any(|&v| moves(v));
        let movers = woven.triangles.par_iter().filter(|t| has_moved(t));
        let movers: Vec<&[VertexId; 3]> = movers.collect();
        let there: FxHashSet<Key> = movers.into_iter().flat_map(cells).collect();
        let triangles: Vec<u32> = (0..woven.triangles.len() as u32)
            .into_par_iter()
            .with_min_len(1024)
            .filter(|&t| cells(&woven.triangles[t as usize]).any(|cell| there.contains(&cell)))
            .collect();
        Self {
            moved: triangles
                .iter()
                .map(|&t| has_moved(&woven.triangles[t as usize]))
                .collect(),
            triangles,
            woven,
        }
    }

    /// Those that meet others, or are slivers now that they moved.
    fn meeting(&self) -> impl Iterator<Item = [VertexId; 3]> + '_ {
        let corners = |i: usize| self.woven.triangles[self.triangles[i] as usize];
        let mut names: FxHashMap<VertexId, VertexId> = FxHashMap::default();
        let mut places: Vec<DVec3> = Vec::new();
        let mut own = |v: VertexId| {
            *names.entry(v).or_insert_with(|| {
                places.push(self.woven.positions[v.index()]);
                VertexId::new(places.len() - 1)
            })
        };
        let triangles: Vec<[VertexId; 3]> = (0..self.triangles.len())
            .map(|i| corners(i).map(&mut own))
            .collect();
        let mesh = Mesh::from_triangles(places, &triangles).expect("of finite places");
        let faces: Vec<FaceId> = mesh.face_ids().collect();
        let stayed = |face: FaceId| !self.moved[face.index()];
        let contacts = Contacts::among(&mesh, &faces, |f, g| stayed(f) && stayed(g));
        faces.into_iter().filter_map(move |face| {
            let is_thin = || is_sliver(&mesh, face, 0.0, SLIVER) || is_zero_area(&mesh, face, 0.0);
            let is_bad = contacts.touches(face) || (!stayed(face) && is_thin());
            is_bad.then(|| corners(face.index()))
        })
    }
}
