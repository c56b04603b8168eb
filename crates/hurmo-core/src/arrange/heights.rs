//! Which triangles lie above a place of a piece: what winding numbers are counted by, exactly.
//!
//! The place is a pair of doubles seen along one axis, inside the piece; the height of each plane
//! there is compared in balls, and in whole numbers where these do not decide it.

use super::ball::Ball;
use super::constructions::{Exact, Inputs, exact_turn, near_turn};
use super::points::Points;
use super::ring::{Ring, Triple};
use super::view::{View, flat, turn};
use crate::predicates::side_of_line;
use crate::spatial::{Bounds32, rounded_outward};
use dashu_int::IBig;
use glam::{DVec2, DVec3};
use std::cmp::Ordering::{self, Equal, Greater, Less};

/// What a straight line through a piece goes through.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Above {
    /// Whether the piece's triangle faces up.
    pub faces_up: bool,
    /// The triangles above the piece, and whether each faces up.
    pub triangles: Vec<(u32, bool)>,
}

/// Places within a triangle, as shares of its corners.
const SHARES: [[f64; 3]; 6] = [
    [0.334, 0.333, 0.333],
    [0.5, 0.293, 0.207],
    [0.211, 0.519, 0.27],
    [0.31, 0.157, 0.533],
    [0.77, 0.123, 0.107],
    [0.101, 0.134, 0.765],
];

/// What lies above a place of a piece with these corners that was cut from a triangle; `None` where no
/// such place could be found. `candidates` lists the triangles, by their boxes, that a box may meet; `is_own`
/// says which triangles lie on the piece.
pub(super) fn above(
    inputs: &Inputs<'_>,
    points: &Points,
    candidates: &dyn Fn(Bounds32) -> Vec<u32>,
    (corners, triangle): ([u32; 3], u32),
    is_own: impl Fn(u32) -> bool,
) -> Option<Above> {
    let view = View::of(inputs, triangle);
    let near = corners.map(|id| points.near(inputs, id));
    let exact = || corners.map(|id| inputs.exact(&points.made(id)));
    let mut places = SHARES.iter().filter_map(|shares| {
        let sum = |axis: usize| (0..3).map(|i| near[i][axis].middle * shares[i]).sum();
        let place = DVec2::new(sum(view.axes[0]), sum(view.axes[1]));
        let mut point = [Ball::default(); 3];
        (point[view.axes[0]], point[view.axes[1]]) =
            (Ball::exactly(place.x), Ball::exactly(place.y));
        let is_in = (0..3).all(|i| {
            let (a, b) = (i, (i + 1) % 3);
            let turn = near_turn([&near[a], &near[b], &point], view.axes).unwrap_or_else(|| {
                let corners = exact();
                let point = exact_place(inputs, place, view.axes);
                exact_turn([&corners[a], &corners[b], &point], view.axes)
            });
            turn == if view.faces_up { Greater } else { Less }
        });
        is_in.then_some(place)
    });
    let look = Look { triangle, view };
    places.find_map(|place| look.above(inputs, candidates, place, &is_own))
}

fn exact_place(inputs: &Inputs<'_>, place: DVec2, [i, j]: [usize; 2]) -> Exact {
    let mut all = [0.0; 3];
    (all[i], all[j]) = (place.x, place.y);
    inputs.exact_place(DVec3::from_array(all))
}

/// A triangle, and how its plane is looked at.
struct Look {
    triangle: u32,
    view: View,
}

impl Look {
    /// What lies above at a place; `None` if it is on the border of something.
    fn above(
        &self,
        inputs: &Inputs<'_>,
        candidates: &dyn Fn(Bounds32) -> Vec<u32>,
        place: DVec2,
        is_own: impl Fn(u32) -> bool,
    ) -> Option<Above> {
        let [i, j] = self.view.axes;
        let mut line = [[f64::MIN; 3], [f64::MAX; 3]];
        for end in &mut line {
            (end[i], end[j]) = (place.x, place.y);
        }
        let line = rounded_outward(line.map(DVec3::from_array));
        let mut found = Above {
            faces_up: self.view.faces_up,
            triangles: Vec::new(),
        };
        for triangle in candidates(line) {
            if is_own(triangle) {
                continue;
            }
            let way = turn(inputs, triangle, self.view.axes);
            let corners = flat(inputs, triangle, self.view.axes);
            let sides = [0, 1, 2].map(|k| side_of_line(corners[k], corners[(k + 1) % 3], place));
            if sides.contains(&Greater) && sides.contains(&Less) {
                continue;
            }
            if way == Equal || sides.contains(&Equal) {
                return None;
            }
            match self.compare(inputs, triangle, place) {
                Greater => found.triangles.push((triangle, way == Greater)),
                Less => {}
                Equal => return None,
            }
        }
        found.triangles.sort_unstable();
        Some(found)
    }

    /// How high a triangle's plane lies at a place, against that of one's own.
    fn compare(&self, inputs: &Inputs<'_>, triangle: u32, place: DVec2) -> Ordering {
        let near = |t: u32| {
            let (ahead, up, at) = self.height::<Ball>(inputs, t, place);
            at + ahead / up
        };
        (near(triangle) - near(self.triangle))
            .sign()
            .unwrap_or_else(|| {
                let inputs = inputs.finer(place);
                let (over, under) = self.height_whole(&inputs, triangle, place);
                let (own_over, own_under) = self.height_whole(&inputs, self.triangle, place);
                (over * own_under).cmp(&(own_over * under))
            })
    }

    /// A triangle's height as a quotient, the divisor above zero.
    fn height_whole(&self, inputs: &Inputs<'_>, triangle: u32, place: DVec2) -> (IBig, IBig) {
        let (ahead, up, at) = self.height::<IBig>(inputs, triangle, place);
        let over = at * &up + ahead;
        match up < IBig::ZERO {
            true => (-over, -up),
            false => (over, up),
        }
    }

    /// A triangle's height: the first by the second, over the third.
    fn height<R: Ring>(&self, inputs: &Inputs<'_>, triangle: u32, place: DVec2) -> (R, R, R) {
        let normal: Triple<R> = inputs.normal(triangle);
        let corner: Triple<R> = inputs.corner(triangle);
        let [i, j] = self.view.axes;
        let (x, y) = (
            inputs.coordinate::<R>(place.x),
            inputs.coordinate::<R>(place.y),
        );
        let ahead = normal[i]
            .times(&corner[i].minus(&x))
            .plus(&normal[j].times(&corner[j].minus(&y)));
        (
            ahead,
            normal[self.view.up].clone(),
            corner[self.view.up].clone(),
        )
    }
}
