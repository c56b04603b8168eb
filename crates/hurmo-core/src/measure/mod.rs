//! Sizes: bounds, area, volume, and how far one surface lies from another.

mod deviation;
mod evenness;
mod parts;
mod quad_shape;

pub(crate) use deviation::area_samples;
pub use deviation::{
    Deviation, EachWay, Reference, deviation, deviation_of_new, one_way_deviation,
};
pub use evenness::{EVEN, Evenness, NARROW};
pub use parts::{Floating, PartMeasure, floating_parts, part_measures, parts_measured};
pub use quad_shape::{QuadShape, SHARP_OR_FLAT, SQUARE};

use crate::geometry::{Bounds, vector_area_of};
use crate::mesh::{FaceId, Mesh};
use crate::parallel::of_runs;
use glam::DVec3;
use std::ops::Range;

/// Bounds of the vertices that faces use.
pub fn bounds(mesh: &Mesh) -> Option<Bounds> {
    let used = mesh.used_vertices();
    let positions = mesh.positions().iter().zip(used);
    Bounds::of(positions.filter(|(_, used)| *used).map(|(&p, _)| p))
}

/// The vector area of a face: its length is the area, its direction the normal. Worked out
/// about the face's first corner, so that it stays exact far from the origin.
#[inline]
pub fn vector_area(mesh: &Mesh, face: FaceId) -> DVec3 {
    vector_area_of(mesh.face_points(face))
}

/// Six times the signed volume between a polygon and `origin`.
#[inline]
pub fn signed_volume_term(mesh: &Mesh, face: FaceId, origin: DVec3) -> f64 {
    let mut points = mesh.face_points(face).map(|p| p - origin);
    let (Some(first), Some(mut previous)) = (points.next(), points.next()) else {
        return 0.0;
    };
    let mut sum = 0.0;
    for point in points {
        sum += first.dot(previous.cross(point));
        previous = point;
    }
    sum
}

/// Sum of all face areas, in square units.
pub fn area(mesh: &Mesh) -> f64 {
    let of_run = |faces: Range<usize>| {
        let faces = faces.map(FaceId::new);
        faces.map(|face| vector_area(mesh, face).length()).sum()
    };
    let runs: Vec<f64> = of_runs(mesh.face_count(), RUN, of_run);
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

/// Faces are summed in runs of this many: sums don't depend on the number of threads.
const RUN: usize = 1 << 14;

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
    let runs: Vec<(f64, DVec3)> = of_runs(mesh.face_count(), RUN, of_run);
    let (sum, areas) = runs
        .into_iter()
        .fold((0.0, DVec3::ZERO), |a, b| (a.0 + b.0, a.1 + b.1));
    let rounding = area * 1e-12;
    match areas.length() > rounding {
        true => sum + areas.dot(middle) / 3.0,
        false => sum,
    }
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
