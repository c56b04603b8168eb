//! Comparing two surfaces: how far each lies from the other, and what else differs.
//!
//! ```text
//! each way ─┬─ corners ─▶ branch and bound ───────────▶ the largest distance, and what it is
//!           │                                            at most
//!           └─ samples, even over the area ──▶ closest ─▶ rms, mean, shares, normals
//! ```
//!
//! Distances are exact, from points to triangles through a hierarchy. Cost: a query a corner and
//! a sample each way, and those of the search for the farthest point.
//!
//! ```
//! use hurmo_core::compare::{CompareOptions, compare};
//! use hurmo_core::shapes;
//!
//! let (coarse, fine) = (shapes::sphere(1.0, 2), shapes::sphere(1.0, 4));
//! let apart = compare(&coarse, &fine, &CompareOptions::default(), &())?.expect("both have faces");
//! // What was found, and what is proved: nothing lies farther off than that.
//! assert!(apart.max().distance > 0.0 && apart.max().distance <= apart.at_most());
//! # Ok::<(), hurmo_core::Failure>(())
//! ```

mod hausdorff;
mod keeps;
mod shape;

pub use hausdorff::Farthest;
pub use shape::Shape;

use crate::measure::area_samples;
use crate::mesh::Mesh;
use crate::parallel::mapped;
use crate::progress::{Failure, Observer};
use crate::spatial::TriangleTree;
use crate::triangulate::all_triangles;
use glam::DVec3;
use hausdorff::FarthestSearch;
use rayon::prelude::*;

/// How to compare.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct CompareOptions {
    /// How many samples over the area of each surface.
    pub samples: usize,
    /// A distance that matters: where the bound on the largest one is above it, it is tried to
    /// prove that the surfaces stay within it all the same.
    pub within: Option<f64>,
}

impl Default for CompareOptions {
    fn default() -> Self {
        Self {
            samples: 200_000,
            within: None,
        }
    }
}

/// How far one surface lies from another, in units of length.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct OneWay {
    /// The largest distance.
    pub max: Farthest,
    /// The root of the mean square over the area.
    pub rms: f64,
    /// The mean over the area.
    pub mean: f64,
    /// Half of the area lies nearer than this, 90% of it, 99% of it.
    pub nearer: [f64; 3],
    /// By how much faces turn away from those that they lie nearest to: the mean over the area,
    /// and what 99% of it stays under, in degrees.
    pub turned: [f64; 2],
    /// How many samples were taken.
    pub samples: usize,
}

/// Two surfaces, compared.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct Comparison {
    /// How far the first lies from the second: what was lost.
    pub from_before: OneWay,
    /// How far the second lies from the first: what was added.
    pub from_after: OneWay,
    /// The shapes of both's triangles.
    pub shapes: [Shape; 2],
    /// The diagonal of the first's bounds.
    pub diagonal: f64,
}

impl Comparison {
    /// The larger of the largest distances.
    pub fn max(&self) -> &Farthest {
        let [there, back] = [&self.from_before.max, &self.from_after.max];
        if back.distance > there.distance {
            back
        } else {
            there
        }
    }

    /// What no distance either way is above.
    pub fn at_most(&self) -> f64 {
        self.from_before
            .max
            .at_most
            .max(self.from_after.max.at_most)
    }
}

/// Compares two surfaces. `None` when one of them has no face.
///
/// # Errors
/// When an option makes no sense, or the observer says to stop.
pub fn compare(
    before: &Mesh,
    after: &Mesh,
    options: &CompareOptions,
    observer: &dyn Observer,
) -> Result<Option<Comparison>, Failure> {
    Failure::unless_length("within", options.within)?;
    let Some(bounds) = crate::measure::bounds(before) else {
        return Ok(None);
    };
    observer.begin("comparing", 2);
    let from_before = one_way(before, after, options);
    observer.check()?;
    observer.at(1);
    let from_after = one_way(after, before, options);
    observer.check()?;
    Ok(from_before
        .zip(from_after)
        .map(|(from_before, from_after)| Comparison {
            from_before,
            from_after,
            shapes: [before, after].map(Shape::of),
            diagonal: bounds.diagonal(),
        }))
}

/// Whether it is proved that two surfaces lie nowhere further apart than a limit, either way.
pub fn stay_within(one: &Mesh, two: &Mesh, limit: f64) -> bool {
    lies_within(one, two, limit) && lies_within(two, one, limit)
}

/// Whether it is proved that no point of one surface lies further from another than a limit.
fn lies_within(from: &Mesh, to: &Mesh, limit: f64) -> bool {
    let to = Target::of(to);
    to.search(from)
        .is_some_and(|search| search.stays_within(limit))
}

/// A surface that distances are measured to.
pub(crate) struct Target {
    triangles: Vec<[DVec3; 3]>,
    tree: TriangleTree,
}

impl Target {
    /// Of the triangles of a mesh.
    pub fn of(mesh: &Mesh) -> Self {
        let triangles = corners(mesh);
        let tree = TriangleTree::new(triangles.len(), |i| triangles[i]);
        Self { triangles, tree }
    }

    /// The triangle nearest to each of some points, where there is any.
    pub fn nearest(&self, points: &[DVec3]) -> Vec<Option<u32>> {
        let found = self.tree.closest_to_each(points).into_iter();
        found.map(|found| Some(found?.triangle)).collect()
    }

    /// The triangles of a mesh for which it is not proved that they lie within a limit: the number of
    /// each, and a place on it for which it is not.
    pub fn beyond(&self, from: &Mesh, limit: f64) -> Vec<(usize, DVec3)> {
        let search = self.search(from);
        search.map_or_else(Vec::new, |search| search.beyond(limit))
    }

    fn search(&self, from: &Mesh) -> Option<FarthestSearch<'_>> {
        FarthestSearch::new(from, &self.triangles, &self.tree)
    }
}

/// For every vertex of `from` that a face uses, how far it lies from `to`; not finite for others.
pub fn distances(from: &Mesh, to: &Mesh) -> Vec<f64> {
    let found = Target::of(to).tree.closest_to_each(from.positions());
    let each = found.into_iter().zip(from.used_vertices());
    each.map(|(found, used)| {
        let found = found.filter(|_| used);
        found.map_or(f64::NAN, |found| found.distance_squared.sqrt())
    })
    .collect()
}

fn corners(mesh: &Mesh) -> Vec<[DVec3; 3]> {
    let (triangles, _) = all_triangles(mesh);
    let place = |v: crate::mesh::VertexId| mesh.position(v);
    triangles.into_iter().map(|t| t.map(place)).collect()
}

fn one_way(from: &Mesh, to: &Mesh, options: &CompareOptions) -> Option<OneWay> {
    let other = Target::of(to);
    let search = other.search(from)?;
    let normal = |[a, b, c]: [DVec3; 3]| (b - a).cross(c - a);
    let samples = area_samples(from, options.samples);
    let points: Vec<DVec3> = samples.iter().map(|(point, _)| *point).collect();
    let closest = other.tree.closest_to_each(&points);
    let found: Vec<(f64, f64)> = mapped(samples.len(), 256, |sample| {
        let found = closest[sample].expect("the tree is not empty");
        let own = crate::measure::vector_area(from, samples[sample].1);
        let there = normal(other.triangles[found.triangle as usize]);
        let cosine = own.dot(there) / (own.length() * there.length());
        let turned = match cosine.is_finite() {
            true => cosine.clamp(-1.0, 1.0).acos().to_degrees(),
            false => 0.0,
        };
        (found.distance_squared.sqrt(), turned)
    });
    let farthest = samples.iter().zip(&found);
    let farthest = farthest.max_by(|a, b| a.1.0.total_cmp(&b.1.0));
    let mut max = search.farthest(farthest.map(|((point, _), _)| *point));
    if let Some(within) = options.within.filter(|&within| within < max.at_most)
        && search.stays_within(within)
    {
        max.at_most = within;
    }
    let count = found.len().max(1) as f64;
    let sorted = |which: fn(&(f64, f64)) -> f64| {
        let mut list: Vec<f64> = found.iter().map(which).collect();
        list.par_sort_unstable_by(f64::total_cmp);
        list
    };
    let (off, turned) = (sorted(|f| f.0), sorted(|f| f.1));
    let share = |list: &[f64], share: f64| {
        let place = (share * list.len() as f64) as usize;
        list.get(place.min(list.len().saturating_sub(1)))
            .copied()
            .unwrap_or(0.0)
    };
    Some(OneWay {
        rms: (off.iter().map(|d| d * d).sum::<f64>() / count).sqrt(),
        mean: off.iter().sum::<f64>() / count,
        nearer: [0.5, 0.9, 0.99].map(|part| share(&off, part)),
        turned: [turned.iter().sum::<f64>() / count, share(&turned, 0.99)],
        samples: found.len(),
        max,
    })
}

#[cfg(test)]
mod tests;
