//! What is done to scenes before they go on: transforms, names, empty objects, origin.

use super::tests::{crates, node};
use super::*;
use crate::Model;
use crate::measure::{bounds, volume};
use crate::units::Axis;
use glam::DAffine3;
use glam::{DMat3, DVec3};
use std::sync::Arc;

fn scene_of(model: &Model) -> &Scene {
    model.attributes.scene.as_ref().unwrap()
}

fn scene_mut(model: &mut Model) -> &mut Scene {
    Arc::make_mut(model.attributes.scene.as_mut().unwrap())
}

/// Where all faces are once instances are written out, in any order.
fn shown(model: &Model) -> Vec<[i64; 3]> {
    let mesh = model.expanded().mesh;
    let middles = mesh.face_ids().map(|face| mesh.face_middle(face) * 1e6);
    let mut all: Vec<[i64; 3]> = middles
        .map(|at| at.round().as_i64vec3().to_array())
        .collect();
    all.sort_unstable();
    all
}

#[test]
fn applied_transforms_leave_everything_where_it_is_shown() {
    let mut model = crates();
    let was = shown(&model);
    let applied = model.flatten_transforms();
    // The one that leans and the two that show it, stretched and mirrored.
    assert_eq!(
        (applied.applied, applied.written_out, applied.kept),
        (3, 2, 0)
    );
    assert_eq!(shown(&model), was);
    assert!((volume(&model.mesh) - 9.0).abs() < 1e-9);
    let scene = scene_of(&model);
    let is_plain = |node: &Node| node.local.matrix3 == DMat3::IDENTITY;
    assert!(scene.nodes.iter().all(is_plain));
    // Origins stay, and so does what hangs on what.
    let origins = |model: &Model| -> Vec<DVec3> {
        let placements = scene_of(model).placements();
        placements.iter().map(|way| way.translation).collect()
    };
    for (origin, before) in origins(&model).iter().zip(origins(&crates())) {
        assert!(origin.distance(before) < 1e-9);
    }
    assert_eq!(scene.nodes[1].children, [NodeId(0)]);
    assert_eq!(model.clone().flatten_transforms(), Applied::default());
}

#[test]
fn instances_that_stand_alike_stay_instances() {
    let mut model = crates();
    let lean = scene_of(&model).nodes[1].local;
    // On the scene, leaning as the first does, elsewhere.
    let scene = scene_mut(&mut model);
    scene.nodes[3].local = DAffine3::from_translation(DVec3::Z * 7.0) * lean;
    let was = shown(&model);
    let applied = model.flatten_transforms();
    assert_eq!((applied.written_out, model.instances()), (1, 1));
    assert_eq!(shown(&model), was);
}

#[test]
fn what_moves_keeps_its_transforms_with_all_above_and_below() {
    let mut model = crates();
    scene_mut(&mut model).nodes[0].moves = true;
    let (was, before) = (shown(&model), scene_of(&model).nodes.clone());
    let applied = model.flatten_transforms();
    assert_eq!((applied.applied, applied.kept), (1, 2));
    assert_eq!(scene_of(&model).nodes[0].local, before[0].local);
    assert_eq!(scene_of(&model).nodes[1].local, before[1].local);
    assert_eq!(shown(&model), was);
    // A lamp shines where it did, though what it hangs on leans no more.
    let mut model = crates();
    scene_mut(&mut model).nodes[0].serves = true;
    scene_mut(&mut model).nodes[0].shows = Shows::Nothing;
    let lamp = scene_of(&model).placements()[0];
    model.flatten_transforms();
    assert!(scene_of(&model).placements()[0].abs_diff_eq(lamp, 1e-9));
    assert_eq!(scene_of(&model).nodes[1].local.matrix3, DMat3::IDENTITY);
}

#[test]
fn empty_objects_go_and_all_others_are_found_where_they_were() {
    let mut model = crates();
    let was = shown(&model);
    // An empty one with a child that is empty, in front of the others' numbers.
    let scene = scene_mut(&mut model);
    scene.nodes.push(node(DAffine3::IDENTITY, &[2]));
    scene.nodes[4].name = Some("shelf".into());
    scene.roots = [4, 1, 3].map(NodeId).to_vec();
    assert_eq!(model.drop_empty_objects(), ["node 2", "shelf"]);
    let scene = scene_of(&model);
    assert_eq!(
        (scene.nodes.len(), &scene.roots[..]),
        (3, &[1, 2].map(NodeId)[..])
    );
    assert_eq!(scene.nodes[2].shows, Shows::Of(NodeId(1)));
    assert_eq!(shown(&model), was);
    assert!(model.drop_empty_objects().is_empty());
    // A node that shows the mesh of one without faces is empty, too.
    let (mut bare, _) = model.without_faces(|_| true);
    assert_eq!(bare.drop_empty_objects().len(), 3);
    assert!(scene_of(&bare).roots.is_empty());
}

#[test]
fn names_are_made_different_and_safe() {
    let mut model = crates();
    let scene = scene_mut(&mut model);
    for (node, name) in [
        (0, "wet crate"),
        (1, "crate"),
        (2, "crate"),
        (3, "wet  crate"),
    ] {
        scene.nodes[node].name = Some(name.into());
    }
    scene.materials.push(Material::named("brûlé/2"));
    model.attributes.tags.table[0].material = Some("brûlé/2".into());
    let renamed = |from: &str, to: &str| Renamed {
        from: from.into(),
        to: to.into(),
    };
    assert_eq!(model.make_names_unique(), [renamed("crate", "crate_2")]);
    let changes = [
        renamed("wet crate", "wet_crate"),
        renamed("wet  crate", "wet_crate_2"),
        renamed("brûlé/2", "brule_2"),
    ];
    assert_eq!(model.make_names_safe(), changes);
    let tag = &model.attributes.tags.table[0];
    assert_eq!(tag.object.as_deref(), Some("crate"));
    assert_eq!(tag.material.as_deref(), Some("brule_2"));
    assert!(scene_of(&model).material("brule_2").is_some());
    let nothing: [Renamed; 0] = [];
    assert_eq!(model.make_names_unique(), nothing);
    assert_eq!(model.make_names_safe(), nothing);
}

#[test]
fn safe_names_are_plain_and_short() {
    for name in ["plank", "plank.001", "A-b_3", &"x".repeat(63)] {
        assert!(is_safe_name(name), "{name}");
        assert_eq!(safe_name(name), name);
    }
    for (name, safe) in [
        ("", "unnamed"),
        ("wet plank", "wet_plank"),
        ("planche_brûlée", "planche_brulee"),
        ("a/b", "a_b"),
        ("..", "unnamed"),
        (" a:: b ", "a_b"),
        ("/", "unnamed"),
        (&"x".repeat(64), &"x".repeat(63)),
    ] {
        assert!(!is_safe_name(name), "{name}");
        assert_eq!(safe_name(name), safe);
        assert!(is_safe_name(safe));
    }
}

#[test]
fn a_model_is_moved_to_its_origin_with_its_scene() {
    for (origin, expected) in [
        (Origin::Base, DVec3::new(0.0, 0.5, 0.0)),
        (Origin::Centre, DVec3::ZERO),
    ] {
        let mut model = crates();
        let before = shown(&model);
        let point = model.origin(origin, Axis::Y).unwrap();
        model.move_to_origin(point).unwrap();
        let bounds = bounds(&model.expanded().mesh).unwrap();
        assert_eq!(model.shown_bounds().map(|b| b.max), Some(bounds.max));
        let expected = expected * bounds.size();
        assert!(bounds.middle().distance(expected) < 1e-12);
        // All that is shown moved alike.
        let by = (point * 1e6).to_array();
        for (now, was) in shown(&model).iter().zip(before) {
            for axis in 0..3 {
                assert!((now[axis] as f64 + by[axis] - was[axis] as f64).abs() < 3.0);
            }
        }
    }
    assert_eq!(Model::default().origin(Origin::Base, Axis::Z), None);
}

#[test]
fn faces_that_are_shown_are_counted_without_being_made() {
    let model = crates();
    assert_eq!(
        model.shown_faces(),
        model.expanded().mesh.face_count() as u64
    );
    assert_eq!(Model::from(model.mesh).shown_faces(), 6);
}
