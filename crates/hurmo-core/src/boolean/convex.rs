//! Pieces of one polygon put together again, to as few convex ones as taking edges out makes: Hertel &
//! Mehlhorn 1983 (Fast Triangulation of Simple Polygons).

use glam::DVec3;
use rustc_hash::FxHashMap;

/// The sine of the angle up to which a corner that turns the wrong way counts as straight.
const STRAIGHT: f64 = 1e-9;

/// Polygons out of triangles that run the same way about a normal, none with more corners than `most`.
/// Edges go where `may_go` says so, the longest first.
pub(super) fn merged(
    triangles: &[[u32; 3]],
    most: usize,
    normal: DVec3,
    at: impl Fn(u32) -> DVec3,
    may_go: impl Fn([u32; 2]) -> bool,
) -> Vec<Vec<u32>> {
    let mut polygons: Vec<Vec<u32>> = triangles.iter().map(|t| t.to_vec()).collect();
    // Which polygon runs along an edge this way; names of polygons follow where they went.
    let mut runs: FxHashMap<[u32; 2], usize> = FxHashMap::default();
    for (polygon, [a, b, c]) in triangles.iter().enumerate() {
        runs.extend([[*a, *b], [*b, *c], [*c, *a]].map(|edge| (edge, polygon)));
    }
    let mut between: Vec<(f64, [u32; 2])> = runs
        .keys()
        .filter(|[a, b]| a < b && runs.contains_key(&[*b, *a]) && may_go([*a, *b]))
        .map(|&[a, b]| (at(a).distance_squared(at(b)), [a, b]))
        .collect();
    between.sort_unstable_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
    let is_convex = |a: u32, b: u32, c: u32| {
        let [u, v] = [at(b) - at(a), at(c) - at(b)];
        let turn = u.cross(v).dot(normal);
        turn >= -STRAIGHT * u.length() * v.length()
    };
    for (_, [a, b]) in between {
        let [one, two] = [runs[&[a, b]], runs[&[b, a]]];
        let (ahead, behind) = (from(&polygons[one], b), from(&polygons[two], a));
        // Both without the edge: from its end on round to its begin.
        let (r, p) = (ahead[1], ahead[ahead.len() - 2]);
        let (s, q) = (behind[1], behind[behind.len() - 2]);
        let count = ahead.len() + behind.len() - 2;
        let fits = count <= most && p != s && q != r && is_convex(p, a, s) && is_convex(q, b, r);
        if !fits {
            continue;
        }
        let corners = ahead.len() - 1;
        let mut whole = ahead;
        whole.truncate(corners);
        whole.extend(&behind[..behind.len() - 1]);
        for i in 0..whole.len() {
            runs.insert([whole[i], whole[(i + 1) % whole.len()]], one);
        }
        polygons[one] = whole;
        polygons[two] = Vec::new();
    }
    polygons.retain(|polygon| !polygon.is_empty());
    polygons
}

/// A polygon's corners from one of them on.
fn from(polygon: &[u32], first: u32) -> Vec<u32> {
    let begin = polygon.iter().position(|&corner| corner == first);
    let begin = begin.expect("an edge of the polygon ends there");
    polygon[begin..]
        .iter()
        .chain(&polygon[..begin])
        .copied()
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::triangulate;
    use proptest::prelude::*;
    use std::collections::BTreeSet;
    use std::f64::consts::TAU;

    fn area(polygon: &[u32], points: &[DVec3]) -> f64 {
        let corners = polygon.iter().map(|&i| points[i as usize]);
        crate::geometry::vector_area_of(corners).z
    }

    #[test]
    fn a_fan_is_one_polygon_again() {
        let points: Vec<DVec3> = (0..12)
            .map(|i| TAU * f64::from(i) / 12.0)
            .map(|turn| DVec3::new(turn.cos(), turn.sin(), 0.0))
            .collect();
        let fan: Vec<[u32; 3]> = (1..11).map(|i| [0, i, i + 1]).collect();
        let at = |i: u32| points[i as usize];
        let all = merged(&fan, 12, DVec3::Z, at, |_| true);
        assert_eq!(all.len(), 1);
        assert_eq!(BTreeSet::from_iter(&all[0]).len(), 12);
        // Not with more corners than allowed, nor over an edge that stays.
        let small = merged(&fan, 4, DVec3::Z, at, |_| true);
        assert!(small.iter().all(|polygon| polygon.len() <= 4));
        let halves = merged(&fan, 12, DVec3::Z, at, |edge| edge != [0, 6]);
        assert_eq!(halves.len(), 2);
    }

    proptest! {
        /// Star-shaped polygons: convex pieces of the same area, and few of them.
        #[test]
        fn pieces_are_convex_and_none_is_lost(far in prop::collection::vec(0.3f64..1.0, 5..20)) {
            let step = TAU / far.len() as f64;
            let points: Vec<DVec3> = (0..)
                .zip(&far)
                .map(|(i, far)| (step * f64::from(i), far))
                .map(|(turn, far)| DVec3::new(turn.cos(), turn.sin(), 0.0) * *far)
                .collect();
            let triangles = triangulate::polygon(&points);
            let at = |i: u32| points[i as usize];
            let all = merged(&triangles, far.len(), DVec3::Z, at, |_| true);
            let whole: Vec<u32> = (0..far.len() as u32).collect();
            let sum: f64 = all.iter().map(|polygon| area(polygon, &points)).sum();
            prop_assert!((sum - area(&whole, &points)).abs() < 1e-9);
            for polygon in &all {
                let count = polygon.len();
                for i in 0..count {
                    let [a, b, c] = [0, 1, 2].map(|j| at(polygon[(i + j) % count]));
                    prop_assert!((b - a).cross(c - b).z >= -1e-8);
                }
            }
            // Each reflex corner keeps two diagonals at most.
            let count = far.len();
            let reflex = (0..count).filter(|&i| {
                let [a, b, c] = [i + count - 1, i, i + 1].map(|j| points[j % count]);
                (b - a).cross(c - b).z < 0.0
            });
            prop_assert!(all.len() <= 2 * reflex.count() + 1);
        }
    }
}
