//! A plane as it is seen along an axis of the space.

use super::ball::Ball;
use super::constructions::Inputs;
use crate::predicates::side_of_line;
use glam::DVec2;
use std::cmp::Ordering::{self, Equal, Greater};

/// How the plane of a triangle is looked at: along the axis in which it is seen largest.
#[derive(Clone, Copy, Debug)]
pub(super) struct View {
    /// The axis, which is up.
    pub up: usize,
    /// The other two; from above, anticlockwise is from the first to the second.
    pub axes: [usize; 2],
    /// Whether the triangle faces up.
    pub faces_up: bool,
}

impl View {
    pub fn of(inputs: &Inputs<'_>, triangle: u32) -> Self {
        let normal = inputs.normal::<Ball>(triangle);
        let mut order = [0, 1, 2];
        order.sort_by(|&i, &j| normal[j].middle.abs().total_cmp(&normal[i].middle.abs()));
        let view = order.into_iter().find_map(|up| {
            let axes = [(up + 1) % 3, (up + 2) % 3];
            let turn = turn(inputs, triangle, axes);
            (turn != Equal).then_some(Self {
                up,
                axes,
                faces_up: turn == Greater,
            })
        });
        view.expect("the corners lie on no line")
    }

    /// The axes as they are seen from the triangle's front.
    pub fn axes_from_front(&self) -> [usize; 2] {
        let [i, j] = self.axes;
        if self.faces_up { [i, j] } else { [j, i] }
    }
}

/// The corners of a triangle, seen along an axis.
pub(super) fn flat(inputs: &Inputs<'_>, triangle: u32, [i, j]: [usize; 2]) -> [DVec2; 3] {
    inputs.corners(triangle).map(|p| DVec2::new(p[i], p[j]))
}

/// The turn of a triangle's corners, seen along an axis.
pub(super) fn turn(inputs: &Inputs<'_>, triangle: u32, axes: [usize; 2]) -> Ordering {
    let [a, b, c] = flat(inputs, triangle, axes);
    side_of_line(a, b, c)
}
