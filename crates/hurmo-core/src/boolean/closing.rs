//! Fates of patches that no ray reaches. The surface that stays is closed: it runs every edge as often one way as
//! the other. So where the fates of all other patches at an edge are known, that of the last follows.

use super::fragments::All;
use super::patches::{Patches, Side, sides_where};
use super::windings::{Fate, Fates};

/// Decides undecided patches, one after another: each by an edge at which it is the only one.
pub(super) fn decide(
    all: &All<'_, '_>,
    patches: &Patches,
    undecided: &mut [bool],
    fates: &mut Fates,
) {
    let is_open = |side: &Side| undecided[patches.patch(side.item.fragment) as usize];
    let sides = sides_where(all, |edge| edge.iter().any(is_open));
    loop {
        let before = fates.undecided;
        for edge in sides.chunk_by(|a, b| a.ends == b.ends) {
            let Some((patch, fate)) = fate_at(edge, patches, undecided, fates) else {
                continue;
            };
            for &fragment in patches.of(patch as usize) {
                fates.of_shard[fragment as usize] = fate;
            }
            undecided[patch as usize] = false;
            fates.undecided -= 1;
        }
        if fates.undecided == before {
            return;
        }
    }
}

/// The undecided patch at an edge and its fate. `None` if there are several, or the fate does not follow.
fn fate_at(
    edge: &[Side],
    patches: &Patches,
    undecided: &[bool],
    fates: &Fates,
) -> Option<(u32, Fate)> {
    let patch = |side: &Side| patches.patch(side.item.fragment);
    let (mut open, mut own, mut others) = (None, 0, 0);
    for side in edge {
        let direction = if side.item.runs_up { 1 } else { -1 };
        if !undecided[patch(side) as usize] {
            others += times(fates.of_shard[side.item.fragment as usize]) * direction;
            continue;
        }
        if *open.get_or_insert(patch(side)) != patch(side) {
            return None;
        }
        own += direction;
    }
    Some((open?, closing(own, others)?))
}

/// The fate with which the surface closes at an edge. The patch runs it `own` times more often upwards than
/// downwards, all that stays of the others `others` times. `None` if no fate closes it, or any does.
fn closing(own: i32, others: i32) -> Option<Fate> {
    [Fate::Goes, Fate::Stays, Fate::Turns]
        .into_iter()
        .find(|&fate| own != 0 && times(fate) * own + others == 0)
}

/// How often what becomes of a fragment runs an edge as the fragment does.
fn times(fate: Fate) -> i32 {
    match fate {
        Fate::Goes => 0,
        Fate::Stays => 1,
        Fate::Turns => -1,
    }
}

#[cfg(test)]
mod tests {
    use crate::boolean::cutting::with_cut;
    use crate::boolean::fragments::Fragments;
    use crate::boolean::windings::{Windings, fates};
    use crate::boolean::{Filled, Operation, Solids};
    use crate::mesh::{FaceId, Mesh, Model};
    use crate::shapes;
    use crate::spatial::exact_weld;
    use glam::DVec3;

    /// Solids, and the face with which each begins.
    fn together(solids: &[Mesh]) -> (Model, Vec<usize>) {
        let mut all = Mesh::default();
        let mut begins = Vec::new();
        for solid in solids {
            begins.push(all.face_count());
            all.append(solid);
        }
        (Model::from(all), begins)
    }

    fn moved(mut mesh: Mesh, by: [f64; 3]) -> Mesh {
        let places = mesh.positions_mut().iter_mut();
        places.for_each(|place| *place += DVec3::from_array(by));
        mesh
    }

    /// Forgets the sides of each patch, and of each two: their fates still follow from the others.
    fn check(solids: &[Mesh], operation: Operation) {
        let (model, begins) = together(solids);
        let count = solids.len();
        let of = |face: FaceId| Some(begins.partition_point(|&begin| begin <= face.index()) - 1);
        let inside = |windings: &Windings| operation.holds(windings, Filled::Positive, count);
        let options = Solids::new(count, &of, &inside);
        let place = exact_weld(model.mesh.positions());
        let fragments = Fragments::of(&model.mesh, &options, place);
        let checked = with_cut(&model, &fragments, count, None, &(), |cut| {
            let expected = fates(cut.all, &cut.patches, &cut.sides, &inside);
            assert_eq!(expected.undecided, 0);
            let patches = cut.sides.len();
            assert!(patches > 3);
            let mut decided_pairs = 0;
            for one in 0..patches {
                for other in one..patches {
                    let mut sides = cut.sides.clone();
                    (sides[one], sides[other]) = (None, None);
                    let found = fates(cut.all, &cut.patches, &sides, &inside);
                    if found.undecided == 0 {
                        assert_eq!(found.of_shard, expected.of_shard, "{one} {other}");
                        decided_pairs += usize::from(one != other);
                    }
                    assert!(one != other || found.undecided == 0, "{one} is left open");
                }
            }
            decided_pairs
        });
        assert!(checked.unwrap() > 0);
    }

    #[test]
    fn what_is_beside_a_patch_tells_what_becomes_of_it() {
        let balls = [
            shapes::sphere(1.0, 2),
            moved(shapes::sphere(0.9, 2), [0.7, 0.1, 0.2]),
            moved(shapes::sphere(0.8, 2), [0.2, 0.6, -0.1]),
        ];
        let cube = |at: [f64; 3]| moved(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1), at);
        // With faces that lie in each other.
        let cubes = [
            cube([0.0; 3]),
            cube([0.5, 0.0, 0.0]),
            cube([0.25, 0.5, 0.0]),
        ];
        for operation in [
            Operation::Union,
            Operation::Difference,
            Operation::Intersection,
        ] {
            check(&balls, operation);
            check(&cubes, operation);
        }
    }
}
