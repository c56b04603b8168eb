//! Fairing a patch: moving its new vertices so that it goes on as the surface round it does.
//!
//! ```text
//! tight ─▶ no bending asked for: the mean curvature is nought      (a soap film)
//! round ─▶ the mean curvature is that of the surroundings, spread evenly over the patch
//! ```
//!
//! Laplacians have cotangent weights (Pinkall & Polthier 1993; with areas, Meyer, Desbrun,
//! Schröder & Barr 2003). A soap film solves the first-order system. The round patch is a
//! least-squares solution of the second-order one (Botsch & Kobbelt 2004): at every vertex of
//! the patch and of its border the Laplacian is to be the wanted curvature along the normal,
//! where the border's rings reach into the surroundings, so that the patch leaves the border
//! smoothly. Normals and weights depend on the result, so it is solved several times. Cost:
//! a sparse Cholesky factor a round.

use super::patch::Patch;
use crate::fairing::Laplacians;
use crate::geometry::vector_area_of;
use crate::sparse::{Rows, solved};
use glam::DVec3;

/// The triangles round a border, over the patch's border vertices and further ones.
#[derive(Clone, Debug, Default)]
pub(super) struct Surroundings {
    /// Positions of the further vertices: after those of the border in `triangles`.
    pub points: Vec<DVec3>,
    /// Vertex numbers: below the border's size its own, from there on those of `points`.
    pub triangles: Vec<[u32; 3]>,
    /// For each of `points`, whether all triangles at it are here.
    pub complete: Vec<bool>,
}

const ROUNDS: usize = 8;
/// No round surface bulges further than this many times as far as its border lies from its middle.
const FURTHEST: f64 = 3.0;
/// A film's weights are those of the film before it.
const FILMS: usize = 3;
/// A film that moves less than this share of a border edge has come to rest.
const NEAR: f64 = 0.05;

/// Moves the new vertices to a soap film; says whether that could be solved.
pub(super) fn tight(patch: &mut Patch) -> bool {
    for _ in 0..FILMS {
        let all = Disc::of(patch, &Surroundings::default());
        let Some(points) = all.film() else {
            return false;
        };
        let moved = all.furthest_moved(&points);
        patch.move_to(&points);
        if moved <= NEAR * all.border_length() / patch.border as f64 {
            break;
        }
    }
    true
}

/// Values at all vertices of a patch from those at its border: each new vertex has the weighted
/// mean of its neighbours.
pub(super) fn spread(patch: &Patch, at_border: &[DVec3]) -> Option<Vec<DVec3>> {
    let mut values = at_border.to_vec();
    if patch.points.len() > patch.border {
        let disc = Disc::of(patch, &Surroundings::default());
        values.extend(disc.means(|v| at_border.get(v).copied())?);
    }
    Some(values)
}

/// Moves the new vertices so that the curvature of the surroundings goes on; says whether that
/// could be solved.
pub(super) fn round(patch: &mut Patch, around: &Surroundings) -> bool {
    let start = Disc::of(patch, around);
    let Some(bend) = start.bend(patch, around) else {
        return false;
    };
    let length = start.border_length();
    let mut last = f64::INFINITY;
    for _ in 0..ROUNDS {
        let disc = Disc::of(patch, around);
        let Some(points) = disc.bent(&bend) else {
            return false;
        };
        if disc.furthest_from_border(&points) > FURTHEST {
            return false;
        }
        let moved = disc.furthest_moved(&points);
        // Where no such surface spans the border, it would grow without end.
        if moved > 1.2 * last {
            break;
        }
        last = moved;
        patch.move_to(&points);
        if moved <= 1e-4 * length {
            break;
        }
    }
    true
}

/// A patch with what lies round it: border vertices first, then new ones, then further ones.
struct Disc {
    surface: Laplacians,
    border: usize,
    /// Border and new vertices.
    own: usize,
}

impl Disc {
    fn of(patch: &Patch, around: &Surroundings) -> Self {
        let (border, own) = (patch.border, patch.points.len());
        let outside = |v: u32| match v as usize {
            v if v < border => v as u32,
            v => (v - border + own) as u32,
        };
        let mut points = patch.points.clone();
        points.extend_from_slice(&around.points);
        let further = around.triangles.iter().map(|t| t.map(outside));
        let triangles: Vec<[u32; 3]> = patch.triangles.iter().copied().chain(further).collect();
        Self {
            surface: Laplacians::of(points, &triangles),
            border,
            own,
        }
    }

    fn border_length(&self) -> f64 {
        (0..self.border)
            .map(|v| self.surface.points[v].distance(self.surface.points[(v + 1) % self.border]))
            .sum()
    }

    /// How far a new vertex is at most from where it is to come to lie.
    fn furthest_moved(&self, to: &[DVec3]) -> f64 {
        let from = &self.surface.points[self.border..self.own];
        let steps = from.iter().zip(to).map(|(old, new)| old.distance(*new));
        steps.fold(0.0, f64::max)
    }

    /// How far a point is at most from the middle of the border, in times of how far the border
    /// is.
    fn furthest_from_border(&self, points: &[DVec3]) -> f64 {
        let border = &self.surface.points[..self.border];
        let middle = border.iter().sum::<DVec3>() / self.border as f64;
        let furthest = |points: &[DVec3]| {
            let distances = points.iter().map(|p| p.distance(middle));
            distances.fold(0.0, f64::max)
        };
        furthest(points) / furthest(border)
    }

    /// Where new vertices come to lie when each is the mean of its neighbours.
    fn film(&self) -> Option<Vec<DVec3>> {
        let known = |v: usize| (v < self.border).then(|| self.surface.points[v]);
        self.means(known)
    }

    /// Solves for values at the new vertices that are the weighted means of their neighbours'.
    fn means(&self, known: impl Fn(usize) -> Option<DVec3>) -> Option<Vec<DVec3>> {
        let count = self.own - self.border;
        let mut lower = Vec::new();
        let mut right = vec![DVec3::ZERO; count];
        for (i, right) in right.iter_mut().enumerate() {
            let mut sum = 0.0;
            for &(j, weight) in self.surface.neighbours(i + self.border) {
                sum += weight;
                match known(j as usize) {
                    Some(value) => *right += value * weight,
                    None => {
                        let j = j - self.border as u32;
                        if j < i as u32 {
                            lower.push((i as u32, j, -weight));
                        }
                    }
                }
            }
            lower.push((i as u32, i as u32, sum));
        }
        solved(&Rows::summed(count, lower), &right)
    }

    /// The wanted curvature: for border and new vertices, how far along the normal the
    /// Laplacian points, for each unit of area.
    fn bend(&self, patch: &Patch, around: &Surroundings) -> Option<Vec<f64>> {
        let further = |v: usize| v >= self.own && around.complete[v - self.own];
        let outer = |v: usize| {
            let along = self.surface.at(v).dot(self.surface.normal(v));
            along / self.surface.areas[v].max(f64::MIN_POSITIVE)
        };
        let mut at_border: Vec<Option<f64>> = (0..self.border)
            .map(|v| {
                let neighbours = self.surface.neighbours(v).iter().map(|&(j, _)| j as usize);
                let bends: Vec<f64> = neighbours.filter(|&j| further(j)).map(outer).collect();
                let mean = bends.iter().sum::<f64>() / bends.len() as f64;
                (!bends.is_empty()).then_some(mean)
            })
            .collect();
        let known_bends: Vec<f64> = at_border.iter().flatten().copied().collect();
        if known_bends.is_empty() {
            return None;
        }
        let mean = known_bends.iter().sum::<f64>() / known_bends.len() as f64;
        // No rounder than a ball with the border round its middle: of a circle, twice the area
        // over the length is the radius; of a slot, its width.
        let area = vector_area_of(self.surface.points[..self.border].iter().copied()).length();
        let most = 2.1 * self.border_length() / (2.0 * area).max(f64::MIN_POSITIVE);
        // A scan's noise is taken out along the border.
        for _ in 0..(self.border / 8).clamp(2, 40) {
            at_border = (0..self.border)
                .map(|v| {
                    let beside = [
                        (v + self.border - 1) % self.border,
                        v,
                        (v + 1) % self.border,
                    ];
                    let sum: f64 = beside.iter().map(|&v| at_border[v].unwrap_or(mean)).sum();
                    Some(sum / 3.0)
                })
                .collect();
        }
        let value = |v: usize| at_border[v].unwrap_or(mean).clamp(-most, most);
        let known = |v: usize| (v < self.border).then(|| DVec3::splat(value(v)));
        let inside = match patch.points.len() > self.border {
            true => self.means(known)?,
            false => Vec::new(),
        };
        let border = (0..self.border).map(value);
        Some(border.chain(inside.into_iter().map(|v| v.x)).collect())
    }

    /// Where new vertices come to lie when Laplacians are to be as wanted.
    fn bent(&self, bend: &[f64]) -> Option<Vec<DVec3>> {
        let count = self.own - self.border;
        let new = |v: usize| {
            (self.border..self.own)
                .contains(&v)
                .then(|| v - self.border)
        };
        let wanted = bend.iter().enumerate().map(|(row, bend)| {
            let turned = *bend * self.surface.areas[row];
            (row, self.surface.normal(row) * turned)
        });
        self.surface.bent(wanted, new, count)
    }
}
