//! Solids that don't close, joined with others: closed by caps while they are cut.

use glam::DVec3;
use hurmo_core::boolean::{
    BooleanOutcome, Capped, Filled, MayMeet, Rounding, Solids, Source, resolve,
};
use hurmo_core::mend::tidied_after_cuts;
use hurmo_core::seam::at_rims;
use hurmo_core::topology::Edges;
use hurmo_core::{FaceId, Mesh, Model, VertexId, shapes};

/// The faces of a mesh that are wanted.
fn only(mesh: &Mesh, wanted: impl Fn(FaceId) -> bool) -> Mesh {
    let model = Model::from(mesh.clone());
    model.without_faces(|face| !wanted(face)).0.mesh
}

fn union(one: &Mesh, other: &Mesh) -> (Capped, BooleanOutcome) {
    let mut mesh = one.clone();
    mesh.append(other);
    let split = one.face_count();
    let count = mesh.face_count();
    let of: Vec<u32> = (0..count).map(|face| u32::from(face >= split)).collect();
    let capped = Capped::of(&Model::from(mesh), &of, 2).expect("one is open");
    let solids = Solids {
        count: 2,
        of: &|face| Some(capped.solids[face.index()] as usize),
        group: Solids::ONE_GROUP,
        may_meet: MayMeet::Any,
        inside: &|windings| windings[0] > 0 || windings[1] > 0,
        filled: Some(Filled::Positive),
        sheet: None,
        rounding: Rounding::Double,
        join_within: 0.0,
    };
    let made = resolve(&capped.model, &solids, &()).unwrap();
    (capped, made)
}

/// Where the seam runs into a rim.
fn rims_met(capped: &Capped, left: &BooleanOutcome) -> Vec<DVec3> {
    let of = |source: &Source| capped.solids[source.face.index()];
    let solids: Vec<u32> = left.sources.iter().map(of).collect();
    let (tidied, _) = tidied_after_cuts(&left.model);
    at_rims(&left.model, &solids, &tidied)
}

/// An open box, a bar through its wall: the volumes are those of the box with a flat cap; where the bar
/// passes the wall both are joined, and the rim stays open.
#[test]
fn an_open_box_is_as_full_as_under_a_flat_lid() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
    let open = only(&cube, |face| cube.face_points(face).any(|p| p.z < 1.0));
    let bar = shapes::cuboid(DVec3::new(0.5, 0.4, 0.4), DVec3::new(2.0, 0.6, 0.6), 1);
    let (capped, made) = union(&open, &bar);
    assert_eq!(capped.open, [12, 0]);
    let relations = made.relations.as_ref().unwrap();
    assert!((relations.volume(0) - 1.0).abs() < 1e-12);
    assert!((relations.volume_where(|of| of == [0, 1]) - 0.02).abs() < 1e-12);
    let left = capped.without_caps(&made);
    let edges = Edges::of(&left.model.mesh);
    let rim: Vec<_> = edges.ids().filter(|&e| edges.sides(e).len() == 1).collect();
    assert_eq!(rim.len(), 12, "the rim that it had, and no other");
    let on_top = |v: VertexId| left.model.mesh.position(v).z == 1.0;
    assert!(
        rim.iter()
            .all(|&edge| edges.ends(edge).into_iter().all(on_top))
    );
    assert!(rims_met(&capped, &left).is_empty());
}

/// A bar that lies across the rim: the seam ends where it leaves the box, and these places are named.
#[test]
fn a_seam_that_runs_into_a_rim_is_found() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
    let open = only(&cube, |face| cube.face_points(face).any(|p| p.z < 1.0));
    let bar = shapes::cuboid(DVec3::new(0.5, 0.4, 0.8), DVec3::new(2.0, 0.6, 1.3), 1);
    let (capped, made) = union(&open, &bar);
    let left = capped.without_caps(&made);
    let mut places = rims_met(&capped, &left);
    places.sort_by(|a, b| a.y.total_cmp(&b.y));
    assert_eq!(places.len(), 2, "{places:?}");
    assert!(places[0].distance(DVec3::new(1.0, 0.4, 1.0)) < 1e-6);
    assert!(places[1].distance(DVec3::new(1.0, 0.6, 1.0)) < 1e-6);
}
