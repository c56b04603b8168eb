//! Whether triangles of the skin that have changed are sound: meet no others, are no slivers, and
//! have no vertex all but where another is, so that formats of single precision can tell them apart.

use super::grid::{Grid, Key, keys_between};
use super::weave::Woven;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::spatial::Contacts;
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};

/// No triangle's longest edge may be so many times its height.
const SLIVER: f64 = 50.0;
/// No two vertices are so near to each other, as a share of the cell.
pub const CROWDED: f64 = 0.001;

/// Whether a triangle is a sliver, or has no area.
pub fn is_thin(woven: &Woven, triangle: u32) -> bool {
    let [a, b, c] = woven.triangles[triangle as usize].map(|v| woven.positions[v.index()]);
    let longest = a.distance(b).max(b.distance(c)).max(c.distance(a));
    // Twice the area is the longest edge times the height on it.
    SLIVER * (b - a).cross(c - a).length() <= longest * longest
}

/// Triangles of the skin that have changed, and all that are near them.
pub struct Near<'w> {
    woven: &'w Woven,
    cell: f64,
    /// By number in the skin.
    triangles: Vec<u32>,
    /// Whether each is one of those that have changed.
    changed: Vec<bool>,
}

impl<'w> Near<'w> {
    /// Of a skin and the triangles of it that have changed.
    pub fn of(grid: &Grid, woven: &'w Woven, has_changed: impl Fn(u32) -> bool + Sync) -> Self {
        let cells = |t: u32| {
            let [a, b, c] = woven.triangles[t as usize].map(|v| woven.positions[v.index()]);
            let low = grid.cell_of(a.min(b).min(c));
            let high = grid.cell_of(a.max(b).max(c));
            keys_between(low, high)
        };
        let all = || (0..woven.triangles.len() as u32).into_par_iter();
        let changed: Vec<u32> = all()
            .with_min_len(1024)
            .filter(|&t| has_changed(t))
            .collect();
        let there: FxHashSet<Key> = changed.into_iter().flat_map(cells).collect();
        let triangles: Vec<u32> = all()
            .with_min_len(1024)
            .filter(|&t| cells(t).any(|cell| there.contains(&cell)))
            .collect();
        Self {
            changed: triangles.iter().map(|&t| has_changed(t)).collect(),
            triangles,
            woven,
            cell: grid.cell,
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
                places.push(self.woven.positions[v.index()]);
                VertexId::new(places.len() - 1)
            })
        };
        let corners = |&t: &u32| self.woven.triangles[t as usize].map(&mut own);
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
        self.changed().filter(|&t| is_thin(self.woven, t))
    }

    fn crowded(&self) -> impl Iterator<Item = u32> + '_ {
        let corners = |t: u32| self.woven.triangles[t as usize];
        let at = |v: VertexId| self.woven.positions[v.index()];
        let least = CROWDED * self.cell;
        let block = |place: DVec3| (place / (2.0 * least)).floor().as_i64vec3().to_array();
        let changed: FxHashSet<VertexId> = self.changed().flat_map(corners).collect();
        let mut blocks: FxHashMap<[i64; 3], Vec<VertexId>> = FxHashMap::default();
        for &v in &changed {
            blocks.entry(block(at(v))).or_default().push(v);
        }
        let near: FxHashSet<VertexId> = self.triangles.iter().copied().flat_map(corners).collect();
        let mut crowded: FxHashSet<VertexId> = FxHashSet::default();
        for v in near {
            let [low, high] = [-least, least].map(|by| block(at(v) + by));
            for x in low[0]..=high[0] {
                for y in low[1]..=high[1] {
                    for z in low[2]..=high[2] {
                        let others = blocks.get(&[x, y, z]).into_iter().flatten();
                        let is_near = |&&w: &&VertexId| w != v && at(w).distance(at(v)) < least;
                        for &other in others.filter(is_near) {
                            crowded.extend([v, other]);
                        }
                    }
                }
            }
        }
        let is_crowded = move |&t: &u32| corners(t).iter().any(|v| crowded.contains(v));
        self.changed().filter(is_crowded)
    }
}
