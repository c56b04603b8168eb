//! Which faces of one mesh another has, too: by where their corners are.

use super::{FaceId, Mesh};
use glam::DVec3;
use rayon::prelude::*;
use std::cmp::Ordering;

/// For every face of `mesh`, whether `other` has none like it: a face with its corners at exactly
/// the same places, in whatever order. Of several such faces, only as many count as `other` has;
/// and of those only the ones that `counts` says so of. Cost: a sort of the faces that don't stand at their old place in the list.
pub fn faces_not_in(
    mesh: &Mesh,
    other: &Mesh,
    counts: impl Fn(FaceId) -> bool + Sync,
) -> Vec<bool> {
    let shared = mesh.face_count().min(other.face_count());
    let stays: Vec<bool> = (0..shared)
        .into_par_iter()
        .with_min_len(4096)
        .map(|face| {
            let face = FaceId::new(face);
            counts(face) && mesh.face_points(face).eq(other.face_points(face))
        })
        .collect();
    let moved = |mesh: &Mesh| -> Vec<(u64, FaceId)> {
        let moved = |face: &usize| !stays.get(*face).copied().unwrap_or(false);
        let mut keys: Vec<(u64, FaceId)> = (0..mesh.face_count())
            .into_par_iter()
            .filter(moved)
            .map(|face| (key(mesh, FaceId::new(face)), FaceId::new(face)))
            .collect();
        keys.par_sort_unstable();
        keys
    };
    let (new, old) = (moved(mesh), moved(other));
    let mut is_new = vec![false; mesh.face_count()];
    let mut rest = &old[..];
    for alike in new.chunk_by(|a, b| a.0 == b.0) {
        let here = alike[0].0;
        rest = &rest[rest.partition_point(|&(key, _)| key < here)..];
        let count = rest.partition_point(|&(key, _)| key == here);
        let old = rest[..count].iter().map(|&(_, face)| face);
        let mut left: Vec<FaceId> = old.filter(|&face| counts(face)).collect();
        for &(_, face) in alike {
            let places = places(mesh, face);
            match left
                .iter()
                .position(|&old| self::places(other, old) == places)
            {
                Some(found) => {
                    left.swap_remove(found);
                }
                None => is_new[face.index()] = true,
            }
        }
    }
    is_new
}

/// The corners' places, sorted.
fn places(mesh: &Mesh, face: FaceId) -> Vec<DVec3> {
    let mut places: Vec<DVec3> = mesh.face_points(face).collect();
    places.sort_by(|p, q| {
        let by = |axis: usize| p[axis].partial_cmp(&q[axis]).unwrap_or(Ordering::Equal);
        by(0).then_with(|| by(1)).then_with(|| by(2))
    });
    places
}

/// A number that is the same for faces with their corners at the same places.
fn key(mesh: &Mesh, face: FaceId) -> u64 {
    mesh.face_points(face)
        .map(|p| {
            // -0 equals 0.
            let mixed = |sum: u64, x: f64| {
                (sum.rotate_left(23) ^ (x + 0.0).to_bits()).wrapping_mul(0x9e37_79b9_7f4a_7c15)
            };
            let mixed = p.to_array().into_iter().fold(0, mixed);
            mixed ^ mixed >> 29
        })
        .fold(0, u64::wrapping_add)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::VertexId;
    use proptest::prelude::*;

    fn scattered(faces: &[Vec<u32>]) -> Mesh {
        let mut mesh = Mesh::default();
        for i in 0..6 {
            mesh.push_vertex(DVec3::new(f64::from(i % 3), f64::from(i / 3), 0.0));
        }
        for face in faces {
            mesh.push_face(face.iter().map(|&v| VertexId(v)));
        }
        mesh
    }

    proptest! {
        /// Against a list from which every face of one takes what is like it.
        #[test]
        fn faces_are_matched_one_by_one(
            one in prop::collection::vec(prop::collection::vec(0u32..6, 3..5), 0..12),
            two in prop::collection::vec(prop::collection::vec(0u32..6, 3..5), 0..12),
            kept in 0usize..6,
        ) {
            // Some stay at their place in the list.
            let mut two = two;
            let kept = kept.min(one.len());
            two.splice(0..0, one[..kept].iter().cloned());
            let sorted = |face: &Vec<u32>| {
                let mut face = face.clone();
                face.sort_unstable();
                face
            };
            let mut left: Vec<Vec<u32>> = two.iter().map(sorted).collect();
            let mut unmatched = 0;
            for face in one.iter().map(sorted) {
                match left.iter().position(|old| *old == face) {
                    Some(found) => {
                        left.swap_remove(found);
                    }
                    None => unmatched += 1,
                }
            }
            let found = faces_not_in(&scattered(&one), &scattered(&two), |_| true);
            prop_assert_eq!(found.iter().filter(|&&new| new).count(), unmatched);
        }
    }
}
