//! Which parts a new skin is to be put round: those in which something blocks that it clears.

use hurmo_core::audit::Audit;
use hurmo_core::spatial::TriangleTree;
use hurmo_core::topology::{Edges, Parts};
use hurmo_core::triangulate::all_triangles;
use hurmo_core::{FaceId, Mesh, PartId, VertexId};
use rayon::prelude::*;
use std::collections::BTreeSet;

/// More parts are not named one by one.
const MOST: usize = 200;
/// Where the rest is a smaller share of the faces, it is not worth to be kept apart.
const REST: f64 = 0.1;

/// The parts in which something of `cleared` blocks, and those that come nearer to them than `near`;
/// none where that is most of the model, or where it can't be known.
pub fn concerned(
    mesh: &Mesh,
    audit: &Audit,
    cleared: &[&str],
    near: f64,
) -> Option<BTreeSet<PartId>> {
    let parts = Parts::of(mesh);
    if parts.len() < 2 {
        return None;
    }
    let blocking = audit.blocking().filter(|f| cleared.contains(&f.check));
    let edges = Edges::of(mesh);
    let mut concerned: BTreeSet<PartId> = BTreeSet::new();
    for finding in blocking {
        match finding.check {
            "intersecting-faces" | "crossing-parts" => {
                let meeting = audit.meeting.as_ref()?;
                concerned.extend(meeting.iter().filter_map(|&face| parts.of_face(mesh, face)));
            }
            "open-edges" | "nonmanifold-edges" | "misoriented-edges" => {
                let is_faulty = |edge| edges.sides(edge).len() != 2 || edges.is_misoriented(edge);
                let faulty = edges.ids().filter(|&edge| is_faulty(edge));
                let faces = faulty.map(|edge| edges.sides(edge)[0].face);
                concerned.extend(faces.filter_map(|face| parts.of_face(mesh, face)));
            }
            // What lies in another is no matter of its own.
            "nested-parts" | "interior-faces" => return None,
            _ => {
                let found = &finding.found;
                if found.places.len() < found.place_count {
                    return None;
                }
                concerned.extend(found.places.iter().filter_map(|place| place.part));
            }
        }
    }
    let is_most = |concerned: &BTreeSet<PartId>| {
        let is_among = |face: &FaceId| {
            let part = parts.of_face(mesh, *face);
            part.is_some_and(|part| concerned.contains(&part))
        };
        let among = mesh.face_ids().filter(is_among).count();
        (among as f64) > (1.0 - REST) * mesh.face_count() as f64
    };
    if concerned.is_empty() || is_most(&concerned) {
        return None;
    }
    take_in_what_is_near(mesh, &parts, &mut concerned, near);
    (concerned.len() <= MOST && !is_most(&concerned)).then_some(concerned)
}

/// Adds the parts that come nearer than `near` to some that are there, and to those, and so on.
fn take_in_what_is_near(mesh: &Mesh, parts: &Parts, concerned: &mut BTreeSet<PartId>, near: f64) {
    let (triangles, faces) = all_triangles(mesh);
    let part_of: Vec<Option<PartId>> = faces.iter().map(|&f| parts.of_face(mesh, f)).collect();
    loop {
        let is_in = |part: Option<PartId>| part.is_some_and(|part| concerned.contains(&part));
        let (inside, outside): (Vec<usize>, Vec<usize>) =
            (0..triangles.len()).partition(|&t| is_in(part_of[t]));
        let tree = |list: &[usize]| {
            let corners = |i: usize| triangles[list[i]].map(|v| mesh.position(v));
            TriangleTree::new(list.len(), corners)
        };
        let (own, others) = (tree(&inside), tree(&outside));
        let close: BTreeSet<PartId> = (0..mesh.vertex_count())
            .into_par_iter()
            .filter_map(|v| {
                let v = VertexId::new(v);
                let (at, part) = (mesh.position(v), parts.of_vertex(v)?);
                match concerned.contains(&part) {
                    true => {
                        let found = others.closest_within(at, near)?;
                        part_of[outside[found.triangle as usize]]
                    }
                    false => own.closest_within(at, near).map(|_| part),
                }
            })
            .collect();
        let count = concerned.len();
        concerned.extend(close);
        if concerned.len() == count {
            return;
        }
    }
}
