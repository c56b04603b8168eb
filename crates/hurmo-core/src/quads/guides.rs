//! Lines that quads are to run along, drawn near the surface.

use super::even::FINER;
use super::surface::{NONE, Surface};
use crate::remesh::EvenSurface;
use crate::spatial::TriangleTree;
use glam::{DVec2, DVec3};
use rustc_hash::FxHashMap;

/// How far from the surface a guide may lie, in sides of quads.
pub(super) const FAR: f64 = 2.0;
/// How far apart places on guides are looked at, in sides of triangles.
const STEP: f64 = 0.25;
/// How far guides go on beyond their ends, in sides of quads.
const LONGER: f64 = 2.0;

/// By triangle of an even surface, which way guides run over it.
#[derive(Default)]
pub(super) struct ByTriangle(FxHashMap<u32, DVec3>);

impl ByTriangle {
    /// Of guides as pieces of lines, for quads with sides of about `edge`.
    pub fn of(even: &EvenSurface, guides: &[[DVec3; 2]], edge: f64) -> Self {
        let mut ways: FxHashMap<u32, DVec3> = FxHashMap::default();
        if guides.is_empty() {
            return Self(ways);
        }
        let corners = |t: usize| even.triangles[t].map(|v| even.positions[v as usize]);
        let tree = TriangleTree::new(even.triangles.len(), corners);
        for [from, to] in lengthened(guides, LONGER * edge) {
            let count = (from.distance(to) / (edge * FINER * STEP)).ceil().max(1.0) as usize;
            for i in 0..=count {
                let at = from.lerp(to, i as f64 / count as f64);
                let near = tree.closest(at);
                if let Some(near) = near.filter(|near| near.distance_squared < (FAR * edge).powi(2))
                {
                    // A line has no direction: ways that run against each other are turned.
                    let way = ways.entry(near.triangle).or_default();
                    let along = (to - from).normalize_or_zero();
                    *way += if way.dot(along) < 0.0 { -along } else { along };
                }
            }
        }
        Self(ways)
    }

    /// By triangle of a piece of the surface, which way guides run over it or the triangles beside it, in its plane.
    pub fn on(&self, surface: &Surface) -> Vec<Option<DVec2>> {
        let own = |t: u32| self.0.get(&surface.origins[t as usize]).copied();
        let triangles = 0..surface.triangles.len() as u32;
        let ways = triangles.map(|t| {
            let beside = (3 * t..3 * t + 3).map(|half_edge| surface.across[half_edge as usize]);
            let mut beside = beside.filter(|&other| other != NONE);
            let way = own(t).or_else(|| beside.find_map(|other| own(other / 3)))?;
            surface.in_plane(t, way).try_normalize()
        });
        match self.0.is_empty() {
            true => vec![None; surface.triangles.len()],
            false => ways.collect(),
        }
    }
}

/// Guides that go on straight for a length beyond where they end, so that quads follow them up to there.
fn lengthened(guides: &[[DVec3; 2]], by: f64) -> Vec<[DVec3; 2]> {
    let bits = |at: DVec3| at.to_array().map(f64::to_bits);
    let mut ends: FxHashMap<[u64; 3], u32> = FxHashMap::default();
    for &end in guides.as_flattened() {
        *ends.entry(bits(end)).or_default() += 1;
    }
    let longer = guides.iter().map(|&[from, to]| {
        let along = (to - from).normalize_or_zero() * by;
        let beyond = |end: DVec3, way: DVec3| match ends[&bits(end)] {
            1 => end + way,
            _ => end,
        };
        [beyond(from, -along), beyond(to, along)]
    });
    longer.collect()
}
