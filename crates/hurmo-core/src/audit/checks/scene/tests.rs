use crate::audit::{AuditOptions, Elements, audit};
use crate::mesh::{Model, Tag};
use crate::scene::{Image, ImageData, Material, Node, NodeId, Scene, Shows};
use crate::shapes;
use glam::{DAffine3, DQuat, DVec3};
use std::sync::Arc;

fn node(name: &str, local: DAffine3, children: &[u32], shows: Shows) -> Node {
    Node {
        name: Some(name.into()),
        local,
        children: children.iter().map(|&child| NodeId(child)).collect(),
        shows,
        serves: false,
        moves: false,
        source: None,
    }
}

fn own() -> Shows {
    Shows::Own {
        mesh: None,
        stays: false,
    }
}

/// A stage with planks, one of each fault of scenes, and beside each what is none.
fn stage() -> Model {
    let moved = DAffine3::from_translation(DVec3::X * 3.0);
    let turned = DAffine3::from_quat(DQuat::from_rotation_z(0.5));
    let mirrored = DAffine3::from_scale(DVec3::new(1.0, -1.0, 1.0));
    let nodes = vec![
        node("stage", moved, &[1, 2, 3, 4, 5], Shows::Nothing),
        node("plank", DAffine3::IDENTITY, &[], own()),
        node("plank", turned, &[], Shows::Of(NodeId(1))),
        node("wet plank", mirrored, &[], Shows::Of(NodeId(1))),
        node("bare", DAffine3::IDENTITY, &[], own()),
        node("empty", turned, &[6, 7], Shows::Nothing),
        node("emptier", DAffine3::IDENTITY, &[], Shows::Of(NodeId(4))),
        Node {
            serves: true,
            ..node("eye", DAffine3::IDENTITY, &[], Shows::Nothing)
        },
    ];
    let file = |name: &str, is_there: bool| Image {
        name: None,
        data: ImageData::File {
            name: name.into(),
            found: is_there.then(|| name.into()),
        },
        size: None,
    };
    let mut model = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1));
    model.attributes.tags.table = vec![Tag {
        node: Some(NodeId(1)),
        material: Some("tar".into()),
        ..Tag::default()
    }];
    model.attributes.tags.of_face = vec![0; model.mesh.face_count()];
    model.attributes.scene = Some(Arc::new(Scene {
        nodes,
        roots: vec![NodeId(0)],
        materials: vec![Material::named("tar"), Material::named("brass")],
        images: vec![
            file("maps/tar.png", true),
            file("../maps\\wet wood.png", true),
            file("gone.png", false),
            file("C:\\props\\old.png", false),
            Image {
                name: Some("within".into()),
                data: ImageData::Embedded {
                    media_type: "image/png".into(),
                    bytes: b"png"[..].into(),
                },
                size: Some([2048, 4097]),
            },
        ],
        animations: vec!["drift".into()],
        rest: None,
    }));
    model
}

/// What a check finds, by name.
fn found(model: &Model, check: &str) -> Vec<String> {
    let mut options = AuditOptions::default();
    options.brief.set_level(check, crate::audit::Level::Note);
    options.brief.limits.texture = Some(4096);
    let audit = audit(model, &options, &()).unwrap();
    let finding = audit.findings.iter().find(|found| found.check == check);
    let finding = finding.expect("it is on");
    let names: Vec<String> = (finding.found.places.iter())
        .flat_map(|place| match &place.elements {
            Elements::Named(names) => names.clone(),
            other => panic!("{other:?}"),
        })
        .collect();
    assert_eq!(finding.count(), names.len());
    names
}

#[test]
fn each_fault_of_a_scene_is_found_and_nothing_beside_it() {
    let model = stage();
    for (check, names) in [
        ("node-transforms", &["plank", "wet plank"][..]),
        ("mirroring-transforms", &["wet plank"]),
        ("duplicate-names", &["plank"]),
        ("unsafe-names", &["wet plank"]),
        ("empty-objects", &["bare", "emptier"]),
        ("unused-materials", &["brass"]),
        ("missing-textures", &["gone.png", "C:\\props\\old.png"]),
        ("unsafe-texture-names", &["../maps\\wet wood.png"]),
        ("absolute-texture-paths", &["C:\\props\\old.png"]),
        ("unwanted-animation", &["drift"]),
        ("oversized-textures", &["within"]),
    ] {
        assert_eq!(found(&model, check), names, "{check}");
        let mut plain = model.clone();
        plain.attributes.scene = None;
        if check != "unsafe-names" {
            assert!(found(&plain, check).is_empty(), "{check}");
        }
    }
}

#[test]
fn an_object_is_where_its_faces_are() {
    let model = stage();
    let audit = audit(&model, &AuditOptions::default(), &()).unwrap();
    let at = |check: &str| {
        let finding = audit.findings.iter().find(|found| found.check == check);
        finding.unwrap().found.places[0].at
    };
    // The mesh of the one that is shown there, though another node has it.
    assert_eq!(at("mirroring-transforms"), DVec3::splat(0.5));
}
