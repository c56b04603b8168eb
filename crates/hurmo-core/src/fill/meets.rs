//! Whether new faces meet others.

use crate::measure::Bounds;
use crate::mesh::{FaceId, Mesh};
use crate::spatial::{BoxTree, Contacts, overlap, rounded_outward};
use rayon::prelude::*;
use std::cell::Cell;

/// For each of several runs of new faces, `counts` long, that follow the old ones, whether one
/// of them meets another face. Only faces near new ones are looked at.
pub(super) fn that_meet(mesh: &Mesh, old: usize, counts: &[usize]) -> Vec<bool> {
    let mut runs = Vec::with_capacity(counts.len());
    let mut from = old;
    for &count in counts {
        runs.push(from..from + count);
        from += count;
    }
    let round = |face: FaceId| Bounds::of(mesh.face_points(face)).unwrap_or(Bounds::NOTHING);
    if from == old {
        return vec![false; counts.len()];
    }
    let tree = BoxTree::new(from - old, |i| {
        let bounds = round(FaceId::new(old + i));
        [bounds.min, bounds.max]
    });
    let is_near = |face: &FaceId| {
        let bounds = round(*face);
        let bounds = rounded_outward([bounds.min, bounds.max]);
        let near = Cell::new(false);
        tree.visit(
            |node| !near.get() && overlap(node, bounds),
            |_| near.set(true),
        );
        near.get()
    };
    let faces: Vec<FaceId> = (0..mesh.face_count())
        .into_par_iter()
        .map(FaceId::new)
        .filter(is_near)
        .collect();
    let contacts = Contacts::among(mesh, &faces);
    runs.into_iter()
        .map(|mut run| run.any(|face| contacts.touches(FaceId::new(face))))
        .collect()
}
