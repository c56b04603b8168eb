//! Exact answers to yes/no questions (Shewchuk 1997, by the `robust` crate).

mod meet;

pub use meet::{
    meet_beyond_corner, meet_beyond_edge, on_one_line, segment_meets_triangle, side_of_plane,
    triangles_meet,
};

use glam::{DVec2, DVec3};
use robust::Coord;
use std::cmp::Ordering;

/// On which side of the line from `a` to `b` lies `c`: `Greater` is left.
#[inline]
pub fn side_of_line(a: DVec2, b: DVec2, c: DVec2) -> Ordering {
    let coord = |p: DVec2| Coord { x: p.x, y: p.y };
    let turn = robust::orient2d(coord(a), coord(b), coord(c));
    turn.partial_cmp(&0.0).unwrap_or(Ordering::Equal)
}

/// The flat frame of a polygon: a point of the space becomes a point of the plane such that a
/// polygon with this normal runs anticlockwise.
pub fn flatten(normal: DVec3) -> impl Fn(DVec3) -> DVec2 {
    let (u, v) = match normal.try_normalize() {
        Some(unit) => unit.any_orthonormal_pair(),
        None => (DVec3::X, DVec3::Y),
    };
    // Guard against a pair of the other handedness.
    let v = if u.cross(v).dot(normal) < 0.0 { -v } else { v };
    move |p| DVec2::new(p.dot(u), p.dot(v))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nearly_collinear_points_are_told_apart() {
        let (a, b) = (DVec2::new(0.5, 0.5), DVec2::new(12.0, 12.0));
        let just_left = DVec2::new(24.0, 24.0f64.next_up());
        assert_eq!(side_of_line(a, b, DVec2::splat(24.0)), Ordering::Equal);
        assert_eq!(side_of_line(a, b, just_left), Ordering::Greater);
    }

    #[test]
    fn flattening_keeps_the_turn() {
        for normal in [DVec3::X, -DVec3::Y, DVec3::new(1.0, -2.0, 0.5)] {
            let flat = flatten(normal);
            let (u, v) = normal.normalize().any_orthonormal_pair();
            let v = if u.cross(v).dot(normal) < 0.0 { -v } else { v };
            assert_eq!(
                side_of_line(flat(DVec3::ZERO), flat(u), flat(u + v)),
                Ordering::Greater
            );
        }
    }
}
