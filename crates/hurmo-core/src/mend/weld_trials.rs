//! Trying welds at several distances, without doing any.
//!
//! Cost: a weld and an edge table for each distance.

use super::weld::{collapsed_by, joins_within};
use crate::measure::bounds;
use crate::mesh::{Mesh, Model};
use crate::progress::Observer;
use crate::spatial::numbered_by_first;
use crate::topology::Edges;

/// What a weld at one distance would do.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct WeldTrial {
    /// Vertices up to so far apart become one, in model units; 0 is those at one place.
    pub distance: f64,
    /// How many vertices would go.
    pub joined: usize,
    /// How many open edges would close.
    pub closed: usize,
    /// How many faces would lose a side.
    pub collapsed: usize,
    /// How many edges would get a third side that have none now.
    pub nonmanifold: usize,
}

impl WeldTrial {
    /// Whether it would spoil nothing.
    pub fn is_safe(&self) -> bool {
        self.collapsed == 0 && self.nonmanifold == 0
    }
}

/// The distances that are tried, as shares of the diagonal.
const SHARES: [f64; 14] = [
    0.0, 1e-6, 2e-6, 5e-6, 1e-5, 2e-5, 5e-5, 1e-4, 2e-4, 5e-4, 1e-3, 2e-3, 5e-3, 1e-2,
];

/// Tries welds from those at one place up to a hundredth of the diagonal; only of vertices on
/// open edges if `seams_only`.
pub fn weld_trials(mesh: &Mesh, seams_only: bool, observer: &dyn Observer) -> Vec<WeldTrial> {
    let diagonal = bounds(mesh).map_or(0.0, |bounds| bounds.diagonal());
    let now = Edges::of(mesh);
    observer.begin("trying welds", SHARES.len() as u64);
    SHARES
        .iter()
        .enumerate()
        .map(|(i, share)| {
            observer.at(i as u64);
            trial(mesh, &now, share * diagonal, seams_only)
        })
        .collect()
}

/// The least of the distances tried that closes as many open edges as any safe one.
pub fn best_weld(trials: &[WeldTrial]) -> f64 {
    let safe = trials.iter().take_while(|trial| trial.is_safe());
    let most = safe.clone().map(|trial| trial.closed).max().unwrap_or(0);
    let mut best = safe.filter(|trial| trial.closed == most);
    best.next().map_or(0.0, |trial| trial.distance)
}

fn trial(mesh: &Mesh, now: &Edges, distance: f64, seams_only: bool) -> WeldTrial {
    let mut joins = joins_within(mesh, distance, seams_only);
    let collapsed = collapsed_by(mesh, &joins);
    let before = joins.len();
    let count = numbered_by_first(&mut joins);
    let mut welded = Model::from(mesh.clone());
    welded.rename_vertices(&joins, count);
    let edges = Edges::of(&welded.mesh);
    let sides = |edges: &Edges, wanted: fn(usize) -> bool| {
        edges
            .ids()
            .filter(|&e| wanted(edges.sides(e).len()))
            .count()
    };
    let fewer =
        |wanted: fn(usize) -> bool| sides(now, wanted).saturating_sub(sides(&edges, wanted));
    let more = |wanted: fn(usize) -> bool| sides(&edges, wanted).saturating_sub(sides(now, wanted));
    WeldTrial {
        distance,
        joined: before - count,
        closed: fewer(|sides| sides == 1),
        collapsed,
        nonmanifold: more(|sides| sides > 2),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;
    use glam::DVec3;

    /// A box of loose quads, their corners `off` from where they should be.
    fn loose(off: f64) -> Mesh {
        let whole = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 4);
        let mut loose = Mesh::default();
        for (face, corners) in whole.faces() {
            let step = DVec3::from_array([0, 1, 2].map(|k| f64::from((face.0 + k) % 3) - 1.0));
            let corners: Vec<_> = corners
                .iter()
                .map(|&v| loose.push_vertex(whole.position(v) + step * off))
                .collect();
            loose.push_face(corners);
        }
        loose
    }

    #[test]
    fn the_best_weld_closes_a_loose_box_and_collapses_nothing() {
        let mesh = loose(1e-4);
        let trials = weld_trials(&mesh, false, &());
        let best = best_weld(&trials);
        assert!(best > 1e-4 && best < 0.01, "{best}");
        let at_best = trials.iter().find(|t| t.distance == best).unwrap();
        assert_eq!(at_best.closed, 4 * mesh.face_count());
        assert_eq!(at_best.collapsed, 0);
        assert!(trials[0].closed < at_best.closed);
        assert!(
            trials
                .windows(2)
                .all(|pair| pair[0].joined <= pair[1].joined)
        );
    }

    #[test]
    fn a_weld_of_seams_leaves_fine_detail_alone() {
        let mut mesh = loose(1e-4);
        // Closed, and much finer than the seams are wide.
        let tiny = shapes::sphere(5e-4, 3);
        let base = mesh.vertex_count() as u32;
        tiny.positions().iter().for_each(|&p| {
            mesh.push_vertex(p + 3.0);
        });
        for (_, face) in tiny.faces() {
            mesh.push_face(face.iter().map(|v| crate::mesh::VertexId(v.0 + base)));
        }
        let all = weld_trials(&mesh, false, &());
        let seams = weld_trials(&mesh, true, &());
        let wanted = 4 * (mesh.face_count() - tiny.face_count());
        let closed = |trials: &[WeldTrial]| {
            let best = best_weld(trials);
            trials.iter().find(|t| t.distance == best).unwrap().closed
        };
        assert!(closed(&all) < wanted);
        assert_eq!(closed(&seams), wanted);
    }
}
