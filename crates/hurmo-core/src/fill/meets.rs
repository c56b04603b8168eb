//! Which new faces meet others.
//!
//! Old faces are held against new ones; new ones against each other only where that isn't known
//! to be needless, so that a large lid of long triangles costs little.

use crate::geometry::Bounds;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::parallel::{chosen, for_each};
use crate::predicates::on_one_line;
use crate::spatial::{
    Bounds32, Contacts, NOWHERE, TriangleHierarchy, exact_weld, faces_meet, overlap,
    rounded_outward,
};
use std::cell::Cell;
use std::collections::BTreeSet;
use std::ops::Range;
use std::sync::atomic::{AtomicBool, Ordering::Relaxed};

/// New faces that follow each other.
pub(super) struct Run {
    pub faces: Range<usize>,
    /// Whether they are known not to meet each other.
    pub lies_side_by_side: bool,
    /// Whether they are to be looked at.
    pub changed: bool,
}

/// For each run, which of its faces meet another face, by place in the run. Of unchanged runs
/// only those that meet changed ones are named. The runs follow the old faces, without a gap.
pub(super) fn that_meet(mesh: &Mesh, runs: &[Run]) -> Vec<BTreeSet<usize>> {
    let old = runs.first().map_or(0, |run| run.faces.start);
    let touched: Vec<AtomicBool> = (old..mesh.face_count())
        .map(|_| AtomicBool::new(false))
        .collect();
    let touch = |face: FaceId| touched[face.index() - old].store(true, Relaxed);
    if runs.iter().any(|run| run.changed) {
        let place = exact_weld(mesh.positions());
        against_old(mesh, runs, old, &place, touch);
        against_new(mesh, runs, old, touch);
    }
    let is_touched = |&face: &usize| touched[face - old].load(Relaxed);
    let named = |run: &Run| {
        let faces = run.faces.clone().filter(is_touched);
        faces.map(|face| face - run.faces.start).collect()
    };
    runs.iter().map(named).collect()
}

fn against_old(
    mesh: &Mesh,
    runs: &[Run],
    old: usize,
    place: &[VertexId],
    touch: impl Fn(FaceId) + Sync,
) {
    let changed = runs.iter().filter(|run| run.changed);
    let faces: Vec<FaceId> = changed
        .flat_map(|run| run.faces.clone().map(FaceId::new))
        .collect();
    let hierarchy =
        |faces: &[FaceId]| TriangleHierarchy::welded(mesh, faces, |_| false, |v| place[v.index()]);
    let new = hierarchy(&faces);
    let is_near = |face: &FaceId| {
        let bounds = bounds_of(mesh, [*face]);
        let near = Cell::new(false);
        let enter = |node| !near.get() && overlap(node, bounds);
        new.tree().visit(enter, |_| near.set(true));
        near.get()
    };
    let near: Vec<FaceId> = chosen(old, 256, |face| Some(FaceId::new(face)).filter(is_near));
    let near = hierarchy(&near);
    for_each(near.len(), 16, |s| {
        let (vertices, corners) = (near.vertices(s), near.corners(s));
        if on_one_line(corners) {
            return;
        }
        let bounds = near.bounds(s);
        let tree = new.tree();
        tree.visit(
            |node| overlap(node, bounds),
            |t| {
                let others = new.corners(t);
                if overlap(new.bounds(t), bounds)
                    && !on_one_line(others)
                    && faces_meet([vertices, new.vertices(t)], [corners, others])
                {
                    touch(new.face(t));
                }
            },
        );
    });
}

fn against_new(mesh: &Mesh, runs: &[Run], old: usize, touch: impl Fn(FaceId)) {
    let bounds: Vec<Bounds32> = runs
        .iter()
        .map(|run| bounds_of(mesh, run.faces.clone().map(FaceId::new)))
        .collect();
    let is_near_another = |i: usize| {
        (0..runs.len()).any(|j| {
            let concerned = runs[i].changed || runs[j].changed;
            i != j && concerned && overlap(bounds[i], bounds[j])
        })
    };
    let faces: Vec<FaceId> = (0..runs.len())
        .filter(|&i| runs[i].changed && !runs[i].lies_side_by_side || is_near_another(i))
        .flat_map(|i| runs[i].faces.clone().map(FaceId::new))
        .collect();
    let run_of = |face: FaceId| runs.partition_point(|run| run.faces.end <= face.index());
    let apart = |f: FaceId, g: FaceId| {
        let (run, other) = (&runs[run_of(f)], &runs[run_of(g)]);
        let same = run.faces == other.faces;
        !(run.changed || other.changed) || same && run.lies_side_by_side
    };
    debug_assert!(faces.iter().all(|face| face.index() >= old));
    if faces.is_empty() {
        return;
    }
    let contacts = Contacts::among(mesh, &faces, apart);
    faces
        .into_iter()
        .filter(|&face| contacts.touches(face))
        .for_each(touch);
}

fn bounds_of(mesh: &Mesh, faces: impl IntoIterator<Item = FaceId>) -> Bounds32 {
    let points = faces.into_iter().flat_map(|face| mesh.face_points(face));
    Bounds::of(points).map_or(NOWHERE, |b| rounded_outward([b.min, b.max]))
}
