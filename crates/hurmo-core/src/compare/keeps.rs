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

use crate::spatial::{InBox, TriangleTree, closest_on_triangle, reaches_into};
use glam::DVec3;

/// How many pieces of a face are looked at, at most.
const PIECES: usize = 400_000;
/// What lies so near a wall, as a share of how far the piece reaches, lies on it.
const ON_WALL: f64 = 1e-13;

/// With this many triangles in reach or fewer, these are listed once, and asked one by one.
const LISTED: usize = 96;

/// A surface, and how far from it a face may lie.
pub(super) struct Keeps<'a> {
    /// Its triangles.
    pub triangles: &'a [[DVec3; 3]],
    /// The same under a hierarchy.
    pub tree: &'a TriangleTree,
    /// How far.
    pub limit: f64,
}

/// A convex part of a face.
struct Piece {
    corners: Vec<DVec3>,
    about: About,
}

/// What is known of a piece.
#[derive(Clone, Copy)]
struct About {
    /// A triangle that lies near it.
    hint: u32,
    /// Which list has all triangles in reach of it, if one does.
    list: Option<usize>,
}

/// What is left to be looked at of a face.
struct Left {
    pieces: Vec<Piece>,
    lists: Vec<Vec<InBox>>,
}

/// What of a surface lies near a piece.
enum Near {
    /// Nothing within the limit of its middle.
    Nothing,
    /// A triangle that the whole piece keeps within the limit of.
    Cover,
    /// This lies nearest to its middle.
    Triangle(u32),
}

impl Keeps<'_> {
    /// A place on a triangle that may lie further off; none if it is proved that no place does. `hint` lies
    /// near the triangle.
    pub fn unproved(&self, corners: [DVec3; 3], hint: u32) -> Option<DVec3> {
        let about = About { hint, list: None };
        let mut left = Left {
            pieces: vec![Piece {
                corners: corners.to_vec(),
                about,
            }],
            lists: Vec::new(),
        };
        let mut looked_at = 0;
        while let Some(piece) = left.pieces.pop() {
            looked_at += 1;
            let middle = middle(&piece.corners);
            if looked_at > PIECES || !self.holds(piece, &mut left) {
                return Some(middle);
            }
        }
        None
    }

    /// Whether a piece is near enough, if what is added to `left` is.
    fn holds(&self, mut piece: Piece, left: &mut Left) -> bool {
        match self.near(&mut piece, left) {
            Near::Nothing => false,
            Near::Cover => true,
            Near::Triangle(nearest) => {
                piece.about.hint = nearest;
                self.cut_by_walls(piece, left)
            }
        }
    }

    fn near(&self, Piece { corners, about }: &mut Piece, left: &mut Left) -> Near {
        let reach = DVec3::splat(self.limit);
        let (low, high) = corners
            .iter()
            .fold((DVec3::MAX, DVec3::MIN), |(low, high), &at| {
                (low.min(at), high.max(at))
            });
        let (low, high) = (low - reach, high + reach);
        if about.list.is_none()
            && let Some(found) = self.tree.reaching_into(low, high, LISTED)
        {
            left.lists.push(found);
            about.list = Some(left.lists.len() - 1);
        }
        let middle = middle(corners);
        let most = self.limit * self.limit;
        let Some(list) = about.list else {
            let Some(found) = self.tree.closest_from(middle, about.hint) else {
                return Near::Nothing;
            };
            return match self.all_near(corners, self.triangles[found.triangle as usize]) {
                _ if found.distance_squared > most => Near::Nothing,
                true => Near::Cover,
                false => Near::Triangle(found.triangle),
            };
        };
        let (mut least, mut nearest) = (f64::INFINITY, about.hint);
        let listed = left.lists[list].iter();
        for &(triangle, place) in listed.filter(|(_, t)| reaches_into(t, low, high)) {
            let square = closest_on_triangle(middle, place).distance_squared(middle);
            if square <= most && self.all_near(corners, place) {
                return Near::Cover;
            }
            if square < least {
                (least, nearest) = (square, triangle);
            }
        }
        match least <= most {
            false => Near::Nothing,
            true => Near::Triangle(nearest),
        }
    }

    /// Cuts a piece by the walls of the triangle that its hint is. What lies over that must be near
    /// enough to it, or something else may be nearer there.
    fn cut_by_walls(&self, Piece { corners, about }: Piece, left: &mut Left) -> bool {
        let triangle = self.triangles[about.hint as usize];
        let mut over = corners.clone();
        let mut cut = false;
        for (wall, through) in walls(triangle) {
            let (inside, beside) = parted(&over, wall, through);
            if beside.is_empty() {
                continue;
            }
            cut |= !inside.is_empty();
            left.pieces.push(Piece {
                corners: beside,
                about,
            });
            over = inside;
            if over.is_empty() {
                break;
            }
        }
        if over.is_empty() && !cut {
            // All of it lies beside one wall: nothing was gained.
            left.pieces.pop();
            over = corners;
        } else if over.is_empty() || self.all_near(&over, triangle) {
            return true;
        }
        let corners = over;
        halve(Piece { corners, about }, left)
    }

    fn all_near(&self, corners: &[DVec3], triangle: [DVec3; 3]) -> bool {
        let most = self.limit * self.limit;
        let near = |&at: &DVec3| closest_on_triangle(at, triangle).distance_squared(at) <= most;
        corners.iter().all(near)
    }
}

fn middle(corners: &[DVec3]) -> DVec3 {
    corners.iter().sum::<DVec3>() / corners.len() as f64
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

/// Adds the halves of a piece; says whether it could be halved.
fn halve(Piece { corners, about }: Piece, left: &mut Left) -> bool {
    halves(&corners).is_some_and(|parts| {
        let parts = parts.map(|corners| Piece { corners, about });
        left.pieces.extend(parts);
        true
    })
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
    use crate::mesh::{Mesh, VertexId};
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
    fn so_many_triangles_at_one_point_are_no_hindrance() {
        // A shallow cone, and the same with its foot halved.
        let cone = |around: usize| {
            let foot = |i: usize| {
                let turn = i as f64 / around as f64 * std::f64::consts::TAU;
                DVec3::new(turn.cos(), turn.sin(), 0.0)
            };
            let mut places: Vec<DVec3> = (0..around).map(foot).collect();
            places.push(DVec3::Z * 0.2);
            let side = |i: usize| [i, (i + 1) % around, around].map(VertexId::new);
            let sides: Vec<_> = (0..around).map(side).collect();
            Mesh::from_triangles(places, &sides).unwrap()
        };
        let (fine, coarse) = (cone(2000), cone(1000));
        // Halfway between its corners a chord lies so far within.
        let off = 1.0 - (std::f64::consts::PI / 1000.0).cos();
        for limit in [1.01 * off, 0.02] {
            assert!(stay_within(&fine, &coarse, limit), "{limit}");
        }
        assert!(!stay_within(&fine, &coarse, 0.1 * off));
    }

    #[test]
    fn parts_of_a_polygon_are_all_of_it() {
        let square = [(0., 0.), (1., 0.), (1., 1.), (0., 1.)];
        let square = square.map(|(x, y)| DVec3::new(x, y, 0.0));
        let area = |corners: &[DVec3]| crate::geometry::vector_area_of(corners.iter().copied()).z;
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
