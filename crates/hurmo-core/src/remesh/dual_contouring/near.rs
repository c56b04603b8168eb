//! Whether triangles of the skin that have changed are sound: meet no others, are no slivers, and lie
//! nowhere so close to others that they would coincide in single precision.

use super::grid::{Grid, Key, keys_between};
use super::surface_extraction::Extracted;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::parallel::{chosen, listed_in_runs};
use crate::spatial::{Contacts, are_nearer};
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

/// No triangle's longest edge may be this many times its height.
const SLIVER: f64 = 50.0;
/// No two triangles are so near to each other but where they hang together, as a share of the cell.
pub const CROWDED: f64 = 0.001;

/// Whether a triangle is a sliver, or has no area.
pub fn is_thin(extracted: &Extracted, triangle: u32) -> bool {
    let [a, b, c] = extracted.triangles[triangle as usize].map(|v| extracted.positions[v.index()]);
    let longest = a.distance(b).max(b.distance(c)).max(c.distance(a));
    // Twice the area is the longest edge times the height on it.
    SLIVER * (b - a).cross(c - a).length() <= longest * longest
}

/// Triangles of the skin that have changed, and all that are near them.
pub struct Near<'w> {
    grid: &'w Grid,
    extracted: &'w Extracted,
    /// By number in the skin.
    triangles: Vec<u32>,
    /// Whether each is one of those that have changed.
    changed: Vec<bool>,
}

impl<'w> Near<'w> {
    /// Of a skin and the triangles of it that have changed.
    pub fn of(
        grid: &'w Grid,
        extracted: &'w Extracted,
        has_changed: impl Fn(u32) -> bool + Sync,
    ) -> Self {
        let cells = |t: u32| cells(grid, extracted, t);
        let all = extracted.triangles.len();
        let those = |is_one: &(dyn Fn(u32) -> bool + Sync)| {
            chosen(all, 1024, |t| is_one(t as u32).then_some(t as u32))
        };
        let changed: Vec<u32> = those(&has_changed);
        let there: FxHashSet<Key> = changed.into_iter().flat_map(cells).collect();
        let triangles = those(&|t| cells(t).any(|cell| there.contains(&cell)));
        Self {
            changed: triangles.iter().map(|&t| has_changed(t)).collect(),
            triangles,
            extracted,
            grid,
        }
    }

    /// Those, by number, that meet others, or have changed and are slivers or crowded.
    pub fn unsound(&self) -> impl Iterator<Item = u32> + '_ {
        self.meeting().chain(self.slivers()).chain(self.crowded())
    }

    fn meeting(&self) -> impl Iterator<Item = u32> + '_ {
        let mut names: FxHashMap<VertexId, VertexId> = FxHashMap::default();
        let mut places: Vec<DVec3> = Vec::new();
        let mut own = |v: VertexId| {
            *names.entry(v).or_insert_with(|| {
                places.push(self.extracted.positions[v.index()]);
                VertexId::new(places.len() - 1)
            })
        };
        let corners = |&t: &u32| self.extracted.triangles[t as usize].map(&mut own);
        let triangles: Vec<[VertexId; 3]> = self.triangles.iter().map(corners).collect();
        let mesh = Mesh::from_triangles(places, &triangles).expect("of finite places");
        let faces: Vec<FaceId> = mesh.face_ids().collect();
        let stayed = |face: FaceId| !self.changed[face.index()];
        let contacts = Contacts::among(&mesh, &faces, |f, g| stayed(f) && stayed(g));
        let met = faces
            .into_iter()
            .filter(move |&face| contacts.touches(face));
        met.map(|face| self.triangles[face.index()])
    }

    fn changed(&self) -> impl Iterator<Item = u32> + '_ {
        let changed = self.triangles.iter().zip(&self.changed);
        changed.filter_map(|(&t, &changed)| changed.then_some(t))
    }

    fn slivers(&self) -> impl Iterator<Item = u32> + '_ {
        self.changed().filter(|&t| is_thin(self.extracted, t))
    }

    /// Those that have changed and come too near to others, or others to them.
    fn crowded(&self) -> impl Iterator<Item = u32> + '_ {
        let least = CROWDED * self.grid.cell;
        let names = |t: u32| self.extracted.triangles[t as usize].map(|v| v.0);
        let corners = |t: u32| {
            let corners = self.extracted.triangles[t as usize];
            corners.map(|v| self.extracted.positions[v.index()])
        };
        let bounds = |t: u32| {
            let [a, b, c] = corners(t);
            [a.min(b).min(c), a.max(b).max(c)]
        };
        let mut in_cell: FxHashMap<Key, Vec<u32>> = FxHashMap::default();
        // What lies on a sliver is not to blame for it.
        let is_thick = |t: &u32| !is_thin(self.extracted, *t);
        for t in self.changed().filter(is_thick) {
            for cell in self.cells(t) {
                in_cell.entry(cell).or_default().push(t);
            }
        }
        let near_of = |&t: &u32| {
            let [low, high] = bounds(t);
            let own = (corners(t), names(t));
            let mut near: Vec<u32> = self
                .cells(t)
                .filter_map(|cell| in_cell.get(&cell))
                .flatten()
                .copied()
                .filter(|&other| {
                    let [least_of, most_of] = bounds(other);
                    let is_beside =
                        (least_of - least).cmple(high).all() && (most_of + least).cmpge(low).all();
                    other != t && is_beside
                })
                .collect();
            near.sort_unstable();
            near.dedup();
            near.retain(|&other| are_nearer(least, own, (corners(other), names(other))));
            near
        };
        let crowded: Vec<u32> = listed_in_runs(self.triangles.len(), 256, |run, list| {
            let thick = self.triangles[run].iter().filter(|t| is_thick(t));
            list.extend(thick.flat_map(near_of));
        });
        crowded.into_iter()
    }

    /// The cells that a triangle is in or near.
    fn cells(&self, triangle: u32) -> impl Iterator<Item = Key> + use<> {
        cells(self.grid, self.extracted, triangle)
    }
}

/// The cells that a triangle's box reaches into, with as much round it as no other may be near.
fn cells(grid: &Grid, extracted: &Extracted, triangle: u32) -> impl Iterator<Item = Key> + use<> {
    let [a, b, c] = extracted.triangles[triangle as usize].map(|v| extracted.positions[v.index()]);
    let round = CROWDED * grid.cell;
    let low = grid.cell_of(a.min(b).min(c) - round);
    let high = grid.cell_of(a.max(b).max(c) + round);
    keys_between(low, high)
}
