//! Where a skin closes an opening: where the model's winding number passes the half.
//!
//! Along a stretch that no face crosses, that number changes smoothly, and by as much as the caps' changes
//! the other way: they are asked alone. The place is found by the rule of false position, with the weight of
//! an end that stays halved (the Illinois rule: Dowell & Jarratt 1971).

use super::inside_test::INSIDE;
use crate::spatial::Capped;
use glam::DVec3;

/// How near to the half is near enough.
const NEAR: f64 = 1e-4;
/// What the place may be off, as a share of the stretch.
const SHORT: f64 = 1e-4;
/// A place that rays find further from the half than this was guessed wrongly.
const WRONG: f64 = 0.1;
/// How often a place is asked for at most.
const MOST: usize = 14;

/// Where the winding number passes the half between a place where it is less and one where it is more.
pub fn half_between(capped: &Capped<'_, '_>, out: DVec3, within: DVec3) -> DVec3 {
    // An end may lie on the last face before it.
    let ends = [SHORT, 1.0 - SHORT].map(|share| out.lerp(within, share));
    let offs = ends.map(|place| capped.own(place) - INSIDE);
    let guessed = false_position(ends, offs, |place, guess| {
        capped.own_about(place, guess + INSIDE) - INSIDE
    });
    // Without caps nothing was guessed.
    let is_right = || (capped.own(guessed) - INSIDE).abs() < WRONG;
    match capped.caps().is_none() || is_right() {
        true => guessed,
        false => false_position(ends, offs, |place, _| capped.own(place) - INSIDE),
    }
}

/// Which way the winding number falls, from what it is at the corners of a tetrahedron of this size.
pub fn way_out_of_half(capped: &Capped<'_, '_>, at: DVec3, size: f64) -> DVec3 {
    const CORNERS: [[f64; 3]; 4] = [
        [1.0, 1.0, 1.0],
        [1.0, -1.0, -1.0],
        [-1.0, 1.0, -1.0],
        [-1.0, -1.0, 1.0],
    ];
    let rise = CORNERS.map(DVec3::from_array).map(|way| {
        let place = at + way * size;
        way * (capped.own_about(place, INSIDE) - INSIDE)
    });
    -rise.into_iter().sum::<DVec3>().normalize_or_zero()
}

/// The root of `off` between two places, from below it at the first end to above it at the other;
/// it is given a guess at its answer.
fn false_position(
    [mut low, mut high]: [DVec3; 2],
    [mut below, mut above]: [f64; 2],
    off: impl Fn(DVec3, f64) -> f64,
) -> DVec3 {
    let enough = SHORT * low.distance(high);
    // What is left of the weight of each end, and which end moved last.
    let mut weights = [1.0, 1.0];
    let mut moved = None;
    for _ in 0..MOST {
        if below >= 0.0 {
            return low;
        }
        if above <= 0.0 {
            return high;
        }
        let length = low.distance(high);
        if length <= enough {
            break;
        }
        let [weighed, against] = [below * weights[0], above * weights[1]];
        // Not so near to an end that little would be learnt.
        let share = (weighed / (weighed - against)).clamp(0.01, 0.99);
        let place = low.lerp(high, share);
        let measured = off(place, below + (above - below) * share);
        if measured.abs() < NEAR {
            return place;
        }
        let end = usize::from(measured > 0.0);
        weights[end] = 1.0;
        if moved == Some(end) {
            weights[1 - end] /= 2.0;
        }
        moved = Some(end);
        match end {
            0 => (low, below) = (place, measured),
            _ => (high, above) = (place, measured),
        }
    }
    (low + high) / 2.0
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::MeshAnalysis;
    use crate::mesh::{Mesh, Model};
    use crate::shapes;
    use crate::spatial::{TriangleHierarchy, solid_angle};
    use glam::DVec2;
    use std::f64::consts::PI;

    /// A ball's lower part, up to so far round from its lowest point.
    fn bowl(round: f64) -> Model {
        let profile: Vec<DVec2> = (0..=40)
            .map(|i| round * f64::from(i) / 40.0)
            .map(|way| DVec2::new(way.sin(), -way.cos()))
            .collect();
        Model::from(shapes::lathe(&profile, 80, false))
    }

    fn winds(mesh: &Mesh, place: DVec3) -> f64 {
        let hierarchy = TriangleHierarchy::whole(mesh);
        let all = (0..hierarchy.len()).map(|t| solid_angle(hierarchy.corners(t), place));
        all.sum::<f64>() / (4.0 * PI)
    }

    /// Asks with the caps that an audit knows, and without.
    fn both_ways(model: &Model, ask: impl Fn(&Capped<'_, '_>)) {
        let analysis = MeshAnalysis::of(model);
        let hierarchy = TriangleHierarchy::whole(&model.mesh);
        let caps = analysis.caps().expect("its caps are few");
        let caps = TriangleHierarchy::whole(caps);
        ask(&Capped::new(&hierarchy, Some(&caps)));
        ask(&Capped::new(&hierarchy, None));
    }

    /// From any place of the plane in which it is open, one half of all that one sees is bowl.
    #[test]
    fn half_a_ball_is_closed_by_a_plane() {
        let model = bowl(PI / 2.0);
        both_ways(&model, |capped| {
            for (x, y) in [(0.0, 0.0), (0.3, -0.2), (-0.5, 0.4), (0.1, 0.7)] {
                let [out, within] = [0.11, -0.06].map(|z| DVec3::new(x, y, z));
                let place = half_between(capped, out, within);
                // The tree of all faces is not so exact.
                let most = if capped.caps().is_some() { 2e-3 } else { 0.06 };
                assert!(place.z.abs() < most, "{place}");
                let way = way_out_of_half(capped, place, 0.01);
                assert!(way.z > 0.98, "{way}");
            }
        });
    }

    /// Against the sum of all solid angles; stretches end on faces and leave the bowl near its rim, too.
    #[test]
    fn elsewhere_it_is_where_all_solid_angles_say() {
        for round in [1.2, 2.0, 2.6] {
            let model = bowl(round);
            let rim = DVec3::new(round.sin(), 0.0, -round.cos());
            both_ways(&model, |capped| {
                for share in [0.0, 0.3, 0.6, 0.9, 0.97] {
                    let low = DVec3::new(
                        share * rim.x,
                        0.0,
                        -0.999 * (1.0 - (share * rim.x).powi(2)).sqrt(),
                    );
                    let out = DVec3::new(share * rim.x, 0.0, rim.z + 1.0);
                    let place = half_between(capped, out, low);
                    let measured = winds(&model.mesh, place);
                    assert!(
                        (measured - 0.5).abs() < 0.03,
                        "{round} {share}: {measured} at {place}"
                    );
                }
            });
        }
    }
}
