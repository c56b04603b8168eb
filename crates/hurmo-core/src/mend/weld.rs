//! Welding vertices at one place, or within a distance.
//!
//! At one place, vertices where closed surfaces touch are not welded (see `weld_candidates`) but moved apart by
//! a hair, so that no format and no later weld ties the surfaces together. An edge that a weld gave
//! an odd number of sides is taken apart again.

use super::nonmanifold::{Apart, take_apart};
use super::{Cure, MendError, MendOptions, Step, weld_candidates};
use crate::audit::doubles;
use crate::mesh::{EdgeId, FaceId, Mesh, Model, VertexId};
use crate::spatial::{exact_weld, near_weld, numbered_by_first};
use crate::topology::{Edges, Side, joined_along_zero_length};
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

pub(super) const CURE: Cure = Cure {
    clears: &["duplicate-vertices"],
    safe: true,
    drops: false,
    apply,
};

fn apply(model: &mut Model, options: &MendOptions) -> Result<Step, MendError> {
    let is_exact = options.near.is_none() && !options.seams_only;
    let collapsed = match is_exact {
        true => collapse_zero_length(model),
        false => 0,
    };
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
                return Ok(Step::did(COLLAPSED, collapsed));
            }
            apart = Some(doubled);
            joins_among(mesh, &weld_candidates::movable(mesh, &place), 0.0)
        }
    };
    let before = joins.len();
    let count = numbered_by_first(&mut joins);
    let welded = before - count;
    let mut step = Step::did(COLLAPSED, collapsed);
    step.done.push(("{vertex|vertices} welded", welded));
    if welded > 0 {
        let untied = Edges::of(&model.mesh);
        model.rename_vertices(&joins, count);
        let parted = untie(model, &untied, options.gap);
        step.done.push((
            "{edge|edges} of those taken apart again, which would have tied sheets together",
            parted,
        ));
    }
    let left = apart.map_or(0, |doubled| doubled - welded);
    if left > 0 && options.gap > 0.0 {
        let moved = part_what_touches(model, options.gap);
        step.done.push((
            "{vertex|vertices} moved apart by a hair, where closed surfaces touch that a weld would \
             tie together",
            moved,
        ));
    } else if left > 0 {
        step.left = Some((left, LEFT_APART));
    }
    Ok(step)
}

const COLLAPSED: &str = "{edge|edges} without length collapsed";

/// Makes one vertex of those at one place that hang together by edges, where the surface stays as it is; returns
/// how many go.
fn collapse_zero_length(model: &mut Model) -> usize {
    let Some(mut joins) = joined_along_zero_length(&model.mesh) else {
        return 0;
    };
    let before = joins.len();
    let count = numbered_by_first(&mut joins);
    model.rename_vertices(&joins, count);
    before - count
}

/// Said of vertices that stay apart, since a weld would tie closed surfaces together.
pub const LEFT_APART: &str =
    "{vertex|vertices} left apart where closed surfaces touch, which a weld would tie together";

/// Takes apart again what a weld tied together: edges that got an odd number of sides, three or
/// more, out of edges that had fewer. Faces are still those that `untied` has. Returns how many.
fn untie(model: &mut Model, untied: &Edges, gap: f64) -> usize {
    let edges = Edges::of(&model.mesh);
    // Of faces on the same vertices the next cure leaves one at most.
    let doubled: FxHashSet<FaceId> = doubles(&model.mesh).into_iter().map(|[f, _]| f).collect();
    let is_tied = |edge: EdgeId| {
        let sides = edges.sides(edge);
        let single = sides.iter().filter(|side| !doubled.contains(&side.face));
        let before = |side: &Side| untied.at_corner(side.corner());
        let first = sides.first().and_then(before);
        sides.len() > 2
            && sides.len() % 2 == 1
            && single.count() > 2
            && sides.iter().any(|side| before(side) != first)
    };
    let tied = edges.ids().filter(|&edge| is_tied(edge)).count();
    if tied > 0 {
        take_apart(model, gap, |edge| match is_tied(edge) {
            true => Apart::Whole,
            false => Apart::Not,
        });
    }
    tied
}

/// Moves all vertices at one place but the first a little into their own faces; returns how many.
fn part_what_touches(model: &mut Model, gap: f64) -> usize {
    let place = exact_weld(model.mesh.positions());
    let mut middles: FxHashMap<VertexId, (DVec3, f64)> = FxHashMap::default();
    for (v, first) in place.iter().enumerate() {
        if first.index() != v {
            middles.insert(VertexId::new(v), Default::default());
        }
    }
    for (face, corners) in model.mesh.faces() {
        let middle = model.mesh.face_middle(face);
        for vertex in corners {
            if let Some(sum) = middles.get_mut(vertex) {
                sum.0 += middle;
                sum.1 += 1.0;
            }
        }
    }
    let positions = model.mesh.positions_mut();
    let mut moved = 0;
    for (vertex, (sum, count)) in middles {
        let at = &mut positions[vertex.index()];
        let step = (sum / count - *at).normalize_or_zero() * gap;
        if step.is_finite() && step != DVec3::ZERO {
            *at += step;
            moved += 1;
        }
    }
    moved
}

/// For every vertex, the one that it becomes in a weld within a distance; only vertices on open
/// edges move if `seams_only`.
pub(super) fn joins_within(mesh: &Mesh, distance: f64, seams_only: bool) -> Vec<VertexId> {
    if !seams_only {
        return near_weld(mesh.positions(), distance);
    }
    joins_among(mesh, &weld_candidates::on_seams(mesh), distance)
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

/// How many faces would repeat a vertex after a weld that don't now: two of their vertices become
/// one that are not at one place.
pub(super) fn collapsed_by(mesh: &Mesh, joins: &[VertexId]) -> usize {
    let mut welded = Vec::new();
    mesh.faces()
        .filter(|(face, corners)| {
            welded.clear();
            welded.extend(
                corners
                    .iter()
                    .map(|v| (joins[v.index()], mesh.position(*v))),
            );
            welded.sort_unstable_by_key(|(vertex, _)| *vertex);
            let merges =
                |pair: &[(VertexId, DVec3)]| pair[0].0 == pair[1].0 && pair[0].1 != pair[1].1;
            welded.windows(2).any(merges) && !mesh.is_collapsed(*face)
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
