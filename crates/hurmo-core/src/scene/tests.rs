use super::*;
use glam::DAffine3;
use glam::{DMat3, DQuat, DVec3};
use std::sync::Arc;

pub(super) fn node(local: DAffine3, children: &[u32]) -> Node {
    Node {
        local,
        children: children.iter().map(|&child| NodeId(child)).collect(),
        ..Node::default()
    }
}

/// A boat that leans, and on it a mast that is stretched.
fn boat() -> Scene {
    let lean = DQuat::from_rotation_x(0.4);
    let mast = DAffine3::from_scale_rotation_translation(
        DVec3::new(1.0, 5.0, 1.0),
        DQuat::from_rotation_z(0.2),
        DVec3::new(0.0, 1.0, 2.0),
    );
    Scene {
        nodes: vec![
            node(mast, &[]),
            node(
                DAffine3::from_rotation_translation(lean, DVec3::X * 3.0),
                &[0],
            ),
            node(DAffine3::IDENTITY, &[]),
        ],
        roots: vec![NodeId(1), NodeId(2)],
        ..Scene::default()
    }
}

#[test]
fn nodes_stand_where_those_they_hang_on_put_them() {
    let scene = boat();
    let top = scene.placements()[0].transform_point3(DVec3::Y);
    let on_boat = DQuat::from_rotation_z(0.2) * (DVec3::Y * 5.0) + DVec3::new(0.0, 1.0, 2.0);
    let expected = DQuat::from_rotation_x(0.4) * on_boat + DVec3::X * 3.0;
    assert!(top.distance(expected) < 1e-12);
    assert_eq!(scene.reached(), [1, 0, 2].map(NodeId));
}

#[test]
fn a_skinned_mesh_stays_where_its_vertices_are() {
    let mut scene = boat();
    scene.nodes[0].shows = Shows::Own {
        mesh: None,
        stays: true,
    };
    scene.nodes[1].shows = Shows::Of(NodeId(0));
    assert_eq!(scene.mesh_placements()[0], DAffine3::IDENTITY);
    assert_eq!(scene.objects(), (2, 1));
}

#[test]
fn a_converted_scene_is_the_same_scene_turned_and_scaled() {
    let scene = boat();
    let by = DMat3::from_quat(DQuat::from_rotation_x(1.5)) * 1000.0;
    let mut converted = scene.clone();
    converted.convert(by);
    let at = DVec3::new(0.3, -0.2, 0.9);
    for (before, after) in scene.placements().iter().zip(converted.placements()) {
        let moved = by * before.transform_point3(at);
        assert!(after.transform_point3(by * at).distance(moved) < 1e-9);
        // Nobody is scaled who was not.
        let volume = before.matrix3.determinant();
        assert!((after.matrix3.determinant() - volume).abs() < 1e-9);
    }
    assert_eq!(converted.nodes[2].local, DAffine3::IDENTITY);
}

#[test]
fn scenes_put_together_keep_their_nodes_and_all_looks() {
    let image = |name: &str| Image {
        name: None,
        data: ImageData::File {
            name: name.into(),
            found: None,
        },
        size: None,
    };
    let tar = |texture: Option<u32>| Material {
        color_texture: texture.map(|image| TextureUse::of(ImageId(image))),
        ..Material::named("tar")
    };
    let with = |materials: Vec<Material>, images: Vec<Image>| Scene {
        materials,
        images,
        ..boat()
    };
    let mut all = with(vec![tar(Some(0))], vec![image("tar.png")]);
    all.nodes[2].shows = Shows::Of(NodeId(0));
    let same = with(
        vec![tar(Some(1))],
        vec![image("moss.png"), image("tar.png")],
    );
    let other = with(
        vec![tar(Some(0)), Material::named("rope")],
        vec![image("moss.png")],
    );
    let mut whole = all.clone();
    assert_eq!(whole.append(&same).renamed.len(), 0);
    assert_eq!(whole.materials.len(), 1);
    let appended = whole.append(&other);
    assert_eq!(appended.first_node, 6);
    assert_eq!(appended.renamed["tar"], "tar_2");
    let names: Vec<&str> = whole.materials.iter().map(|m| &m.name[..]).collect();
    assert_eq!(names, ["tar", "tar_2", "rope"]);
    let moss = whole
        .material("tar_2")
        .unwrap()
        .color_texture
        .as_ref()
        .unwrap();
    assert_eq!(whole.images[moss.image.0 as usize], image("moss.png"));
    assert_eq!(whole.roots.len(), 6);
    assert_eq!(whole.placements()[6], all.placements()[0]);
    // A scene that shows the mesh of another node still does, among others.
    let appended = whole.append(&all);
    assert_eq!(
        whole.nodes[2 + appended.first_node as usize].shows,
        Shows::Of(NodeId(9))
    );
}

/// Two cubes: one that leans and is shown twice more, once mirrored and stretched, and one that is not.
pub(super) fn crates() -> crate::Model {
    let mut model = crate::Model::from(crate::shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1));
    let placement = |scene: &Scene, node: usize| scene.placements()[node];
    let mut scene = boat();
    scene
        .nodes
        .push(node(DAffine3::from_scale(DVec3::new(-3.0, 1.0, 1.0)), &[]));
    scene.roots.push(NodeId(3));
    scene.nodes[1].name = Some("crate".into());
    scene.nodes[1].shows = Shows::Own {
        mesh: None,
        stays: false,
    };
    scene.nodes[0].shows = Shows::Of(NodeId(1));
    scene.nodes[3].shows = Shows::Of(NodeId(1));
    let at = placement(&scene, 1);
    (model.mesh.positions_mut().iter_mut()).for_each(|p| *p = at.transform_point3(*p));
    let faces = model.mesh.face_count();
    model.attributes.tags.table = vec![crate::mesh::Tag {
        node: Some(NodeId(1)),
        object: Some("crate".into()),
        ..Default::default()
    }];
    model.attributes.tags.of_face = vec![0; faces];
    model.attributes.scene = Some(Arc::new(scene));
    model
}

#[test]
fn instances_become_meshes_where_they_stand() {
    let model = crates();
    assert_eq!(model.instances(), 2);
    let expanded = model.expanded();
    assert_eq!(expanded.instances(), 0);
    assert_eq!(expanded.mesh.face_count(), 3 * model.mesh.face_count());
    // One cube, one five times as high, one three times as wide, all of them outward.
    let volume = crate::measure::volume(&expanded.mesh);
    assert!((volume - 9.0).abs() < 1e-9, "{volume}");
    let scene = expanded.attributes.scene.as_ref().unwrap();
    for (face, corners) in expanded.mesh.faces() {
        let tag = expanded.attributes.tags.of(face).unwrap();
        let at = scene.placements()[tag.node.unwrap().index()].inverse();
        for &corner in corners {
            let local = at.transform_point3(expanded.mesh.position(corner));
            assert!(local.distance(local.round()) < 1e-9 && local.max_element() < 1.1);
        }
    }
    let table = expanded.attributes.tags.table.iter();
    let objects: Vec<&str> = table.filter_map(|tag| tag.object.as_deref()).collect();
    assert_eq!(objects, ["crate", "crate_2", "crate_3"]);
}

#[test]
fn all_objects_become_one() {
    let mut one = crates().expanded();
    one.become_one_object();
    let scene = one.attributes.scene.as_ref().unwrap();
    assert_eq!(scene.objects(), (1, 0));
    let owner = NodeId(1);
    assert!(matches!(scene.node(owner).shows, Shows::Own { .. }));
    assert!(
        one.attributes
            .tags
            .table
            .iter()
            .all(|tag| tag.node == Some(owner))
    );
}

#[test]
fn names_are_free_and_found_at_once() {
    let mut names = Names::default();
    let given = ["plank", "plank_2", "plank", "plank", "oar"].map(|name| names.free(name));
    assert_eq!(given, ["plank", "plank_2", "plank_3", "plank_4", "oar"]);
    // A hundred thousand of one name take no longer than as many of different ones.
    let last = (0..100_000).map(|_| names.free("rope")).last();
    assert_eq!(last.as_deref(), Some("rope_100000"));
}
