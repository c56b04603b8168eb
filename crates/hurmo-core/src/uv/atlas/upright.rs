//! Charts turned so that their boxes are smallest, and stand upright.

use super::flatten::Chart;
use glam::DVec2;

/// Turns a chart so that its box is smallest and stands upright, and moves it to nought.
pub fn stand_upright(chart: &mut Chart) {
    let hull = hull(&chart.places);
    let box_along = |along: DVec2| {
        let turned = hull
            .iter()
            .map(|p| DVec2::new(p.dot(along), p.dot(along.perp())));
        turned.fold([DVec2::INFINITY, DVec2::NEG_INFINITY], |[low, high], p| {
            [low.min(p), high.max(p)]
        })
    };
    let sides = (0..hull.len()).map(|i| (hull[(i + 1) % hull.len()] - hull[i]).normalize_or_zero());
    let size = |along: DVec2| {
        let [low, high] = box_along(along);
        let size = high - low;
        size.x * size.y
    };
    let directions = sides.filter(|side| *side != DVec2::ZERO).chain([DVec2::X]);
    let mut best = (f64::INFINITY, DVec2::X);
    for along in directions {
        if size(along) < best.0 {
            best = (size(along), along);
        }
    }
    let mut along = best.1;
    let [low, high] = box_along(along);
    if (high - low).x > (high - low).y {
        along = -along.perp();
    }
    let [low, _] = box_along(along);
    for place in &mut chart.places {
        *place = DVec2::new(place.dot(along), place.dot(along.perp())) - low;
    }
}

/// The convex hull, anticlockwise (Andrew 1979).
fn hull(points: &[DVec2]) -> Vec<DVec2> {
    let mut sorted: Vec<DVec2> = points.to_vec();
    sorted.sort_by(|a, b| a.x.total_cmp(&b.x).then(a.y.total_cmp(&b.y)));
    sorted.dedup();
    if sorted.len() < 3 {
        return sorted;
    }
    let mut hull: Vec<DVec2> = Vec::new();
    let half = |points: &mut dyn Iterator<Item = DVec2>, hull: &mut Vec<DVec2>| {
        let first = hull.len();
        for point in points {
            while hull.len() >= first + 2 {
                let [a, b] = [hull[hull.len() - 2], hull[hull.len() - 1]];
                if (b - a).perp_dot(point - a) > 0.0 {
                    break;
                }
                hull.pop();
            }
            hull.push(point);
        }
        hull.pop();
    };
    half(&mut sorted.iter().copied(), &mut hull);
    half(&mut sorted.iter().rev().copied(), &mut hull);
    hull
}
