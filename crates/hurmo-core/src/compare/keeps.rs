//! Whether a face keeps within a limit of a surface, all of it: proved.
//!
//! ```text
//! piece ─▶ what lies nearest to its middle ─▶ all corners near enough to that? ─▶ so is the piece
//!            └─▶ else: what lies over that triangle, and what lies beside it, each by itself
//! ```
//!
//! The distance to a triangle is convex, so that over a piece it is nowhere more than at the piece's
//! corners. Pieces are convex polygons, cut (Sutherland & Hodgman 1974) by the walls that stand on the
//! sides of the nearest triangle, so that flat faces over flat faces need one piece for each that they
//! lie over, however many these are and however small the limit. Cost: a query for each piece.

use crate::spatial::{TriangleTree, closest_on_triangle};
use glam::DVec3;

/// How many pieces of a face are looked at, at most.
const PIECES: usize = 400_000;
/// What lies so near a wall, as a share of how far the piece reaches, lies on it.
const ON_WALL: f64 = 1e-13;

/// A surface, and how far from it a face may lie.
pub(super) struct Keeps<'a> {
    /// Its triangles.
    pub triangles: &'a [[DVec3; 3]],
    /// The same under a hierarchy.
    pub tree: &'a TriangleTree,
    /// How far.
    pub limit: f64,
}

/// A convex part of a face, and a triangle that lies near it.
struct Piece {
    corners: Vec<DVec3>,
    hint: u32,
}

impl Keeps<'_> {
    /// Whether it is proved that no point of a triangle lies further off; `hint` lies near it.
    pub fn all_of(&self, corners: [DVec3; 3], hint: u32) -> bool {
        let mut left = vec![Piece {
            corners: corners.to_vec(),
            hint,
        }];
        let mut looked_at = 0;
        while let Some(piece) = left.pop() {
            looked_at += 1;
            if looked_at > PIECES || !self.holds(piece, &mut left) {
                return false;
            }
        }
        true
    }

    /// Whether a piece is near enough, if what is added to `left` is.
    fn holds(&self, Piece { corners, hint }: Piece, left: &mut Vec<Piece>) -> bool {
        let middle = corners.iter().sum::<DVec3>() / corners.len() as f64;
        let Some(found) = self.tree.closest_from(middle, hint) else {
            return false;
        };
        let distance = found.distance_squared.sqrt();
        if distance > self.limit {
            return false;
        }
        let triangle = self.triangles[found.triangle as usize];
        let reach = corners.iter().map(|at| at.distance(middle));
        if distance + reach.fold(0.0, f64::max) <= self.limit || self.all_near(&corners, triangle) {
            return true;
        }
        let mut add = |corners: Vec<DVec3>| {
            left.push(Piece {
                corners,
                hint: found.triangle,
            });
        };
        let mut over = corners.clone();
        let mut cut = false;
        for (wall, through) in walls(triangle) {
            let (inside, beside) = parted(&over, wall, through);
            if beside.is_empty() {
                continue;
            }
            cut |= !inside.is_empty();
            add(beside);
            over = inside;
            if over.is_empty() {
                break;
            }
        }
        if over.is_empty() && !cut {
            // All of it lies beside one wall: nothing was gained.
            left.pop();
            over = corners;
        } else if over.is_empty() || self.all_near(&over, triangle) {
            return true;
        }
        // Too far from the triangle in places: something else may be nearer there.
        halves(&over).is_some_and(|parts| {
            let hint = found.triangle;
            left.extend(parts.map(|corners| Piece { corners, hint }));
            true
        })
    }

    fn all_near(&self, corners: &[DVec3], triangle: [DVec3; 3]) -> bool {
        let most = self.limit * self.limit;
        let near = |&at: &DVec3| closest_on_triangle(at, triangle).distance_squared(at) <= most;
        corners.iter().all(near)
    }
}

/// The walls on the sides of a triangle, each by what points inward (not to scale) and a point on it.
fn walls([a, b, c]: [DVec3; 3]) -> impl Iterator<Item = (DVec3, DVec3)> {
    let up = (b - a).cross(c - a).normalize_or_zero();
    [(a, b), (b, c), (c, a)]
        .into_iter()
        .map(move |(from, to)| (up.cross(to - from).normalize_or_zero(), from))
        .filter(|(inward, _)| *inward != DVec3::ZERO)
}

/// What of a convex polygon lies on the inner side of a wall, and what on the outer; empty where
/// nothing does.
fn parted(corners: &[DVec3], inward: DVec3, through: DVec3) -> (Vec<DVec3>, Vec<DVec3>) {
    let sides: Vec<f64> = corners.iter().map(|&at| inward.dot(at - through)).collect();
    let size = corners.iter().map(|&at| (at - through).abs().max_element());
    let on_wall = ON_WALL * size.fold(0.0, f64::max);
    if sides.iter().all(|&side| side >= -on_wall) {
        return (corners.to_vec(), Vec::new());
    }
    if sides.iter().all(|&side| side <= on_wall) {
        return (Vec::new(), corners.to_vec());
    }
    let (mut inside, mut outside) = (Vec::new(), Vec::new());
    for (i, &from) in corners.iter().enumerate() {
        let j = (i + 1) % corners.len();
        let (here, there) = (sides[i], sides[j]);
        if here >= -on_wall {
            inside.push(from);
        }
        if here <= on_wall {
            outside.push(from);
        }
        if (here > on_wall && there < -on_wall) || (here < -on_wall && there > on_wall) {
            let crossing = from.lerp(corners[j], here / (here - there));
            inside.push(crossing);
            outside.push(crossing);
        }
    }
    (inside, outside)
}

/// A polygon cut across its longest side; nothing where it is too small to be cut.
fn halves(corners: &[DVec3]) -> Option<[Vec<DVec3>; 2]> {
    let ends = |i: usize| (corners[i], corners[(i + 1) % corners.len()]);
    let length = |i: &usize| ends(*i).0.distance_squared(ends(*i).1);
    let longest = (0..corners.len()).max_by(|a, b| length(a).total_cmp(&length(b)))?;
    let (from, to) = ends(longest);
    let (one, two) = parted(corners, (to - from).normalize_or_zero(), (from + to) / 2.0);
    (!one.is_empty() && !two.is_empty()).then_some([one, two])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::compare::stay_within;
    use crate::shapes;

    #[test]
    fn a_sheet_lies_on_itself_however_it_is_cut() {
        let fine = shapes::grid(97, 89, 3.0, 2.0);
        for coarse in [shapes::grid(1, 1, 3.0, 2.0), shapes::grid(7, 5, 3.0, 2.0)] {
            assert!(stay_within(&fine, &coarse, 1e-14));
        }
        // A hair's breadth is seen.
        let mut bent = fine.clone();
        bent.positions_mut()[4321].z += 2e-9;
        assert!(!stay_within(&bent, &shapes::grid(1, 1, 3.0, 2.0), 1e-9));
        assert!(stay_within(&bent, &shapes::grid(1, 1, 3.0, 2.0), 3e-9));
    }

    #[test]
    fn parts_of_a_polygon_are_all_of_it() {
        let square = [(0., 0.), (1., 0.), (1., 1.), (0., 1.)];
        let square = square.map(|(x, y)| DVec3::new(x, y, 0.0));
        let area = |corners: &[DVec3]| crate::measure::vector_area_of(corners.iter().copied()).z;
        for (inward, at) in [
            (DVec3::X, 0.3),
            (DVec3::new(0.6, 0.8, 0.0), 0.9),
            (DVec3::Y, 0.0),
        ] {
            let (inside, outside) = parted(&square, inward, inward * at);
            let sum = area(&inside) + area(&outside);
            assert!((sum - 1.0).abs() < 1e-12, "{sum}");
        }
        let [one, two] = halves(&square).unwrap();
        assert!((area(&one) - 0.5).abs() < 1e-12 && (area(&two) - 0.5).abs() < 1e-12);
    }
}
