//! Welding vertices at one place, or within a distance.
//!
//! At one place, vertices where closed surfaces touch are left as they are (see `loose`).

use super::{Cure, MendError, Options, Step, loose};
use crate::mesh::{Mesh, Model, VertexId};
use crate::spatial::{exact_weld, near_weld, numbered_by_first};

pub(super) const CURE: Cure = Cure {
    clears: &["duplicate-vertices"],
    safe: true,
    drops: false,
    apply,
};

fn apply(model: &mut Model, options: &Options) -> Result<Step, MendError> {
    let mesh = &model.mesh;
    let mut apart = None;
    let mut joins = match options.near {
        Some(distance) => {
            let joins = joins_within(mesh, distance, options.seams_only);
            let faces = collapsed_by(mesh, &joins);
            if faces > 0 && !options.force {
                return Err(MendError::WeldTooFar {
                    distance,
                    faces,
                    safe: largest_safe_distance(mesh, distance, options.seams_only),
                });
            }
            joins
        }
        None if options.seams_only => joins_within(mesh, 0.0, true),
        None => {
            let place = exact_weld(mesh.positions());
            let doubled = (0..place.len()).filter(|&i| place[i].index() != i).count();
            if doubled == 0 {
                return Ok(Step::default());
            }
            apart = Some(doubled);
            joins_among(mesh, &loose::movable(mesh, &place), 0.0)
        }
    };
    let before = joins.len();
    let count = numbered_by_first(&mut joins);
    let welded = before - count;
    if welded > 0 {
        model.rename_vertices(&joins, count);
    }
    let mut step = Step::did("{vertex|vertices} welded", welded);
    let left = apart.map_or(0, |doubled| doubled - welded);
    step.left = (left > 0).then_some((
        left,
        "{vertex|vertices} left apart where closed surfaces touch, which a weld would tie together; \
         --near 0 does",
    ));
    Ok(step)
}

/// For every vertex, the one that it becomes in a weld within a distance; only vertices on open
/// edges move if `seams_only`.
pub(super) fn joins_within(mesh: &Mesh, distance: f64, seams_only: bool) -> Vec<VertexId> {
    if !seams_only {
        return near_weld(mesh.positions(), distance);
    }
    joins_among(mesh, &loose::on_seams(mesh), distance)
}

/// The same where only some vertices may move.
fn joins_among(mesh: &Mesh, movable: &[VertexId], distance: f64) -> Vec<VertexId> {
    let places: Vec<_> = movable.iter().map(|&v| mesh.position(v)).collect();
    let mut joins: Vec<VertexId> = mesh.vertex_ids().collect();
    for (&vertex, to) in movable.iter().zip(near_weld(&places, distance)) {
        joins[vertex.index()] = movable[to.index()];
    }
    joins
}

/// How many faces would repeat a vertex after a weld that don't now.
pub(super) fn collapsed_by(mesh: &Mesh, joins: &[VertexId]) -> usize {
    let mut welded = Vec::new();
    mesh.faces()
        .filter(|(face, corners)| {
            welded.clear();
            welded.extend(corners.iter().map(|v| joins[v.index()]));
            crate::mesh::repeats_a_vertex(&welded) && !mesh.is_collapsed(*face)
        })
        .count()
}

/// The largest distance up to `limit` that was tried and collapses nothing, rounded down to
/// three digits.
fn largest_safe_distance(mesh: &Mesh, limit: f64, seams_only: bool) -> f64 {
    let safe = |distance: f64| collapsed_by(mesh, &joins_within(mesh, distance, seams_only)) == 0;
    let (mut low, mut high) = (0.0, limit);
    for _ in 0..14 {
        // Safe distances may lie orders of magnitude below: halve at first, then close in.
        let middle = if low == 0.0 {
            high / 4.0
        } else {
            (low + high) / 2.0
        };
        match safe(middle) {
            true => low = middle,
            false => high = middle,
        }
    }
    if low == 0.0 {
        return 0.0;
    }
    let step = 10f64.powf(low.log10().floor() - 2.0);
    let rounded = (low / step).floor() * step;
    if safe(rounded) { rounded } else { low }
}
