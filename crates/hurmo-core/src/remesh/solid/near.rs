//! Whether triangles of the skin that have changed meet others.

use super::grid::{Grid, Key, keys_between};
use super::weave::Woven;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::spatial::Contacts;
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};

/// No triangle's longest edge may be so many times its height.
const SLIVER: f64 = 50.0;

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
        }
    }

    /// Those, by number, that meet others, or have changed and are slivers.
    pub fn unsound(&self) -> impl Iterator<Item = u32> + '_ {
        self.meeting().chain(self.slivers())
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

    fn slivers(&self) -> impl Iterator<Item = u32> + '_ {
        let changed = self.triangles.iter().zip(&self.changed);
        changed.filter_map(|(&t, &changed)| (changed && is_thin(self.woven, t)).then_some(t))
    }
}
