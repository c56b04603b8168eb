//! Which faces of one mesh another has, too: by where their corners are.

use crate::mesh::{FaceId, Mesh};
use crate::parallel::chosen;
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};
use std::cell::LazyCell;
use std::cmp::Ordering;

/// For every face of `mesh`, whether `other` has none like it: a face with its corners at exactly
/// the same places, in whatever order. Of several such faces, only as many count as `other` has;
/// and of those only the ones that `counts` says so of. Cost: linear where both lists run in the
/// same order but for a few faces; a sort of those that don't.
pub fn faces_not_in(
    mesh: &Mesh,
    other: &Mesh,
    counts: impl Fn(FaceId) -> bool + Sync,
) -> Vec<bool> {
    let [stays, stayed] = in_step(mesh, other, &counts);
    let moved = |mesh: &Mesh, stays: &[bool]| -> Vec<(u64, FaceId)> {
        let mut keys: Vec<(u64, FaceId)> = chosen(mesh.face_count(), 4096, |i| {
            let face = FaceId::new(i);
            (!stays[i]).then(|| (key(mesh, face), face))
        });
        keys.par_sort_unstable();
        keys
    };
    let (new, old) = (moved(mesh, &stays), moved(other, &stayed));
    let mut is_new = vec![false; mesh.face_count()];
    let mut rest = &old[..];
    for alike in new.chunk_by(|a, b| a.0 == b.0) {
        let here = alike[0].0;
        let passed = rest.iter().take_while(|&&(key, _)| key < here).count();
        rest = &rest[passed..];
        let count = rest.iter().take_while(|&&(key, _)| key == here).count();
        let old = rest[..count].iter().map(|&(_, face)| face);
        let mut left: Vec<FaceId> = old.filter(|&face| counts(face)).collect();
        if left.is_empty() {
            alike
                .iter()
                .for_each(|&(_, face)| is_new[face.index()] = true);
            continue;
        }
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

/// Whether a mesh seems to have half of the faces of another at least: of the other's a few are
/// looked for. Cost: hardly any where they stand at the same places in both lists, else linear, but
/// far less than that of looking for all.
pub fn has_most_of(mesh: &Mesh, other: &Mesh) -> bool {
    const LOOKED_FOR: usize = 512;
    let step = other.face_count().div_ceil(LOOKED_FOR).max(1);
    let few = (0..other.face_count()).step_by(step).map(FaceId::new);
    let stays = |face: &FaceId| {
        let is_there = face.index() < mesh.face_count();
        is_there && mesh.face_points(*face).eq(other.face_points(*face))
    };
    if 2 * few.clone().filter(stays).count() >= few.len() {
        return true;
    }
    let keys: FxHashSet<u64> = few.map(|face| key(other, face)).collect();
    let own = chosen(mesh.face_count(), 4096, |face| {
        Some(key(mesh, FaceId::new(face))).filter(|key| keys.contains(key))
    });
    let found: FxHashSet<u64> = own.into_iter().collect();
    2 * found.len() >= keys.len()
}

/// Which faces of both meshes are met when both lists are walked through side by side; where
/// they part, the nearest faces that are alike again are looked for, then any.
fn in_step(mesh: &Mesh, other: &Mesh, counts: impl Fn(FaceId) -> bool) -> [Vec<bool>; 2] {
    /// How far ahead, in both lists together.
    const AHEAD: usize = 8;
    /// After this many vain looks on end, any face that is alike again is looked for.
    const PATIENCE: usize = 8;
    let ends = [mesh.face_count(), other.face_count()];
    let mut found = ends.map(|count| vec![false; count]);
    let alike = |i: usize, j: usize| {
        i < ends[0]
            && j < ends[1]
            && mesh
                .face_points(FaceId::new(i))
                .eq(other.face_points(FaceId::new(j)))
    };
    let anchors = LazyCell::new(|| Anchors::of(other));
    let (mut i, mut j, mut vain) = (0, 0, 0);
    while i < ends[0] && j < ends[1] {
        if alike(i, j) {
            let counts = counts(FaceId::new(j));
            (found[0][i], found[1][j]) = (counts, counts);
            (i, j, vain) = (i + 1, j + 1, 0);
            continue;
        }
        if vain >= PATIENCE {
            // From where they parted.
            let Some(next) = anchors.after(mesh, [i - vain, j - vain], alike) else {
                break;
            };
            ([i, j], vain) = (next, 0);
            continue;
        }
        let mut ahead = (1..=AHEAD).flat_map(|sum| (0..=sum).map(move |a| (a, sum - a)));
        let next = ahead.find(|&(a, b)| alike(i + a, j + b));
        vain += usize::from(next.is_none());
        let (a, b) = next.unwrap_or((1, 1));
        (i, j) = (i + a, j + b);
    }
    found
}

/// Some faces of a mesh, by their keys.
struct Anchors(FxHashMap<u64, usize>);

impl Anchors {
    /// One face in this many is one.
    const STEP: usize = 64;

    fn of(mesh: &Mesh) -> Self {
        let some = (0..mesh.face_count()).step_by(Self::STEP);
        let keyed = some.map(|face| (key(mesh, FaceId::new(face)), face));
        Self(keyed.collect())
    }

    /// Where both lists are alike again, from these places on.
    fn after(
        &self,
        mesh: &Mesh,
        [from, least]: [usize; 2],
        alike: impl Fn(usize, usize) -> bool,
    ) -> Option<[usize; 2]> {
        let mut anchored = (from..mesh.face_count()).filter_map(|i| {
            let j = *self.0.get(&key(mesh, FaceId::new(i)))?;
            (j >= least && alike(i, j)).then_some([i, j])
        });
        let [mut i, mut j] = anchored.next()?;
        while i > from && j > least && alike(i - 1, j - 1) {
            (i, j) = (i - 1, j - 1);
        }
        Some([i, j])
    }
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

    #[test]
    fn most_of_a_mesh_is_in_another_or_not() {
        let ball = crate::shapes::sphere(1.0, 4);
        let part = |from: usize, to: usize| {
            let mut part = Mesh::from_parts(ball.positions().to_vec(), vec![], vec![0]).unwrap();
            for (_, corners) in ball.faces().skip(from).take(to - from) {
                part.push_face(corners.iter().copied());
            }
            part
        };
        let count = ball.face_count();
        assert!(has_most_of(&ball, &ball) && has_most_of(&ball, &part(0, 9)));
        assert!(has_most_of(&part(0, count * 6 / 10), &ball));
        assert!(!has_most_of(&part(0, count * 4 / 10), &ball));
        assert!(!has_most_of(&part(0, count / 2), &part(count / 2, count)));
    }

    /// Long stretches that are gone, put elsewhere or new: all other faces are found.
    #[test]
    fn lists_that_part_are_found_in_step_again() {
        let ball = crate::shapes::sphere(1.0, 5);
        let count = ball.face_count();
        let list = |faces: &mut dyn Iterator<Item = usize>| {
            let mut mesh = Mesh::from_parts(ball.positions().to_vec(), vec![], vec![0]).unwrap();
            for face in faces {
                mesh.push_face(ball.face(FaceId::new(face)).iter().copied());
            }
            mesh
        };
        let new = crate::shapes::sphere(2.0, 4);
        let (a, b) = (count / 5, count / 2);
        let mut here = list(&mut (0..a).chain(b..count).chain(a..b - 100));
        here.append(&new);
        let stays = |mesh: &Mesh| {
            let is_new = faces_not_in(mesh, &ball, |_| true);
            is_new.iter().filter(|&&new| !new).count()
        };
        assert_eq!(stays(&here), count - 100);
        let [stay, _] = in_step(&here, &ball, |_| true);
        let in_step = stay.iter().filter(|&&stays| stays).count();
        assert!(in_step >= count - (b - a), "{in_step} of {count}");
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
