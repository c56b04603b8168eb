//! Whether a surface is a height field: seen along an axis, its triangles lie side by side, so
//! no two of them meet away from what they share.
//!
//! That is so when its border, seen that way, doesn't meet itself, and all triangles turn the way
//! the border does: then each point of the plane is covered as often as the border goes round it,
//! once within and never without. Dropping a coordinate rounds nothing, so the answer is exact.
//! Cost: near-linear.

use super::patch::Patch;
use crate::geometry::vector_area_of;
use crate::predicates::side_of_line;
use crate::spatial::{overlapping_pairs, rounded_outward};
use glam::{DVec2, DVec3};
use std::cmp::Ordering;
use std::sync::atomic::{AtomicBool, Ordering::Relaxed};

/// A look along an axis at a border, which runs anticlockwise then.
#[derive(Clone, Copy, Debug)]
pub(super) struct Look {
    /// The coordinate that is not seen.
    pub axis: usize,
    seen: [usize; 2],
}

impl Look {
    /// Along the axis that is most square to a border's plane.
    pub fn at(border: &[DVec3]) -> Self {
        let normal = vector_area_of(border.iter().copied());
        let axis = normal.abs().max_position();
        let seen = match normal[axis] > 0.0 {
            true => [(axis + 1) % 3, (axis + 2) % 3],
            false => [(axis + 2) % 3, (axis + 1) % 3],
        };
        Self { axis, seen }
    }

    fn flat(self, p: DVec3) -> DVec2 {
        DVec2::from(self.seen.map(|axis| p[axis]))
    }

    /// Whether a triangle runs anticlockwise, too.
    pub fn is_forth(self, corners: [DVec3; 3]) -> bool {
        let [a, b, c] = corners.map(|p| self.flat(p));
        side_of_line(a, b, c) == Ordering::Greater
    }
}

impl Patch {
    /// How to look at this surface to see it as a height field, if it surely is one.
    pub fn as_height_field(&self) -> Option<Look> {
        let border = &self.points[..self.border];
        let look = Look::at(border);
        let flat: Vec<DVec2> = border.iter().map(|&p| look.flat(p)).collect();
        let corners = |t: &[u32; 3]| t.map(|v| self.points[v as usize]);
        let all_forth = self.triangles.iter().all(|t| look.is_forth(corners(t)));
        (all_forth && is_simple(&flat)).then_some(look)
    }
}

/// Whether a polygon surely doesn't meet itself.
fn is_simple(polygon: &[DVec2]) -> bool {
    let count = polygon.len();
    let ends = |i: usize| [polygon[i], polygon[(i + 1) % count]];
    let bounds = |i: usize| {
        let [a, b] = ends(i);
        rounded_outward([a.min(b).extend(0.0), a.max(b).extend(0.0)])
    };
    let meets = AtomicBool::new(false);
    overlapping_pairs(count, bounds, |i, j| {
        let pair = match (i + 1) % count == j || (j + 1) % count == i {
            true if (i + 1) % count == j => turns_back(ends(i), ends(j)),
            true => turns_back(ends(j), ends(i)),
            false => may_meet(ends(i), ends(j)),
        };
        if pair {
            meets.store(true, Relaxed);
        }
    });
    !meets.into_inner()
}

/// Whether a side lies on the one before it.
fn turns_back([a, b]: [DVec2; 2], [_, c]: [DVec2; 2]) -> bool {
    side_of_line(a, b, c) == Ordering::Equal && (b - a).dot(c - b) <= 0.0
}

/// Whether two segments cross, touch or lie on one line.
fn may_meet([a, b]: [DVec2; 2], [c, d]: [DVec2; 2]) -> bool {
    let across = |one: Ordering, two: Ordering| one != two || one == Ordering::Equal;
    across(side_of_line(a, b, c), side_of_line(a, b, d))
        && across(side_of_line(c, d, a), side_of_line(c, d, b))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn a_spiral_over_itself_is_no_height_field() {
        // Once and a half round, all of its triangles turning one way.
        let steps = 30;
        let turn = |i: usize| std::f64::consts::TAU * 1.5 * i as f64 / steps as f64;
        let ring = |radius: f64| {
            move |i: usize| DVec3::new(radius * turn(i).cos(), radius * turn(i).sin(), 0.0)
        };
        let mut points: Vec<_> = (0..=steps).map(ring(2.0)).collect();
        points.extend((0..=steps).rev().map(ring(1.0)));
        let last = points.len() - 1;
        let strip = (0..steps).flat_map(|i| {
            let [a, b, c, d] = [i, i + 1, last - i - 1, last - i].map(|v| v as u32);
            [[a, b, c], [a, c, d]]
        });
        let patch = Patch::over(points, strip.collect());
        let forth = |t: &[u32; 3]| {
            let [a, b, c] = t.map(|v| patch.points[v as usize].truncate());
            side_of_line(a, b, c) == Ordering::Greater
        };
        assert!(patch.triangles.iter().all(forth));
        assert!(patch.as_height_field().is_none());
    }

    proptest! {
        /// Against every two sides, held against each other by where their lines cut.
        #[test]
        fn simple_is_what_has_no_two_sides_that_meet(
            points in prop::collection::vec(prop::array::uniform2(0.0..1.0f64), 3..12),
        ) {
            let polygon: Vec<DVec2> = points.into_iter().map(DVec2::from).collect();
            let count = polygon.len();
            let cut = |i: usize, j: usize| {
                let (a, b) = (polygon[i], polygon[(i + 1) % count]);
                let (c, d) = (polygon[j], polygon[(j + 1) % count]);
                let across = (b - a).perp_dot(d - c);
                let (s, t) = ((c - a).perp_dot(d - c) / across, (c - a).perp_dot(b - a) / across);
                (0.0..=1.0).contains(&s) && (0.0..=1.0).contains(&t)
            };
            let apart = |i: usize, j: usize| (i + 1) % count != j && (j + 1) % count != i;
            let meets = (0..count).any(|i| (0..i).any(|j| apart(i, j) && cut(i, j)));
            prop_assert_eq!(is_simple(&polygon), !meets);
        }
    }
}
