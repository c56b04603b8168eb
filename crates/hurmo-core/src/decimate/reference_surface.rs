//! The first surface, as places on a reduced one see it: how far off it they lie.
//!
//! Samples of the first surface say nothing of what stands out between them: a vertex that is moved
//! for their sake may make a spike that none of them lies nearest to. So places on every face of the
//! reduced surface look up the first one, too. Cost: a tree over the first surface, and some queries
//! for every face and round.

use super::reduce::Reduction;
use super::samples::Sample;
use super::vertex_refit::Sums;
use crate::mesh::Mesh;
use crate::parallel::mapped_of;
use crate::spatial::TriangleTree;
use crate::triangulate::all_triangles;
use glam::DVec3;
use rayon::prelude::*;

/// Where on a face: shares of its corners, and of its area for which the place stands (seven points,
/// exact to the fifth degree: Cowper 1973, Gaussian quadrature formulas for triangles).
const PLACES: [([f64; 3], f64); 7] = [
    ([1.0 / 3.0, 1.0 / 3.0, 1.0 / 3.0], 0.225),
    ([A, B, B], 0.132_394_152_788_506),
    ([B, A, B], 0.132_394_152_788_506),
    ([B, B, A], 0.132_394_152_788_506),
    ([C, D, D], 0.125_939_180_544_827),
    ([D, C, D], 0.125_939_180_544_827),
    ([D, D, C], 0.125_939_180_544_827),
];
const A: f64 = 0.059_715_871_789_770;
const B: f64 = 0.470_142_064_105_115;
const C: f64 = 0.797_426_985_353_087;
const D: f64 = 0.101_286_507_323_456;

/// More triangles than this round a vertex are too many, as a mean.
const DEAR: f64 = 512.0;
/// This many triangles are looked at in one round, at most.
const MOST_WORK: f64 = 1e8;

/// The first surface, ready to be asked.
pub(super) struct FirstSurface {
    tree: TriangleTree,
    normals: Vec<DVec3>,
    area: f64,
}

/// How a reduced surface lies to the first one.
pub(super) struct Back {
    /// What its places say, by face.
    pub sums: Vec<Sums>,
    /// By face, the sum of what they lie off, to the fourth power.
    pub fourths: Vec<f64>,
}

impl FirstSurface {
    pub fn of(first: &Mesh) -> Self {
        let (triangles, _) = all_triangles(first);
        let corners = |t: &[crate::mesh::VertexId; 3]| t.map(|v| first.position(v));
        let normals: Vec<DVec3> = mapped_of(&triangles, 1, |t| {
            let [a, b, c] = corners(t);
            (b - a).cross(c - a)
        });
        Self {
            tree: TriangleTree::new(triangles.len(), |i| corners(&triangles[i])),
            area: normals.iter().map(|n| n.length() / 2.0).sum(),
            normals,
        }
    }

    /// Whether look-ups here and back go through too many triangles, or walks round vertices do:
    /// where all lies equally near to everything, is long and thin, or meets at few vertices.
    pub fn is_dear(&self, samples: &[Sample], reduction: &Reduction) -> bool {
        let linked = &reduction.linked;
        let living = || (0..linked.places() as u32).filter_map(|t| linked.triangle(t));
        let faces: Vec<[DVec3; 3]> = living().map(|face| linked.points(face)).collect();
        let places: Vec<DVec3> = samples.iter().map(|sample| sample.at).collect();
        let middles: Vec<DVec3> = faces
            .iter()
            .map(|f| f.iter().sum::<DVec3>() / 3.0)
            .collect();
        let vertices = 0..linked.positions.len() as u32;
        let walks: f64 = vertices.map(|v| (linked.degree(v) as f64).powi(2)).sum();
        let there = TriangleTree::new(faces.len(), |i| faces[i]);
        let look_ups = there.mean_cost(&places) * places.len() as f64
            + self.tree.mean_cost(&middles) * (PLACES.len() * faces.len()) as f64;
        walks > DEAR * 3.0 * faces.len() as f64 || look_ups > MOST_WORK
    }

    /// How far places on faces lie off it. Each place counts like this many samples as fall on its
    /// share of the area, of all that `samples` spreads over the surface. `hints` remembers by face
    /// what lay nearest.
    pub fn seen_from(
        &self,
        faces: &[[DVec3; 3]],
        (samples, usual): (usize, f64),
        hints: &mut Vec<[u32; 7]>,
    ) -> Back {
        hints.resize(faces.len(), [u32::MAX; 7]);
        let per_area = samples as f64 / self.area.max(f64::MIN_POSITIVE);
        let each: Vec<(Sums, f64)> = faces
            .par_iter()
            .zip(hints.par_iter_mut())
            .with_min_len(256)
            .map(|(face, hints)| self.seen_from_face(*face, per_area, usual, hints))
            .collect();
        let (sums, fourths) = each.into_iter().unzip();
        Back { sums, fourths }
    }

    /// How far vertices lie off it, to the fourth power: a spike is highest at its tip.
    pub fn off_at(&self, places: &[DVec3]) -> Vec<f64> {
        let found = self.tree.closest_to_each(places);
        let off = found
            .into_iter()
            .map(|found| found.map_or(0.0, |f| f.distance_squared));
        off.map(|squared| squared * squared).collect()
    }

    fn seen_from_face(
        &self,
        face: [DVec3; 3],
        per_area: f64,
        usual: f64,
        hints: &mut [u32; 7],
    ) -> (Sums, f64) {
        let [a, b, c] = face;
        let twice = (b - a).cross(c - a);
        let mut sums = Sums::default();
        let mut fourths = 0.0;
        let Some(normal) = twice.try_normalize() else {
            return (sums, fourths);
        };
        let samples = per_area * twice.length() / 2.0;
        for ((shares, of_area), hint) in PLACES.iter().zip(hints) {
            let counts = samples * of_area;
            let at = a * shares[0] + b * shares[1] + c * shares[2];
            let Some(found) = self.tree.closest_from(at, *hint) else {
                continue;
            };
            *hint = found.triangle;
            fourths += counts * found.distance_squared.powi(2);
            let way = found.point - at;
            let off = way.dot(normal);
            let there = self.normals[found.triangle as usize];
            let looks_along = there.dot(normal) > 0.2 * there.length();
            if looks_along && off.abs() >= 0.5 * way.length() {
                sums.add(*shares, off, usual, counts);
            }
        }
        (sums, fourths)
    }
}
