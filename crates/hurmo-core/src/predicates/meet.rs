//! Whether triangles meet, decided exactly.
//!
//! Everything comes down to the signs of 2×2 and 3×3 determinants. Two triangles that share no
//! vertex meet exactly when an edge of one meets the other. Triangles that share one vertex
//! meet elsewhere exactly when the edge of one that lies opposite meets the other: what they
//! have in common is convex, so from the shared vertex it reaches as far as one of those
//! edges. Triangles that share an edge meet elsewhere only when folded flat onto each other.

use super::side_of_line;
use glam::{DVec2, DVec3, Vec3Swizzles};
use robust::Coord3D;
use std::cmp::Ordering::{self, Equal, Greater, Less};

/// On which side of the plane through `a`, `b` and `c` lies `d`: `Greater` is that from which
/// the three run clockwise.
#[inline]
pub fn side_of_plane(a: DVec3, b: DVec3, c: DVec3, d: DVec3) -> Ordering {
    // Shewchuk's first estimate, here in the open: it settles nearly all cases.
    let (u, v, w) = (a - d, b - d, c - d);
    // Flat along an axis: exactly so, and too common to leave to the exact sums.
    let none = |x: f64, y: f64, z: f64| x == 0.0 && y == 0.0 && z == 0.0;
    if none(u.z, v.z, w.z) || none(u.y, v.y, w.y) || none(u.x, v.x, w.x) {
        return Equal;
    }
    let (bc, ca, ab) = (
        (v.x * w.y, w.x * v.y),
        (w.x * u.y, u.x * w.y),
        (u.x * v.y, v.x * u.y),
    );
    let determinant = u.z * (bc.0 - bc.1) + v.z * (ca.0 - ca.1) + w.z * (ab.0 - ab.1);
    let size = u.z.abs() * (bc.0.abs() + bc.1.abs())
        + v.z.abs() * (ca.0.abs() + ca.1.abs())
        + w.z.abs() * (ab.0.abs() + ab.1.abs());
    let doubt = 8.0 * f64::EPSILON * size;
    if determinant > doubt {
        Greater
    } else if determinant < -doubt {
        Less
    } else {
        exact_side_of_plane(a, b, c, d)
    }
}

#[cold]
fn exact_side_of_plane(a: DVec3, b: DVec3, c: DVec3, d: DVec3) -> Ordering {
    let coord = |p: DVec3| Coord3D {
        x: p.x,
        y: p.y,
        z: p.z,
    };
    let side = robust::orient3d(coord(a), coord(b), coord(c), coord(d));
    side.partial_cmp(&0.0).unwrap_or(Equal)
}

/// Whether three points lie on one line.
pub fn on_one_line([a, b, c]: [DVec3; 3]) -> bool {
    // An area in any projection that rounding can't have made settles nearly all cases.
    let (left, right) = products(b - a, c - a);
    let doubt = 4.0 * f64::EPSILON * (left.abs() + right.abs()) + f64::MIN_POSITIVE;
    if (left - right).abs().cmpgt(doubt).any() {
        return false;
    }
    projections().all(|flat| side_of_line(flat(a), flat(b), flat(c)) == Equal)
}

/// The products whose differences are the cross product of two vectors.
fn products(p: DVec3, q: DVec3) -> (DVec3, DVec3) {
    (p.yzx() * q.zxy(), p.zxy() * q.yzx())
}

/// The three ways of dropping a coordinate; none of them rounds.
fn projections() -> impl Iterator<Item = fn(DVec3) -> DVec2> {
    let all: [fn(DVec3) -> DVec2; 3] = [
        |p| DVec2::new(p.x, p.y),
        |p| DVec2::new(p.y, p.z),
        |p| DVec2::new(p.z, p.x),
    ];
    all.into_iter()
}

/// Whether a segment and a triangle have a point in common, borders included. The triangle's
/// corners must not lie on one line.
pub fn segment_meets_triangle(p: DVec3, q: DVec3, [a, b, c]: [DVec3; 3]) -> bool {
    let sides = (side_of_plane(a, b, c, p), side_of_plane(a, b, c, q));
    match sides {
        (Greater, Greater) | (Less, Less) => false,
        (Equal, Equal) => flat_segment_meets_triangle(p, q, [a, b, c]),
        // One end lies in the plane, or the ends lie on both sides of it: the line through
        // them pierces the plane in one point, on the same side of all three edges if inside.
        (Equal, _) => pierces(q, p, [a, b, c]),
        _ => pierces(p, q, [a, b, c]),
    }
}

fn pierces(p: DVec3, q: DVec3, [a, b, c]: [DVec3; 3]) -> bool {
    let first = side_of_plane(p, q, a, b);
    let second = side_of_plane(p, q, b, c);
    if first != Equal && second == first.reverse() {
        return false;
    }
    let third = side_of_plane(p, q, c, a);
    let any = |wanted| first == wanted || second == wanted || third == wanted;
    !(any(Greater) && any(Less))
}

/// The same in the plane of the triangle.
fn flat_segment_meets_triangle(p: DVec3, q: DVec3, [a, b, c]: [DVec3; 3]) -> bool {
    let Some(flat) = projections().find(|flat| side_of_line(flat(a), flat(b), flat(c)) != Equal)
    else {
        return false;
    };
    let [p, q, a, b, c] = [p, q, a, b, c].map(flat);
    let (b, c) = match side_of_line(a, b, c) {
        Less => (c, b),
        _ => (b, c),
    };
    let inside = |point| {
        [(a, b), (b, c), (c, a)]
            .iter()
            .all(|&(from, to)| side_of_line(from, to, point) != Less)
    };
    inside(p)
        || inside(q)
        || [(a, b), (b, c), (c, a)]
            .iter()
            .any(|&(from, to)| flat_segments_meet(p, q, from, to))
}

fn flat_segments_meet(p: DVec2, q: DVec2, a: DVec2, b: DVec2) -> bool {
    let (pa, pb) = (side_of_line(p, q, a), side_of_line(p, q, b));
    let (ap, aq) = (side_of_line(a, b, p), side_of_line(a, b, q));
    if [pa, pb, ap, aq] == [Equal; 4] {
        let apart = |x: fn(DVec2) -> f64| {
            x(p).max(x(q)) < x(a).min(x(b)) || x(a).max(x(b)) < x(p).min(x(q))
        };
        return !apart(|v| v.x) && !apart(|v| v.y);
    }
    let parts = |s: Ordering, t: Ordering| s == Equal || t == Equal || s != t;
    parts(pa, pb) && parts(ap, aq)
}

/// Whether two triangles have a point in common, borders included. Neither triangle's corners
/// may lie on one line.
pub fn triangles_meet(s: [DVec3; 3], t: [DVec3; 3]) -> bool {
    if beyond(s, t) || beyond(t, s) {
        return false;
    }
    let edges = |t: [DVec3; 3]| [(t[0], t[1]), (t[1], t[2]), (t[2], t[0])];
    edges(s)
        .iter()
        .any(|&(p, q)| may_meet(p, q, t) && segment_meets_triangle(p, q, t))
        || edges(t)
            .iter()
            .any(|&(p, q)| may_meet(p, q, s) && segment_meets_triangle(p, q, s))
}

/// Whether three points lie strictly on one side of the plane through three others.
fn beyond([a, b, c]: [DVec3; 3], points: [DVec3; 3]) -> bool {
    // One estimate of the plane serves all three points; only what it leaves open is asked again.
    let (u, v) = (b - a, c - a);
    let (left, right) = products(u, v);
    let (normal, size) = (left - right, left.abs() + right.abs());
    let side = |point: DVec3| {
        let w = point - a;
        let (height, doubt) = (normal.dot(w), 8.0 * f64::EPSILON * size.dot(w.abs()));
        if height > doubt {
            // The three run counter-clockwise from here.
            Less
        } else if height < -doubt {
            Greater
        } else {
            side_of_plane(a, b, c, point)
        }
    };
    let first = side(points[0]);
    first != Equal && side(points[1]) == first && side(points[2]) == first
}

/// Whether two triangles with the common corner `v` have another point in common.
pub fn meet_beyond_corner(v: DVec3, [a, b]: [DVec3; 2], [c, d]: [DVec3; 2]) -> bool {
    let meets =
        |p: DVec3, q: DVec3, t: [DVec3; 3]| may_meet(p, q, t) && segment_meets_triangle(p, q, t);
    meets(a, b, [v, c, d]) || meets(c, d, [v, a, b])
}

/// Whether the boxes round a segment and a triangle overlap.
#[inline]
fn may_meet(p: DVec3, q: DVec3, [a, b, c]: [DVec3; 3]) -> bool {
    let (low, high) = (p.min(q), p.max(q));
    low.cmple(a.max(b).max(c)).all() && a.min(b).min(c).cmple(high).all()
}

/// Whether two triangles with the common edge `uv` have a point beside it in common.
pub fn meet_beyond_edge(u: DVec3, v: DVec3, a: DVec3, b: DVec3) -> bool {
    if side_of_plane(u, v, a, b) != Equal {
        return false;
    }
    projections().any(|flat| {
        let sides = [a, b].map(|p| side_of_line(flat(u), flat(v), flat(p)));
        sides[0] == sides[1] && sides[0] != Equal
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    const TRIANGLE: [DVec3; 3] = [DVec3::ZERO, DVec3::X, DVec3::Y];

    #[test]
    fn touching_counts_and_a_hair_less_does_not() {
        let above = DVec3::new(0.25, 0.25, 1.0);
        let hair = f64::MIN_POSITIVE;
        let foot = |z| DVec3::new(0.25, 0.25, z);
        assert!(segment_meets_triangle(above, foot(0.0), TRIANGLE));
        assert!(!segment_meets_triangle(above, foot(hair), TRIANGLE));
        let edge = DVec3::new(0.5, 0.5, -1.0);
        let beside = DVec3::new(0.5f64.next_up(), 0.5, -1.0);
        assert!(segment_meets_triangle(
            edge,
            edge + DVec3::Z * 2.0,
            TRIANGLE
        ));
        assert!(!segment_meets_triangle(
            beside,
            beside + DVec3::Z * 2.0,
            TRIANGLE
        ));
    }

    #[test]
    fn the_estimate_and_the_exact_answer_have_one_sign() {
        let mut state = 9u64;
        let mut number = || {
            state = state
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1);
            (state >> 40) as f64 / 1e4
        };
        for i in 0..2000 {
            let [a, b, c] = [0; 3].map(|_| DVec3::new(number(), number(), number()));
            let on = a.lerp(b, 0.3).lerp(c, 0.4);
            let d = on + DVec3::splat(1e-16 * f64::from(i % 40) * on.x);
            assert_eq!(side_of_plane(a, b, c, d), exact_side_of_plane(a, b, c, d));
        }
        let [a, b, c] = TRIANGLE;
        assert_eq!(side_of_plane(a, b, c, -DVec3::Z), Greater);
        assert_eq!(exact_side_of_plane(a, b, c, -DVec3::Z), Greater);
    }

    #[test]
    fn beyond_a_plane_is_three_times_on_one_side_of_it() {
        let mut state = 5u64;
        let mut number = || {
            state = state
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1);
            (state >> 61) as f64 - 3.0
        };
        let mut counts = [0; 2];
        for _ in 0..5000 {
            let [s, t] = [0; 2].map(|_| [0; 3].map(|_| DVec3::new(number(), number(), number())));
            let sides = t.map(|p| side_of_plane(s[0], s[1], s[2], p));
            let expected = sides == [Greater; 3] || sides == [Less; 3];
            assert_eq!(beyond(s, t), expected);
            counts[usize::from(expected)] += 1;
        }
        assert!(counts.iter().all(|&count| count > 500), "{counts:?}");
    }

    #[test]
    fn flat_neighbours_meet_only_when_folded_over() {
        let [u, v, a] = TRIANGLE;
        assert!(!meet_beyond_edge(u, v, a, -DVec3::Y));
        assert!(meet_beyond_edge(u, v, a, DVec3::new(5.0, 0.1, 0.0)));
        assert!(!meet_beyond_edge(u, v, a, DVec3::new(5.0, 0.1, 1e-300)));
        let tall = [DVec3::Z, DVec3::new(0.0, 1.0, 1.0)];
        assert!(!meet_beyond_corner(
            DVec3::ZERO,
            [DVec3::X, DVec3::new(1.0, 1.0, 0.0)],
            tall
        ));
        let through = [DVec3::new(1.0, 0.5, 1.0), DVec3::new(1.0, 0.5, -1.0)];
        assert!(meet_beyond_corner(
            DVec3::ZERO,
            [DVec3::X, DVec3::new(1.0, 1.0, 0.0)],
            through
        ));
    }
}
