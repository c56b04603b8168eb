//! Points alone: boxes, angles, areas of polygons.

mod bounds;

pub use bounds::Bounds;

use glam::DVec3;

/// The angle at a corner between the ways to two others, in radians; none where one lies on it.
pub fn corner_angle(here: DVec3, ends: [DVec3; 2]) -> f64 {
    let [one, other] = ends.map(|end| end - here);
    match one == DVec3::ZERO || other == DVec3::ZERO {
        true => 0.0,
        false => one.angle_between(other),
    }
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
