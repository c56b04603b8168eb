//! Which parts a new skin is to be put round: those in which something blocks that it clears.

use hurmo_core::audit::Audit;
use hurmo_core::topology::{Edges, Parts};
use hurmo_core::{Mesh, PartId};
use std::collections::BTreeSet;

/// More parts are not named one by one.
const MOST: usize = 200;
/// Where the rest is a smaller share of the faces, it is not worth to be kept apart.
const REST: f64 = 0.1;

/// The parts in which something of `cleared` blocks; none where that is most of the model, or where
/// it can't be told.
pub fn concerned(mesh: &Mesh, audit: &Audit, cleared: &[&str]) -> Option<BTreeSet<PartId>> {
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
    let is_among = |face: &hurmo_core::FaceId| {
        let part = parts.of_face(mesh, *face);
        part.is_some_and(|part| concerned.contains(&part))
    };
    let among = mesh.face_ids().filter(is_among).count();
    let rest = 1.0 - among as f64 / mesh.face_count().max(1) as f64;
    (!concerned.is_empty() && concerned.len() <= MOST && rest >= REST).then_some(concerned)
}
