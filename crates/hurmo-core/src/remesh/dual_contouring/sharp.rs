//! Places on the sharp edges and corners of the model itself.
//!
//! Planes where the grid is crossed may be a cell away, and those of another facet by then. So what
//! they say is only where to look: there the planes of the model's own triangles are put together,
//! of all those that come near, or of fewer when those don't meet in a place.

use super::crossing::Crossing;
use super::inside_test::InsideTest;
use super::vertex_placement::{nearest_to_planes, off_planes};
use glam::DVec3;

/// Triangles count that come as near as this to where one looks, as a share of the cell: the first
/// that lead to a place do.
const NEAR: [f64; 3] = [0.25, 0.1, 0.03];
/// Where an edge may be further away.
const FURTHER: [f64; 2] = [0.5, 0.75];
/// So often it is looked again from where that led.
const LOOKS: usize = 3;
/// All planes then pass as near to the place, and so does a triangle, as a share of the cell.
const ON: f64 = 0.003;
/// Cosine of what planes differ by at a sharp edge.
const SHARP: f64 = 0.94;
/// What lies between two places is no nearer to either than this share of the way.
const BETWEEN: f64 = 0.05;
/// A place is no further than this from where one began to look.
const FAR: f64 = 0.5;

/// The place on an edge or a corner of the model near to another that satisfies a wish, if there is
/// one.
pub fn place_on_edge(
    inside_test: &InsideTest<'_>,
    begin: DVec3,
    is_wished: impl Fn(DVec3) -> bool,
) -> Option<DVec3> {
    looked_for(inside_test, begin, &NEAR, is_wished)
}

/// The same, looked for from further away where need be.
pub fn place_on_far_edge(inside_test: &InsideTest<'_>, begin: DVec3) -> Option<DVec3> {
    let near = looked_for(inside_test, begin, &NEAR, |_| true);
    near.or_else(|| looked_for(inside_test, begin, &FURTHER, |_| true))
}

fn looked_for(
    inside_test: &InsideTest<'_>,
    begin: DVec3,
    within: &[f64],
    is_wished: impl Fn(DVec3) -> bool,
) -> Option<DVec3> {
    let cell = inside_test.grid.cell;
    within.iter().find_map(|near| {
        let mut place = begin;
        for _ in 0..LOOKS {
            let planes = inside_test.planes_near(place, near * cell);
            let to = nearest_to_planes(&planes, place)?;
            if to.distance(place) < 1e-6 * cell {
                break;
            }
            place = to;
        }
        let is_near = place.distance(begin) <= FAR.max(*near) * cell;
        let near = near.min(NEAR[0]) * cell;
        (is_near && is_wished(place) && is_on(inside_test, place, near)).then_some(place)
    })
}

/// The place where a sharp edge of the model turns, between two places on it, if it does there.
pub fn corner_between(inside_test: &InsideTest<'_>, [p, q]: [DVec3; 2]) -> Option<DVec3> {
    let cell = inside_test.grid.cell;
    let planes = inside_test.planes_near((p + q) / 2.0, p.distance(q) / 2.0);
    let mut place = (p + q) / 2.0;
    for _ in 0..LOOKS {
        place = nearest_to_planes(&planes, place)?;
    }
    let along = (place - p).dot(q - p) / p.distance_squared(q);
    let meet = off_planes(&planes, place) <= ON * cell;
    let is_between = (BETWEEN..=1.0 - BETWEEN).contains(&along);
    (meet && is_between && is_on(inside_test, place, NEAR[2] * cell)).then_some(place)
}

/// Whether a place lies on the model, and on all planes near it.
fn is_on(inside_test: &InsideTest<'_>, place: DVec3, near: f64) -> bool {
    let most = ON * inside_test.grid.cell;
    let planes = inside_test.planes_near(place, near);
    let touches = |plane: &Crossing| plane.at.distance(place) <= most;
    planes.iter().any(touches) && are_sharp(&planes) && off_planes(&planes, place) <= most
}

/// Whether planes differ by as much as at a sharp edge.
pub fn are_sharp(crossings: &[Crossing]) -> bool {
    let first = crossings
        .first()
        .map_or(DVec3::ZERO, |crossing| crossing.normal);
    crossings
        .iter()
        .any(|crossing| crossing.normal.dot(first) < SHARP)
}
