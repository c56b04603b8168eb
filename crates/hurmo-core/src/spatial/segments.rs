//! How far segments and triangles are from each other.

use super::closest::closest_on_triangle;
use glam::DVec3;

/// The square of the distance between two segments: between their insides, where the lines are nearest
/// to each other there, or else from an end of one to the other.
pub fn between_segments([a, b]: [DVec3; 2], [c, d]: [DVec3; 2]) -> f64 {
    let (along, other) = (b - a, d - c);
    let across = along.cross(other);
    let square = across.length_squared();
    if square > 0.0 {
        let way = c - a;
        let s = way.cross(other).dot(across) / square;
        let t = way.cross(along).dot(across) / square;
        if (0.0..=1.0).contains(&s) && (0.0..=1.0).contains(&t) {
            let off = way.dot(across);
            return off * off / square;
        }
    }
    let ends = [
        to_segment(a, [c, d]),
        to_segment(b, [c, d]),
        to_segment(c, [a, b]),
        to_segment(d, [a, b]),
    ];
    ends.into_iter().fold(f64::INFINITY, f64::min)
}

/// The square of the distance between a place and a segment.
pub fn to_segment(place: DVec3, [a, b]: [DVec3; 2]) -> f64 {
    let along = b - a;
    let square = along.length_squared();
    let share = match square > 0.0 {
        true => ((place - a).dot(along) / square).clamp(0.0, 1.0),
        false => 0.0,
    };
    place.distance_squared(a + along * share)
}

/// Whether two triangles come nearer to each other than a distance anywhere but at corners that they
/// share; corners are named by numbers. Triangles on either side of an edge do where one is folded onto
/// the other.
pub fn are_nearer(
    distance: f64,
    (one, names): ([DVec3; 3], [u32; 3]),
    (two, others): ([DVec3; 3], [u32; 3]),
) -> bool {
    let square = distance * distance;
    let corner = |own: [DVec3; 3], own_names: [u32; 3], all: [DVec3; 3], all_names: [u32; 3]| {
        let free = (0..3).filter(move |&i| !all_names.contains(&own_names[i]));
        let near = free.map(move |i| own[i].distance_squared(closest_on_triangle(own[i], all)));
        near.into_iter().any(|off| off < square)
    };
    if corner(one, names, two, others) || corner(two, others, one, names) {
        return true;
    }
    let edge = |i: usize| [i, (i + 1) % 3];
    let pairs = (0..9).map(|i| (edge(i / 3), edge(i % 3)));
    pairs.into_iter().any(|(own, other)| {
        let shares = own
            .iter()
            .any(|&i| other.iter().any(|&k| names[i] == others[k]));
        !shares && between_segments(own.map(|i| one[i]), other.map(|i| two[i])) < square
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn place() -> impl Strategy<Value = DVec3> {
        prop::array::uniform3(-1.0..1.0).prop_map(DVec3::from_array)
    }

    proptest! {
        #[test]
        fn no_two_places_on_segments_are_nearer(
            [a, b, c, d] in prop::array::uniform4(place()),
        ) {
            let computed = between_segments([a, b], [c, d]).sqrt();
            let steps = || (0..=40).map(|i| f64::from(i) / 40.0);
            let all = steps().flat_map(|s| steps().map(move |t| a.lerp(b, s).distance(c.lerp(d, t))));
            let least = all.fold(f64::INFINITY, f64::min);
            prop_assert!(computed <= least + 1e-12);
            // Between two steps it can't be much less.
            prop_assert!(computed >= least - (a.distance(b) + c.distance(d)) / 80.0);
        }
    }

    #[test]
    fn parallel_and_pointlike_segments() {
        let [o, x, y] = [DVec3::ZERO, DVec3::X, DVec3::Y];
        assert_eq!(between_segments([o, x], [y, x + y]), 1.0);
        assert_eq!(between_segments([o, x], [x * 2.0, x * 3.0]), 1.0);
        assert_eq!(between_segments([o, o], [x, x + y]), 1.0);
    }

    #[test]
    fn what_folds_onto_its_neighbour_is_near() {
        let [o, x, y] = [DVec3::ZERO, DVec3::X, DVec3::Y];
        let first = ([o, x, y], [0, 1, 2]);
        let hinged = |apex: DVec3| ([x, o, apex], [1, 0, 3]);
        assert!(!are_nearer(0.01, first, hinged(-y)));
        assert!(!are_nearer(0.01, first, hinged(DVec3::Z)));
        assert!(are_nearer(0.01, first, hinged(DVec3::new(0.3, 0.3, 0.001))));
        // Each one's apex beyond the other, their sides crossing.
        assert!(are_nearer(0.01, first, hinged(DVec3::new(1.0, 1.0, 0.001))));
        // At a corner: beside it, and over it.
        let at_corner = |p, q| ([o, p, q], [0, 3, 4]);
        assert!(!are_nearer(0.01, first, at_corner(-x, -y)));
        let over = [DVec3::new(0.2, 0.1, 0.001), DVec3::new(0.1, 0.2, 0.2)];
        assert!(are_nearer(0.01, first, at_corner(over[0], over[1])));
        let across = [DVec3::new(2.0, 0.5, 0.001), DVec3::new(0.5, 2.0, 0.001)];
        assert!(are_nearer(0.01, first, at_corner(across[0], across[1])));
    }
}
