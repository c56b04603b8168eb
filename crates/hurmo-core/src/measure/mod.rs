//! Sizes: bounds, area, volume, and how far one surface lies from another.

mod deviation;
mod evenness;
mod parts;

pub(crate) use deviation::area_samples;
pub use deviation::{
    Deviation, EachWay, Reference, deviation, deviation_of_new, one_way_deviation,
};
pub use evenness::{EVEN, Evenness, NARROW};
pub use parts::{Floating, PartMeasure, floating_parts, part_measures, parts_measured};

use crate::mesh::{FaceId, Mesh};
use crate::topology::signed_volume_term;
use glam::DVec3;
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::Serialize;
use std::ops::Range;

/// A box along the axes.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Bounds {
    /// The least coordinates.
    #[schemars(with = "[f64; 3]")]
    pub min: DVec3,
    /// The greatest coordinates.
    #[schemars(with = "[f64; 3]")]
    pub max: DVec3,
}

impl Bounds {
    /// The bounds of some points; `None` when there are none.
    pub fn of(points: impl IntoIterator<Item = DVec3>) -> Option<Self> {
        let mut points = points.into_iter();
        let first = points.next()?;
        let start = Self {
            min: first,
            max: first,
        };
        Some(points.fold(start, |bounds, p| Self {
            min: bounds.min.min(p),
            max: bounds.max.max(p),
        }))
    }

    /// The box that holds nothing; what it takes in makes it one that does.
    pub const NOTHING: Bounds = Bounds {
        min: DVec3::INFINITY,
        max: DVec3::NEG_INFINITY,
    };

    /// Grows to hold a point.
    #[inline]
    pub fn take_in(&mut self, point: DVec3) {
        self.min = self.min.min(point);
        self.max = self.max.max(point);
    }

    /// Whether the other box lies within this one, borders included.
    pub fn holds(&self, other: &Bounds) -> bool {
        self.min.cmple(other.min).all() && other.max.cmple(self.max).all()
    }

    /// Length of the diagonal.
    pub fn diagonal(&self) -> f64 {
        self.size().length()
    }

    /// Edge lengths.
    pub fn size(&self) -> DVec3 {
        self.max - self.min
    }

    /// The middle.
    pub fn middle(&self) -> DVec3 {
        (self.min + self.max) / 2.0
    }
}

/// Bounds of the vertices that faces use.
pub fn bounds(mesh: &Mesh) -> Option<Bounds> {
    let used = mesh.used_vertices();
    let positions = mesh.positions().iter().zip(used);
    Bounds::of(positions.filter(|(_, used)| *used).map(|(&p, _)| p))
}

/// The angle at a corner between the ways to two others, in radians; none where one lies on it.
pub fn corner_angle(here: DVec3, ends: [DVec3; 2]) -> f64 {
    let [one, other] = ends.map(|end| end - here);
    match one == DVec3::ZERO || other == DVec3::ZERO {
        true => 0.0,
        false => one.angle_between(other),
    }
}

/// The vector area of a face: its length is the area, its direction the normal. Worked out
/// about the face's first corner, so that it stays exact far from the origin.
#[inline]
pub fn vector_area(mesh: &Mesh, face: FaceId) -> DVec3 {
    vector_area_of(mesh.face_points(face))
}

/// The vector area of a polygon.
#[inline]
pub fn vector_area_of(mut points: impl Iterator<Item = DVec3>) -> DVec3 {
    let (Some(first), Some(second)) = (points.next(), points.next()) else {
        return DVec3::ZERO;
    };
    let mut sum = DVec3::ZERO;
    let mut previous = second - first;
    for point in points {
        let here = point - first;
        sum += previous.cross(here);
        previous = here;
    }
    sum / 2.0
}

/// Sum of all face areas, in square units.
pub fn area(mesh: &Mesh) -> f64 {
    let of_run = |faces: Range<usize>| {
        let faces = faces.map(FaceId::new);
        faces.map(|face| vector_area(mesh, face).length()).sum()
    };
    let runs: Vec<f64> = runs(mesh.face_count()).map(of_run).collect();
    runs.into_iter().sum()
}

/// The signed volume between the faces and the origin, in cubic units: what a closed surface
/// encloses, positive when it faces outward. Of an open surface it depends on where the origin
/// is, and means little.
pub fn volume(mesh: &Mesh) -> f64 {
    match bounds(mesh) {
        Some(bounds) => volume_about(mesh, &bounds, area(mesh)),
        None => 0.0,
    }
}

/// Faces are summed in runs of so many: sums don't depend on the number of threads.
const RUN: usize = 1 << 14;

/// The runs that so many faces are summed in.
fn runs(faces: usize) -> impl IndexedParallelIterator<Item = Range<usize>> {
    let begin = (0..faces.div_ceil(RUN)).into_par_iter();
    begin.map(move |run| run * RUN..((run + 1) * RUN).min(faces))
}

/// [`volume`], when bounds and area are known already.
pub(crate) fn volume_about(mesh: &Mesh, bounds: &Bounds, area: f64) -> f64 {
    // Summed about the middle, where least is lost to rounding. The correction for the origin
    // is nothing for a closed surface: its vector areas cancel.
    let middle = bounds.middle();
    let of_run = |faces: Range<usize>| {
        faces.fold((0.0, DVec3::ZERO), |(sum, areas), face| {
            let face = FaceId::new(face);
            let volume = signed_volume_term(mesh, face, middle) / 6.0;
            (sum + volume, areas + vector_area(mesh, face))
        })
    };
    let runs: Vec<(f64, DVec3)> = runs(mesh.face_count()).map(of_run).collect();
    let (sum, areas) = runs
        .into_iter()
        .fold((0.0, DVec3::ZERO), |a, b| (a.0 + b.0, a.1 + b.1));
    let rounding = area * 1e-12;
    match areas.length() > rounding {
        true => sum + areas.dot(middle) / 3.0,
        false => sum,
    }
}

/// How far a polygon's corners lie off its best plane, as a share of its longest edge. The plane
/// is taken across the polygon's vector area, halfway between the corners that lie furthest off
/// on either side.
pub fn off_plane(points: impl Iterator<Item = DVec3> + Clone) -> f64 {
    let normal = vector_area_of(points.clone()).normalize_or_zero();
    let mut points = points;
    let Some(first) = points.next() else {
        return 0.0;
    };
    let (mut low, mut high, mut longest, mut last) = (0.0f64, 0.0f64, 0.0f64, first);
    for point in points.chain([first]) {
        let off = (point - first).dot(normal);
        (low, high) = (low.min(off), high.max(off));
        longest = longest.max(last.distance(point));
        last = point;
    }
    (high - low) / 2.0 / longest.max(f64::MIN_POSITIVE)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;
    use std::f64::consts::PI;

    #[test]
    fn box_measures_are_exact() {
        let mesh = shapes::cuboid(DVec3::splat(100.0), DVec3::new(101.0, 102.0, 103.0), 4);
        assert!((area(&mesh) - 22.0).abs() < 1e-9);
        assert!((volume(&mesh) - 6.0).abs() < 1e-9);
        assert_eq!(bounds(&mesh).unwrap().size(), DVec3::new(1.0, 2.0, 3.0));
    }

    #[test]
    fn sphere_and_torus_come_near_their_closed_forms() {
        let sphere = shapes::sphere(2.0, 6);
        assert!((area(&sphere) / (16.0 * PI) - 1.0).abs() < 1e-3);
        assert!((volume(&sphere) / (32.0 / 3.0 * PI) - 1.0).abs() < 1e-3);
        let torus = shapes::torus(3.0, 1.0, 400, 200);
        assert!((area(&torus) / (12.0 * PI * PI) - 1.0).abs() < 1e-3);
        assert!((volume(&torus) / (6.0 * PI * PI) - 1.0).abs() < 1e-3);
    }

    #[test]
    fn open_volume_is_taken_about_the_origin() {
        let mut mesh = Mesh::default();
        let corners = [DVec3::X, DVec3::Y, DVec3::Z].map(|p| mesh.push_vertex(p));
        mesh.push_face(corners);
        assert!((volume(&mesh) - 1.0 / 6.0).abs() < 1e-15);
    }
}
