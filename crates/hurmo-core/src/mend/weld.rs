//! Welding vertices at one place, or within a distance.

use super::{Cure, MendError, Options, Step};
use crate::mesh::{Mesh, Model, VertexId};
use crate::spatial::{near_weld, numbered_by_first};
use crate::topology::Edges;

pub(super) const CURE: Cure = Cure {
    clears: &["duplicate-vertices"],
    safe: true,
    drops: false,
    apply,
};

fn apply(model: &mut Model, options: &Options) -> Result<Step, MendError> {
    let mut joins = match options.near {
        Some(distance) => {
            let joins = joins_within(&model.mesh, distance, options.seams_only);
            let faces = collapsed_by(&model.mesh, &joins);
            if faces > 0 && !options.force {
                return Err(MendError::WeldTooFar {
                    distance,
                    faces,
                    safe: largest_safe_distance(&model.mesh, distance, options.seams_only),
                });
            }
            joins
        }
        None => joins_within(&model.mesh, 0.0, options.seams_only),
    };
    let before = joins.len();
    let count = numbered_by_first(&mut joins);
    if count < before {
        model.rename_vertices(&joins, count);
    }
    Ok(Step::did("vertices welded", before - count))
}

/// For every vertex, the one that it becomes in a weld within a distance; only vertices on open
/// edges move if `seams_only`.
pub(super) fn joins_within(mesh: &Mesh, distance: f64, seams_only: bool) -> Vec<VertexId> {
    if !seams_only {
        return near_weld(mesh.positions(), distance);
    }
    let edges = Edges::of(mesh);
    let mut open: Vec<VertexId> = edges
        .ids()
        .filter(|&edge| edges.sides(edge).len() == 1)
        .flat_map(|edge| edges.ends(edge))
        .collect();
    open.sort_unstable();
    open.dedup();
    let places: Vec<_> = open.iter().map(|&v| mesh.position(v)).collect();
    let mut joins: Vec<VertexId> = mesh.vertex_ids().collect();
    for (&vertex, to) in open.iter().zip(near_weld(&places, distance)) {
        joins[vertex.index()] = open[to.index()];
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
