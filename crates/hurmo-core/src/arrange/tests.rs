use super::constructions::{Exact, Inputs};
use super::*;
use crate::predicates::on_one_line;
use crate::random_cases::cases;
use crate::spatial::exact_weld;
use dashu_int::IBig;
use proptest::prelude::*;
use std::cmp::Ordering::{self, Equal};

type Big = [IBig; 3];

/// Whole numbers for exact points, in common units.
fn whole(points: &[Exact]) -> Vec<Big> {
    let product: IBig = points.iter().map(|p| p.d.clone()).product();
    let by = |p: &Exact| &product / &p.d;
    (points.iter())
        .map(|p| p.x.clone().map(|x| x * by(p)))
        .collect()
}

fn minus(a: &Big, b: &Big) -> Big {
    [0, 1, 2].map(|i| &a[i] - &b[i])
}

fn cross(a: &Big, b: &Big) -> Big {
    [(1, 2), (2, 0), (0, 1)].map(|(i, j)| &a[i] * &b[j] - &a[j] * &b[i])
}

fn dot(a: &Big, b: &Big) -> IBig {
    (0..3).map(|i| &a[i] * &b[i]).sum()
}

fn sign(n: &IBig) -> Ordering {
    n.cmp(&IBig::ZERO)
}

fn side([a, b, c]: [&Big; 3], p: &Big) -> Ordering {
    sign(&dot(&cross(&minus(b, a), &minus(c, a)), &minus(p, a)))
}

/// Whether a point in the plane of a triangle lies in it, border included.
fn holds(t: [&Big; 3], p: &Big) -> bool {
    let normal = cross(&minus(t[1], t[0]), &minus(t[2], t[0]));
    (0..3).all(|i| {
        let (a, b) = (t[i], t[(i + 1) % 3]);
        sign(&dot(&cross(&minus(b, a), &minus(p, a)), &normal)) != Ordering::Less
    })
}

/// Whether two pieces have more in common than what they share: a corner of one in the other, or sides
/// that cross its inside or its sides.
fn cross_each_other(p: [u32; 3], q: [u32; 3], exact: &dyn Fn(u32) -> Exact) -> bool {
    let points: Vec<Exact> = p.iter().chain(&q).map(|&id| exact(id)).collect();
    let points = whole(&points);
    let corners = |k: usize| [&points[3 * k], &points[3 * k + 1], &points[3 * k + 2]];
    [(0, 1, p, q), (1, 0, q, p)]
        .iter()
        .any(|&(own, other, p, q)| {
            let (s, t) = (corners(own), corners(other));
            let sides = s.map(|corner| side(t, corner));
            let corner_in =
                (0..3).any(|i| !q.contains(&p[i]) && sides[i] == Equal && holds(t, s[i]));
            let pierced = (0..3).any(|i| {
                let k = (i + 1) % 3;
                if sides[i] == Equal || sides[i] != sides[k].reverse() {
                    return false;
                }
                let turns = [0, 1, 2].map(|j| side([s[i], s[k], t[j]], t[(j + 1) % 3]));
                !(turns.contains(&Ordering::Greater) && turns.contains(&Ordering::Less))
            });
            let flat = sides == [Equal; 3]
                && (0..3).any(|i| {
                    let (a, b) = (s[i], s[(i + 1) % 3]);
                    let normal = cross(&minus(t[1], t[0]), &minus(t[2], t[0]));
                    let turn = |a: &Big, b: &Big, c: &Big| {
                        sign(&dot(&cross(&minus(b, a), &minus(c, a)), &normal))
                    };
                    (0..3).any(|j| {
                        let (c, d) = (t[j], t[(j + 1) % 3]);
                        let opposite = |x: Ordering, y: Ordering| x != Equal && x == y.reverse();
                        opposite(turn(a, b, c), turn(a, b, d))
                            && opposite(turn(c, d, a), turn(c, d, b))
                    })
                });
            corner_in || pierced || flat
        })
}

fn area([a, b, c]: [DVec3; 3]) -> f64 {
    (b - a).cross(c - a).length() / 2.0
}

/// Arranges a soup, and checks the pieces by brute force.
fn check(positions: &[DVec3], triangles: &[[u32; 3]]) -> Result<usize, TestCaseError> {
    let place = exact_weld(positions);
    let mut kept: Vec<[u32; 3]> = triangles
        .iter()
        .map(|t| t.map(|v| place[v as usize].0))
        .filter(|t| !on_one_line(t.map(|v| positions[v as usize])))
        .collect();
    let key = |t: &[u32; 3]| {
        let mut t = *t;
        t.sort_unstable();
        t
    };
    kept.sort_by_key(key);
    kept.dedup_by_key(|t| key(t));
    let open: Vec<u32> = (0..kept.len() as u32).collect();
    let arrangement = Arrangement::of(positions, &kept, &open);
    let new_points = arrangement.new_points();
    let position = |id: u32| match (id as usize).checked_sub(positions.len()) {
        None => positions[id as usize],
        Some(place) => new_points[place],
    };
    let inputs = Inputs::new(positions, &kept);
    let exact = |id: u32| inputs.exact(&arrangement.points.made(id));
    let whole = (0..kept.len()).filter(|&t| !arrangement.is_cut[t]);
    let all: Vec<[u32; 3]> = whole
        .map(|t| kept[t])
        .chain(arrangement.pieces.iter().map(|piece| piece.corners))
        .collect();
    for (i, &p) in all.iter().enumerate() {
        for &q in &all[..i] {
            prop_assert!(key(&p) != key(&q), "the same piece twice");
            prop_assert!(!cross_each_other(p, q, &exact), "{p:?} and {q:?} cross");
        }
    }
    let mut areas = vec![0.0; kept.len()];
    for piece in &arrangement.pieces {
        for &(t, turned) in &piece.of {
            areas[t as usize] += area(piece.corners.map(position));
            let normal = |c: [DVec3; 3]| (c[1] - c[0]).cross(c[2] - c[0]).normalize_or_zero();
            let along =
                normal(piece.corners.map(position)).dot(normal(kept[t as usize].map(position)));
            let runs_as_told = if turned { along < 0.5 } else { along > -0.5 };
            prop_assert!(runs_as_told);
        }
    }
    for (t, &cut) in arrangement.is_cut.iter().enumerate() {
        let own = area(kept[t].map(position));
        let error = (areas[t] - own).abs();
        prop_assert!(
            !cut || error < 1e-9 * own.max(1e-3),
            "{} for {own}",
            areas[t]
        );
    }
    Ok(arrangement.pieces.len())
}

fn triangles(count: usize) -> Vec<[u32; 3]> {
    (0..count as u32)
        .map(|t| [3 * t, 3 * t + 1, 3 * t + 2])
        .collect()
}

#[test]
fn two_triangles_through_each_other() {
    let positions = [
        [0.0, 0.0, 0.0],
        [4.0, 0.0, 0.0],
        [0.0, 4.0, 0.0],
        [1.0, 1.0, -1.0],
        [1.0, 1.0, 2.0],
        [9.0, 9.0, 0.5],
    ]
    .map(DVec3::from_array);
    assert_eq!(check(&positions, &triangles(2)).unwrap(), 8);
}

proptest! {
    #![proptest_config(cases(72))]

    /// Small whole numbers: everything lies on everything.
    #[test]
    fn triangles_of_small_whole_numbers(
        corners in prop::collection::vec(prop::array::uniform3(0..4i8), 6..30),
    ) {
        let positions: Vec<DVec3> = corners.iter().map(|c| DVec3::from_array(c.map(f64::from))).collect();
        check(&positions, &triangles(positions.len() / 3))?;
    }

    /// In one plane, askew to the axes.
    #[test]
    fn triangles_in_one_plane(
        corners in prop::collection::vec(prop::array::uniform2(0..6i8), 6..24),
    ) {
        let at = |[x, y]: [i8; 2]| DVec3::new(f64::from(x), f64::from(y), f64::from(2 * x - 3 * y));
        let positions: Vec<DVec3> = corners.iter().map(|&c| at(c)).collect();
        check(&positions, &triangles(positions.len() / 3))?;
    }

    /// Anywhere.
    #[test]
    fn triangles_anywhere(
        corners in prop::collection::vec(prop::array::uniform3(-1.0..1.0f64), 6..24),
    ) {
        let positions: Vec<DVec3> = corners.iter().map(|&c| DVec3::from_array(c)).collect();
        check(&positions, &triangles(positions.len() / 3))?;
    }

    /// Through one point, which is a vertex of none.
    #[test]
    fn triangles_through_one_point(
        corners in prop::collection::vec(prop::array::uniform2(prop::array::uniform3(-5..6i8)), 2..7),
    ) {
        let positions: Vec<DVec3> = corners
            .iter()
            .flat_map(|pair| {
                let [a, b] = pair.map(|c| DVec3::from_array(c.map(f64::from)));
                [a, b, -a - b]
            })
            .collect();
        check(&positions, &triangles(positions.len() / 3))?;
    }
}
