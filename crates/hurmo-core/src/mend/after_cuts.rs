//! What cutting leaves: faces without area, and sheets that an edge ties together.

use super::zero_area::diagonal;
use super::{MendOptions, gap_for, mend};
use crate::audit::{MeshAnalysis, is_zero_area, least_area};
use crate::boolean::BooleanOutcome;
use crate::mesh::{FaceId, Mesh, Model};
use crate::spatial::{Contacts, TriangleHierarchy, exact_weld};
use rustc_hash::FxHashSet;
use smallvec::SmallVec;

/// Where faces hardly larger than nothing can't be cleared, or cuts make others cross anew, vertices that they
/// make are joined within this many times the side of a square that is no larger.
const WIDER: [f64; 3] = [2.0, 4.0, 8.0];

/// Of a model with more faces nothing is joined: each try takes as long as all of the cutting.
const MANY: usize = 20_000;

/// What cutting leaves, by check.
const LEFT: [&str; 2] = ["zero-area-faces", "nonmanifold-edges"];

/// What cutting leaves is tidied: faces without area are collapsed or flipped into their neighbours, and
/// sheets that an edge ties together taken apart by a hair. And how many changes that took; the model as
/// it was, if none.
pub fn tidied_after_cuts(model: &Model) -> (Model, usize) {
    tidied(model, &LEFT)
}

/// The same, but of checks only that had no finding before the cuts: who asks for crossings alone keeps the rest.
pub(super) fn tidied_where_new(before: &MeshAnalysis<'_>, model: Model) -> (Model, usize) {
    let mesh = before.mesh;
    let had = [
        mesh.face_ids().any(|face| before.has_no_area(face)),
        before
            .edges
            .ids()
            .any(|edge| before.edges.sides(edge).len() > 2),
    ];
    let new: Vec<&str> = (LEFT.into_iter().zip(had))
        .filter_map(|(check, had)| (!had).then_some(check))
        .collect();
    match new.is_empty() {
        true => (model, 0),
        false => tidied(&model, &new),
    }
}

fn tidied(model: &Model, checks: &[&str]) -> (Model, usize) {
    let options = MendOptions {
        clear: checks.iter().map(|check| check.to_string()).collect(),
        gap: gap_for(&model.mesh, model.mesh.is_single()),
        ..MendOptions::default()
    };
    match mend(model, &options, &()) {
        Ok(outcome) => {
            let changes = outcome.changes.iter().map(|change| change.count).sum();
            (outcome.model, changes)
        }
        Err(_) => (model.clone(), 0),
    }
}

/// How much is left of what was cut once it is tidied: faces without area, and faces that meet others.
/// `meeting`: what the cuts left of these.
pub fn left_after_tidying(model: &Model, meeting: usize) -> usize {
    let diagonal = diagonal(&model.mesh);
    let without_area = |model: &Model| {
        let mesh = &model.mesh;
        let faces = mesh.face_ids();
        faces.filter(|&f| is_zero_area(mesh, f, diagonal)).count()
    };
    if without_area(model) == 0 {
        return meeting;
    }
    let (tidied, _) = tidied_after_cuts(model);
    meeting + without_area(&tidied) + meeting_anew(&model.mesh, &tidied.mesh)
}

/// How many faces meet others since some were changed.
fn meeting_anew(before: &Mesh, mesh: &Mesh) -> usize {
    let known: FxHashSet<_> = before.face_ids().map(|face| places(before, face)).collect();
    let is_new = |face: FaceId| !known.contains(&places(mesh, face));
    let is_new: Vec<bool> = mesh.face_ids().map(is_new).collect();
    let place = exact_weld(mesh.positions());
    let all: Vec<FaceId> = mesh.face_ids().collect();
    let hierarchy = TriangleHierarchy::welded(mesh, &all, |_| false, |v| place[v.index()]);
    let touching = Contacts::of_new(&hierarchy, &is_new, |_| None).into_touching();
    touching.into_iter().filter(|touches| *touches).count()
}

/// Where a face's corners are, from the lowest on.
fn places(mesh: &Mesh, face: FaceId) -> SmallVec<[[u64; 3]; 3]> {
    let places = mesh.face_points(face);
    let mut places: SmallVec<_> = places.map(|p| p.to_array().map(f64::to_bits)).collect();
    let lowest = (0..places.len()).min_by_key(|&i| places[i]).unwrap_or(0);
    places.rotate_left(lowest);
    places
}

/// Of what is made of a model, the first, or where that leaves something when it is tidied, what leaves least
/// of those in which vertices of cuts are joined within a distance.
pub fn tidiest(
    model: &Model,
    first: BooleanOutcome,
    joined: impl Fn(f64) -> Option<BooleanOutcome>,
) -> BooleanOutcome {
    if !may_be_joined(model) {
        return first;
    }
    let left = |made: &BooleanOutcome| left_after_tidying(&made.model, made.tally.meeting);
    let mut best = (left(&first), first);
    for distance in joining_distances(model) {
        if best.0 == 0 {
            break;
        }
        let Some(made) = joined(distance) else { break };
        let left = left(&made);
        if left < best.0 {
            best = (left, made);
        }
    }
    best.1
}

/// Whether a model has so few faces that it may be cut several times over, with more and more joined.
pub fn may_be_joined(model: &Model) -> bool {
    model.mesh.face_count() <= MANY
}

/// Distances within which vertices that cuts of a model make are joined, one after another, until nothing is
/// left.
pub fn joining_distances(model: &Model) -> impl Iterator<Item = f64> + use<> {
    let side = least_area(diagonal(&model.mesh)).sqrt();
    let tried = if may_be_joined(model) {
        &WIDER[..]
    } else {
        &[]
    };
    tried.iter().map(move |times| times * side)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::boolean::{MayMeet, Rounding, Solids, resolve};
    use crate::shapes;
    use glam::{DMat3, DVec3, EulerRot};
    use proptest::prelude::*;
    use proptest::strategy::ValueTree;
    use proptest::test_runner::TestRunner;

    const CASES: usize = 60;

    /// Boxes whose corners lie millionths of their size beside each other, in single precision: what cutting
    /// makes between these has hardly an area, and yet nothing is left of it but of very few.
    #[test]
    fn corners_that_all_but_coincide_leave_no_faces_without_area() {
        let mut runner = TestRunner::deterministic();
        let turns = prop::array::uniform3(prop::array::uniform3(-3.0..3.0f64));
        let places = prop::array::uniform3(prop::array::uniform3(-3e-6..3e-6f64));
        let cases = (turns, places);
        let (mut before, mut after) = (0, 0);
        for _ in 0..CASES {
            let (turns, places) = cases.new_tree(&mut runner).unwrap().current();
            let mut mesh = Mesh::default();
            for ([x, y, z], place) in turns.into_iter().zip(places) {
                let turn = DMat3::from_euler(EulerRot::XYZ, x, y, z);
                let mut cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
                for p in cube.positions_mut() {
                    *p = turn * *p + DVec3::from_array(place);
                }
                mesh.append(&cube);
            }
            mesh.round_to_single();
            let model = Model::from(mesh);
            let made = |join_within: f64| {
                let solids = Solids {
                    count: 1,
                    of: &|_| Some(0),
                    group: Solids::ONE_GROUP,
                    may_meet: MayMeet::Any,
                    inside: &|windings| windings[0] > 0,
                    filled: None,
                    sheet: None,
                    rounding: Rounding::Single,
                    join_within,
                };
                resolve(&model, &solids, &()).ok()
            };
            let left = |made: &BooleanOutcome| left_after_tidying(&made.model, made.tally.meeting);
            let first = made(0.0).expect("cubes are closed");
            let left_first = left(&first);
            let left_best = left(&tidiest(&model, first, made));
            assert!(left_best <= left_first);
            before += usize::from(left_first > 0);
            after += usize::from(left_best > 0);
        }
        assert!(before > 3 && after <= before / 3, "{after} of {before}");
    }
}
