//! What lies on what in the plane of a texture.
//!
//! Two triangles share more than their rims if no side of either has the other wholly beyond it (the
//! separating axes of two convex shapes); which side of a line a point is on is decided exactly. The area
//! that they share is that of the one clipped by the other (Sutherland & Hodgman 1974).

use super::Layout;
use crate::parallel::mapped;
use crate::predicates::side_of_line;
use crate::spatial::{BoxTree, overlap, rounded_outward};
use glam::DVec2;
use std::cmp::Ordering;

/// What reaches no further into another than this, in tiles, lies beside it: files have single precision.
pub const LITTLE: f64 = 1e-6;
/// The area shared is added up for this many of those that lie on a triangle; more than that cover it
/// many times.
const PARTNERS: usize = 64;

/// Which faces lie on others.
#[derive(Clone, Debug, PartialEq)]
pub struct Overlaps {
    /// By face, whether it does.
    pub faces: Vec<bool>,
    /// How much of all their area does, in tiles; what several others lie on counts once.
    pub area: f64,
}

impl Overlaps {
    /// Finds the faces that lie on others with the same texture. `texture` gives the one of a face.
    pub fn of(layout: &Layout<'_>, texture: impl Fn(usize) -> u32 + Sync) -> Self {
        // What is narrower than counts shares nothing that does.
        let is_wide = |corners: &[DVec2; 3]| area(corners) > LITTLE * longest(corners) / 2.0;
        let all = (0..layout.len()).map(|t| (t, anticlockwise(layout.triangle(t))));
        let (numbers, triangles): (Vec<usize>, Vec<[DVec2; 3]>) =
            all.filter(|(_, corners)| is_wide(corners)).unzip();
        let face = |t: usize| layout.face(numbers[t]);
        let of_texture = (0..triangles.len()).map(|t| texture(face(t).index()));
        let of_texture: Vec<u32> = of_texture.collect();
        let between = between_textures(&triangles, &of_texture);
        let flat = |t: usize| {
            let [a, b, c] = triangles[t];
            let height = between * f64::from(of_texture[t]);
            [a.min(b).min(c), a.max(b).max(c)].map(|end| end.extend(height))
        };
        let tree = BoxTree::new(triangles.len(), flat);
        let shared: Vec<f64> = mapped(triangles.len(), 512, |t| {
            let own = rounded_outward(flat(t));
            let mut partners = std::cell::Cell::new(0);
            let mut sum = 0.0;
            tree.visit(
                |bounds| partners.get() < PARTNERS && overlap(bounds, own),
                |place| {
                    let other = tree.order()[place] as usize;
                    // Pieces of one polygon lie side by side, or it is bent, which is its own
                    // matter.
                    let is_own = face(other) == face(t);
                    if is_own || of_texture[other] != of_texture[t] {
                        return;
                    }
                    if lie_on_each_other(&triangles[t], &triangles[other]) {
                        partners.set(partners.get() + 1);
                        sum += shared_area(&triangles[t], &triangles[other]);
                    }
                },
            );
            match partners.get_mut() {
                0 => 0.0,
                _ => sum.min(area(&triangles[t])).max(f64::MIN_POSITIVE),
            }
        });
        let mut faces = vec![false; layout.areas.len()];
        for (t, &shared) in shared.iter().enumerate() {
            faces[face(t).index()] |= shared > 0.0;
        }
        Self {
            faces,
            area: shared.iter().sum(),
        }
    }
}

/// How far above each other textures are laid, so that a search among triangles of one does not come
/// upon those of others, and all together are as high as they are wide.
fn between_textures(triangles: &[[DVec2; 3]], of_texture: &[u32]) -> f64 {
    let (mut low, mut high) = (DVec2::INFINITY, DVec2::NEG_INFINITY);
    for &p in triangles.iter().flatten() {
        (low, high) = (low.min(p), high.max(p));
    }
    let count = of_texture
        .iter()
        .max()
        .map_or(1.0, |&last| f64::from(last) + 1.0);
    (high - low).max_element().max(1.0) / count
}

fn anticlockwise([a, b, c]: [DVec2; 3]) -> [DVec2; 3] {
    match side_of_line(a, b, c) {
        Ordering::Less => [a, c, b],
        _ => [a, b, c],
    }
}

fn area([a, b, c]: &[DVec2; 3]) -> f64 {
    (b - a).perp_dot(c - a) / 2.0
}

fn longest([a, b, c]: &[DVec2; 3]) -> f64 {
    a.distance(*b).max(b.distance(*c)).max(c.distance(*a))
}

/// Whether two triangles that run anticlockwise share more than what rounding makes of rims.
fn lie_on_each_other(one: &[DVec2; 3], other: &[DVec2; 3]) -> bool {
    let none_apart = |one: &[DVec2; 3], other: &[DVec2; 3]| {
        (0..3).all(|i| {
            let (a, b) = (one[i], one[(i + 1) % 3]);
            let is_inside = |p: &DVec2| {
                let reach = (b - a).normalize_or_zero().perp_dot(*p - a);
                side_of_line(a, b, *p) == Ordering::Greater && reach > LITTLE
            };
            other.iter().any(is_inside)
        })
    };
    none_apart(one, other) && none_apart(other, one)
}

/// The area that two triangles that run anticlockwise share.
fn shared_area(one: &[DVec2; 3], other: &[DVec2; 3]) -> f64 {
    let mut rest: Vec<DVec2> = one.to_vec();
    for i in 0..3 {
        let (a, b) = (other[i], other[(i + 1) % 3]);
        let left = |p: DVec2| (b - a).perp_dot(p - a);
        let mut cut = Vec::with_capacity(rest.len() + 1);
        for (k, &p) in rest.iter().enumerate() {
            let q = rest[(k + 1) % rest.len()];
            let (l, m) = (left(p), left(q));
            if l >= 0.0 {
                cut.push(p);
            }
            if (l > 0.0 && m < 0.0) || (l < 0.0 && m > 0.0) {
                cut.push(p.lerp(q, l / (l - m)));
            }
        }
        rest = cut;
    }
    let Some((&first, others)) = rest.split_first() else {
        return 0.0;
    };
    let pairs = others.windows(2);
    let twice: f64 = pairs
        .map(|pair| (pair[0] - first).perp_dot(pair[1] - first))
        .sum();
    twice.max(0.0) / 2.0
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn point() -> impl Strategy<Value = DVec2> {
        (0..8i8, 0..8i8).prop_map(|(x, y)| DVec2::new(x.into(), y.into()) / 8.0)
    }

    proptest! {
        #[test]
        fn what_is_shared_is_what_a_fine_grid_says(corners in prop::array::uniform6(point())) {
            let [a, b, c, d, e, f] = corners;
            let (one, other) = (anticlockwise([a, b, c]), anticlockwise([d, e, f]));
            prop_assume!(area(&one) > 0.0 && area(&other) > 0.0);
            let inside = |t: &[DVec2; 3], p: DVec2| {
                (0..3).all(|i| (t[(i + 1) % 3] - t[i]).perp_dot(p - t[i]) > 0.0)
            };
            const FINE: usize = 400;
            let mut hits = 0;
            for x in 0..FINE {
                for y in 0..FINE {
                    let p = DVec2::new(x as f64 + 0.37, y as f64 + 0.61) / FINE as f64;
                    hits += usize::from(inside(&one, p) && inside(&other, p));
                }
            }
            let counted = hits as f64 / (FINE * FINE) as f64;
            let found = shared_area(&one, &other);
            prop_assert!((found - counted).abs() < 0.006, "{} {}", found, counted);
            prop_assert_eq!(lie_on_each_other(&one, &other), found > 1e-12);
            prop_assert!((shared_area(&other, &one) - found).abs() < 1e-12);
        }
    }

    #[test]
    fn rims_that_rounding_pushes_into_each_other_lie_side_by_side() {
        let one = [DVec2::ZERO, DVec2::X, DVec2::Y];
        let beside = |by: f64| [DVec2::X - by, DVec2::ONE, DVec2::Y - by];
        assert!(!lie_on_each_other(&one, &beside(0.0)));
        assert!(!lie_on_each_other(&one, &beside(1e-7)));
        assert!(lie_on_each_other(&one, &beside(1e-5)));
    }
}
