use super::*;
use crate::measure::deviation;
use crate::mesh::{Mesh, VertexId};
use crate::random_cases::cases;
use crate::shapes;
use crate::spatial::faces_not_in;
use crate::wrecks::{spoilt, with_flat_uvs};
use glam::DVec2;
use proptest::prelude::*;

fn checks(names: &[&str]) -> RepatchOptions {
    RepatchOptions {
        at: Where::Checks(names.iter().map(|name| name.to_string()).collect()),
        grow: 1,
        thresholds: Thresholds::default(),
    }
}

fn counts(model: &Model) -> Vec<usize> {
    let audit = audit::audit(model, &audit::AuditOptions::default(), &()).unwrap();
    let checks = faults::NO_MORE.iter();
    checks.map(|check| audit.count(check)).collect()
}

fn moved(mesh: &Mesh, to: impl Fn(DVec3) -> DVec3) -> Mesh {
    let positions = mesh.positions().iter().map(|&p| to(p)).collect();
    let (corners, starts) = (mesh.corners().to_vec(), mesh.starts().to_vec());
    Mesh::from_parts(positions, corners, starts).unwrap()
}

/// The mesh with two neighbours in each other's place, those nearest to a point.
fn swapped(mesh: &Mesh, near: DVec3) -> Mesh {
    let distance = |v: &VertexId| mesh.position(*v).distance(near);
    let nearest = |v: VertexId, other: VertexId| match distance(&v) < distance(&other) {
        true => v,
        false => other,
    };
    let one = mesh.vertex_ids().reduce(nearest).unwrap();
    let beside = mesh.faces().filter(|(_, face)| face.contains(&one));
    let beside = beside.flat_map(|(_, face)| face).copied();
    let two = beside.filter(|&v| v != one).reduce(nearest).unwrap();
    let [here, there] = [one, two].map(|v| mesh.position(v));
    moved(mesh, |p| match p {
        p if p == here => there,
        p if p == there => here,
        p => p,
    })
}

/// A sphere with a fold.
fn folded() -> Mesh {
    swapped(&shapes::sphere(1.0, 4), DVec3::new(0.3, 0.2, 1.0))
}

#[test]
fn a_fold_is_cut_out_and_closed_as_round_as_what_lies_round_it() {
    let model = Model::from(folded());
    let before = audit::audit(&model, &audit::AuditOptions::default(), &()).unwrap();
    assert!(before.count("intersecting-faces") > 0);
    let outcome = repatch(&model, &checks(&["intersecting-faces"]), &()).unwrap();
    assert!(outcome.left.is_empty(), "{:?}", outcome.left);
    let [place] = &outcome.patched[..] else {
        panic!("one place: {:?}", outcome.patched);
    };
    assert_eq!(counts(&outcome.model), [0; 7]);
    // What was not cut out is there still, and in its order.
    let anew = |one: &Model, other: &Model| {
        let all = faces_not_in(&one.mesh, &other.mesh, |_| true);
        all.into_iter().filter(|&anew| anew).count()
    };
    assert!(anew(&outcome.model, &model) <= place.added);
    assert!(anew(&model, &outcome.model) <= place.removed);
    let sphere = shapes::sphere(1.0, 4);
    let off = deviation(&outcome.model.mesh, &sphere, 20_000).unwrap();
    assert!(off.max < 0.02, "{off:?}");
}

#[test]
fn a_spike_through_the_other_side_is_closed_on_both() {
    let sphere = shapes::sphere(1.0, 4);
    let spike = moved(&sphere, |p| match p.distance(DVec3::Z) < 1e-9 {
        true => DVec3::new(0.05, 0.02, -1.3),
        false => p,
    });
    let outcome = repatch(&spike.into(), &checks(&["intersecting-faces"]), &()).unwrap();
    assert_eq!(outcome.patched.len(), 1, "{:?}", outcome.left);
    assert_eq!(counts(&outcome.model), [0; 7]);
    let off = deviation(&outcome.model.mesh, &sphere, 20_000).unwrap();
    assert!(off.max < 0.02, "{off:?}");
}

#[test]
fn a_ring_of_broken_faces_becomes_a_band() {
    let profile: Vec<DVec2> = (0..24).map(|i| DVec2::new(1.0, 0.15 * i as f64)).collect();
    let tube = shapes::lathe(&profile, 32, false);
    let rims = audit::audit(&tube.clone().into(), &audit::AuditOptions::default(), &())
        .unwrap()
        .mesh
        .rims;
    // A row of vertices is mirrored, so that the faces beside it run across the tube.
    let twisted = moved(&tube, |p| match (p.z - 1.5).abs() < 1e-9 {
        true => DVec3::new(p.x, -p.y, p.z),
        false => p,
    });
    let outcome = repatch(&twisted.into(), &checks(&["intersecting-faces"]), &()).unwrap();
    assert_eq!(outcome.patched.len(), 1, "{:?}", outcome.left);
    let audit = audit::audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
    assert_eq!((audit.mesh.rims, audit.mesh.parts), (rims, 1));
    assert_eq!(audit.count("intersecting-faces"), 0);
    let off = deviation(&outcome.model.mesh, &tube, 20_000).unwrap();
    assert!(off.max < 0.05, "{off:?}");
}

#[test]
fn a_fault_on_the_border_of_a_sheet_leaves_that_open() {
    let sheet = shapes::grid(12, 12, 1.0, 1.0);
    let folded = swapped(&sheet, DVec3::new(0.5, 1.0 / 12.0, 0.0));
    let outcome = repatch(&folded.into(), &checks(&["intersecting-faces"]), &()).unwrap();
    assert_eq!(outcome.patched.len(), 1, "{:?}", outcome.left);
    let audit = audit::audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
    assert_eq!((audit.mesh.rims, audit.count("intersecting-faces")), (1, 0));
    assert_eq!(audit.count("open-edges"), 48);
}

#[test]
fn a_fin_goes_and_the_shape_stays_closed() {
    let mut mesh = shapes::sphere(1.0, 3);
    let [a, b] = [0, 1].map(|i| mesh.face(FaceId(100))[i]);
    let tip = mesh.push_vertex(1.3 * mesh.position(a));
    mesh.push_face([a, b, tip]);
    let model = Model::from(mesh);
    assert_eq!(counts(&model)[1], 1);
    let outcome = repatch(&model, &checks(&["nonmanifold-edges"]), &()).unwrap();
    assert_eq!(outcome.patched.len(), 1, "{:?}", outcome.left);
    assert_eq!(counts(&outcome.model), [0; 7]);
}

#[test]
fn what_would_not_be_better_is_left_to_the_last_bit() {
    // Two cubes that cross: whichever faces go, it is most of each.
    let mut mesh = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1);
    let other = shapes::cuboid(DVec3::splat(0.5), DVec3::splat(1.5), 1);
    let base = mesh.vertex_count() as u32;
    for &p in other.positions() {
        mesh.push_vertex(p);
    }
    for (_, face) in other.faces() {
        mesh.push_face(face.iter().map(|v| VertexId(v.0 + base)));
    }
    let model = Model::from(mesh);
    let outcome = repatch(&model, &checks(&["intersecting-faces"]), &()).unwrap();
    assert_eq!(outcome.model, model);
    assert_eq!(outcome.left.len(), 1);
    assert_eq!(outcome.left[0].reason, LeftBecause::MostOfItsPart);
}

#[test]
fn faces_that_are_named_are_closed_anew_with_their_uvs() {
    let model = with_flat_uvs(shapes::grid(20, 20, 1.0, 1.0).into());
    let near = |f: &FaceId| {
        model
            .mesh
            .face_middle(*f)
            .distance(DVec3::new(0.5, 0.5, 0.0))
            < 0.1
    };
    let faces: Vec<FaceId> = model.mesh.face_ids().filter(near).collect();
    let options = RepatchOptions {
        at: Where::Faces(faces.clone()),
        grow: 0,
        thresholds: Thresholds::default(),
    };
    let outcome = repatch(&model, &options, &()).unwrap();
    assert_eq!(outcome.patched[0].removed, faces.len());
    let made = &outcome.model;
    let uvs = made.attributes.uvs.as_ref().unwrap();
    for (corner, vertex) in made.mesh.corners().iter().enumerate() {
        let at = made.mesh.position(*vertex).truncate();
        let uv = uvs.at(corner).expect("every corner has UVs");
        assert!(uv.distance(at) < 0.01, "{uv} at {at}");
    }
}

proptest! {
    #![proptest_config(cases(28))]
    #[test]
    fn no_fault_becomes_more(
        kinds in [0usize..6, 0usize..6],
        apart in prop_oneof![Just(0.1), Just(1.0), Just(5.0)],
        faults in proptest::collection::vec((0usize..20_000, 0usize..4), 0..6),
        joined in proptest::collection::vec((0usize..20_000, 0usize..20_000), 0..3),
        grow in 0usize..3,
    ) {
        let model = spoilt(kinds, apart, &faults, &joined);
        let options = RepatchOptions { grow, ..checks(&CHECKS) };
        let outcome = repatch(&model, &options, &()).unwrap();
        let (was, is) = (counts(&model), counts(&outcome.model));
        for (check, (was, is)) in faults::NO_MORE.iter().zip(was.iter().zip(&is)) {
            prop_assert!(is <= was, "{check}: {was} to {is}");
        }
        if outcome.patched.is_empty() {
            prop_assert_eq!(&outcome.model, &model);
        }
    }
}
