//! Whether a plane separates two sets of triangles.
//!
//! An axis is sought on which all corners of one set lie beyond those of the other. The first ones
//! run along each set's summed area and across its longest edges. The last runs from middle to
//! middle; while it fails, it is reflected by the corners that lie deepest in the other set
//! (separating vectors: Chung & Wang 1996). A yes is sure: the margin is many times what rounding
//! makes. A no is not. Cost: linear in corners, for at most twelve axes.

use glam::DVec3;

/// How many axes are tried beyond the first.
const STEPS: usize = 7;

/// Whether a plane surely lies between two sets of triangles.
pub(super) fn are_separated(sets: [&[[DVec3; 3]]; 2]) -> bool {
    let corners = |set: usize| sets[set].as_flattened().iter().copied();
    let largest = |set: usize| corners(set).fold(0.0, |most, p| p.abs().max_element().max(most));
    let margin = 32.0 * f64::EPSILON * largest(0).max(largest(1));
    let middle = |set: usize| corners(set).sum::<DVec3>() / (3 * sets[set].len()) as f64;
    let area = |set: usize| {
        let area = |&[a, b, c]: &[DVec3; 3]| (b - a).cross(c - a);
        sets[set].iter().map(area).sum::<DVec3>()
    };
    // Along an axis: the least of the first set and the greatest of the second.
    let deepest = |axis: DVec3| {
        let (mut least, mut most) = (
            (f64::INFINITY, DVec3::ZERO),
            (f64::NEG_INFINITY, DVec3::ZERO),
        );
        for p in corners(0) {
            let along = p.dot(axis);
            if along < least.0 {
                least = (along, p);
            }
        }
        for q in corners(1) {
            let along = q.dot(axis);
            if along > most.0 {
                most = (along, q);
            }
        }
        least.1 - most.1
    };
    let is_apart = |axis: DVec3, gap: DVec3| axis.dot(gap) > margin;
    let across = middle(0) - middle(1);
    let [one, two] = [area(0), area(1)];
    // Of long thin triangles side by side: square to their length, and to that and their area.
    let along = |set: usize| {
        let longest = |&[a, b, c]: &[DVec3; 3]| {
            let edges = [b - a, c - b, a - c];
            let longer = |p: DVec3, q: DVec3| {
                if p.length_squared() < q.length_squared() {
                    q
                } else {
                    p
                }
            };
            edges.into_iter().fold(DVec3::ZERO, longer)
        };
        let alike = |sum: DVec3, edge: DVec3| sum + edge * edge.dot(sum).signum();
        sets[set].iter().map(longest).fold(DVec3::ZERO, alike)
    };
    let along = [along(0), along(1)].map(DVec3::normalize_or_zero);
    let length = (along[0] + along[1] * along[0].dot(along[1]).signum()).normalize_or_zero();
    let beside = across - across.dot(length) * length;
    for axis in [one, two, beside, length.cross(one + two)] {
        let axis = axis.normalize_or_zero() * axis.dot(across).signum();
        if is_apart(axis, deepest(axis)) {
            return true;
        }
    }
    let mut axis = across.normalize_or_zero();
    for _ in 0..=STEPS {
        let gap = deepest(axis);
        if is_apart(axis, gap) {
            return true;
        }
        let by = gap.normalize_or_zero();
        if axis == DVec3::ZERO || by == DVec3::ZERO {
            return false;
        }
        axis = (axis - 2.0 * axis.dot(by) * by).normalize_or_zero();
    }
    false
}

/// The same for triangles that have one corner in common, given by their other two: whether a plane
/// through it surely lies between the sets. Each corner's angle to the plane is far more than
/// rounding turns it by.
pub(super) fn are_separated_round(at: DVec3, sets: [&[[DVec3; 2]]; 2]) -> bool {
    const LEAST_SINE: f64 = 64.0 * f64::EPSILON;
    let ways = |set: usize| {
        let corners = sets[set].iter().flatten();
        corners.map(move |&p| (p - at).normalize_or_zero())
    };
    let middle = |set: usize| ways(set).sum::<DVec3>().normalize_or_zero();
    let mut axis = (middle(0) - middle(1)).normalize_or_zero();
    for _ in 0..=STEPS {
        let least = ways(0).min_by(|p, q| p.dot(axis).total_cmp(&q.dot(axis)));
        let most = ways(1).max_by(|p, q| p.dot(axis).total_cmp(&q.dot(axis)));
        let [least, most] = [least, most].map(Option::unwrap_or_default);
        let [above, below] = [least.dot(axis), -most.dot(axis)];
        if above.min(below) > LEAST_SINE {
            return true;
        }
        let by = if above < below { least } else { most };
        if axis == DVec3::ZERO || by == DVec3::ZERO {
            return false;
        }
        axis = (axis - 2.0 * axis.dot(by) * by).normalize_or_zero();
    }
    false
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::predicates::{meet_beyond_corner, triangles_meet};
    use proptest::prelude::*;

    fn points<const N: usize>() -> impl Strategy<Value = [DVec3; N]> {
        let along = || (-8i8..=8).prop_map(f64::from);
        let point = (along(), along(), along()).prop_map(|(x, y, z)| DVec3::new(x, y, z));
        prop::collection::vec(point, N).prop_map(|list| list.try_into().unwrap())
    }

    proptest! {
        #[test]
        fn sets_that_a_plane_separates_do_not_meet(
            one in prop::collection::vec(points::<3>(), 1..4),
            other in prop::collection::vec(points::<3>(), 1..4),
            away in points::<1>(),
        ) {
            let other: Vec<_> = other.iter().map(|t| t.map(|p| p + away[0])).collect();
            if are_separated([&one, &other]) {
                for &a in &one {
                    prop_assert!(other.iter().all(|&b| !triangles_meet(a, b)));
                }
            }
        }

        #[test]
        fn fans_that_a_plane_separates_meet_at_their_corner_alone(
            at in points::<1>(),
            one in prop::collection::vec(points::<2>(), 1..4),
            other in prop::collection::vec(points::<2>(), 1..4),
        ) {
            if are_separated_round(at[0], [&one, &other]) {
                for &a in &one {
                    prop_assert!(other.iter().all(|&b| !meet_beyond_corner(at[0], a, b)));
                }
            }
        }
    }

    #[test]
    fn what_lies_apart_askew_is_found_to() {
        // Needles side by side, whose boxes all but coincide.
        let needle = |i: f64| {
            let at = DVec3::new(-i, i, 0.0) * 1e-3;
            [
                at,
                at + DVec3::new(5.0, 5.0, 5.0),
                at + DVec3::new(1.0, 1.0, 1.1),
            ]
        };
        let row: Vec<_> = (0..40).map(|i| needle(i.into())).collect();
        assert!(are_separated([&row[..20], &row[20..]]));
        assert!(!are_separated([&row[..20], &row[19..]]));
        // Sectors of a cone.
        let at = |i: f64| DVec3::new(i.cos(), i.sin(), -1.0);
        let sector = |i: i32| [at(0.03 * f64::from(i)), at(0.03 * f64::from(i + 1))];
        let cone: Vec<_> = (0..60).map(sector).collect();
        assert!(are_separated_round(DVec3::ZERO, [&cone[..30], &cone[31..]]));
        assert!(!are_separated_round(
            DVec3::ZERO,
            [&cone[..30], &cone[30..]]
        ));
    }
}
