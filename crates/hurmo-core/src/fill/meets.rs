//! Whether new faces meet others.

use crate::measure::Bounds;
use crate::mesh::{FaceId, Mesh};
use crate::spatial::{BoxTree, Contacts, Soup, exact_weld, overlap, rounded_outward};

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
    let boxes: Vec<Bounds> = runs
        .iter()
        .map(|run| {
            let mut bounds = Bounds::NOTHING;
            for point in run.clone().flat_map(|f| mesh.face_points(FaceId::new(f))) {
                bounds.take_in(point);
            }
            bounds
        })
        .collect();
    if from == old {
        return vec![false; counts.len()];
    }
    let tree = BoxTree::new(boxes.len(), |i| [boxes[i].min, boxes[i].max]);
    let is_near = |face: FaceId| {
        let bounds = round(face);
        let bounds = rounded_outward([bounds.min, bounds.max]);
        let mut near = false;
        tree.visit(|node| overlap(node, bounds), |_| near = true);
        near
    };
    let faces: Vec<FaceId> = mesh.face_ids().filter(|&face| is_near(face)).collect();
    let place = exact_weld(mesh.positions());
    let soup = Soup::welded(mesh, &faces, |_| false, |v| place[v.index()]);
    let settled = vec![false; mesh.vertex_count()];
    let contacts = Contacts::of(&soup, mesh.face_count(), &settled, |_| None);
    runs.into_iter()
        .map(|mut run| run.any(|face| contacts.touches(FaceId::new(face))))
        .collect()
}
