//! A scene from every format to every other: what both hold is there in the end, and what one of them
//! does not was named when it was written.

use glam::{DAffine3, DQuat, DVec2, DVec3};
use hurmo_core::mesh::{CornerLayer, Model, Tag};
use hurmo_core::scene::{
    Image, ImageData, ImageId, Material, Node, NodeId, Scene, Shows, TextureUse,
};
use hurmo_core::units::{Axis, Unit};
use hurmo_core::{measure, parts, shapes};
use hurmo_formats::{FORMATS, Format, Holds, WriteOptions, WriteReport, read, write};
use std::io::Cursor;
use std::path::Path;
use std::sync::Arc;

fn picture(color: [u8; 3]) -> Vec<u8> {
    let mut file = Cursor::new(Vec::new());
    let picture = image::RgbImage::from_pixel(4, 4, image::Rgb(color));
    picture
        .write_to(&mut file, image::ImageFormat::Png)
        .unwrap();
    file.into_inner()
}

/// A crate with a lid that hangs on it, and the crate once more; painted, each with a texture of its own.
fn stage() -> Model {
    let body = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2));
    let lid = Model::from(shapes::cuboid(
        DVec3::Z * 1.25,
        DVec3::new(1.0, 1.0, 1.5),
        1,
    ));
    let mut model = parts::joined(&[("body".into(), &body), ("lid".into(), &lid)]).model;
    let first_of_lid = body.mesh.face_count();
    let own = || Shows::Own {
        mesh: None,
        stays: false,
    };
    let node = |name: &str, local, children: &[u32], shows| Node {
        name: Some(name.into()),
        local,
        children: children.iter().map(|&child| NodeId(child)).collect(),
        shows,
        ..Node::default()
    };
    let beside = DAffine3::from_rotation_translation(DQuat::from_rotation_z(0.5), DVec3::X * 4.0);
    let nodes = vec![
        node("stage", DAffine3::IDENTITY, &[1, 3], Shows::Nothing),
        node("body", DAffine3::IDENTITY, &[2], own()),
        node("lid", DAffine3::IDENTITY, &[], own()),
        node("again", beside, &[], Shows::Of(NodeId(1))),
    ];
    let material = |name: &str, image| Material {
        color_texture: Some(TextureUse::of(ImageId(image))),
        ..Material::named(name)
    };
    let image = |name: &str, color| Image {
        name: Some(name.into()),
        data: ImageData::Embedded {
            media_type: "image/png".into(),
            bytes: picture(color).into(),
        },
        size: Some([4, 4]),
    };
    let tag = |name: &str, material: &str, node| Tag {
        object: Some(name.into()),
        material: Some(material.into()),
        node: Some(NodeId(node)),
        ..Tag::default()
    };
    let attributes = &mut model.attributes;
    attributes.tags.table = vec![tag("body", "tar", 1), tag("lid", "oak", 2)];
    let faces = 0..model.mesh.face_count();
    attributes.tags.of_face = faces.map(|face| u32::from(face >= first_of_lid)).collect();
    attributes.colors = Some(
        (0..model.mesh.vertex_count())
            .map(|v| [(v % 6) as f32 / 5.0, 0.2, 0.4, 1.0])
            .collect(),
    );
    let corners = model.mesh.corners().iter();
    attributes.uvs = Some(CornerLayer {
        values: corners
            .map(|&v| model.mesh.position(v).truncate() / 4.0 + DVec2::splat(0.25))
            .collect(),
        index: (0..model.mesh.corners().len() as u32).collect(),
    });
    attributes.scene = Some(Arc::new(Scene {
        nodes,
        roots: vec![NodeId(0)],
        materials: vec![material("tar", 0), material("oak", 1)],
        images: vec![image("tar", [20, 20, 20]), image("oak", [120, 90, 60])],
        ..Scene::default()
    }));
    (model.unit, model.up) = (Some(Unit::M), Some(Axis::Y));
    model
}

fn through(model: &Model, folder: &Path, format: &str) -> (Model, WriteReport) {
    let folder = folder.join(format);
    std::fs::create_dir_all(&folder).unwrap();
    let file = folder.join(format!("stage.{format}"));
    let report = write(&file, model, WriteOptions::default()).unwrap();
    let loaded = read(&file).unwrap();
    let mut model = loaded.model;
    // What a format says nothing of is as it was.
    model.unit = model.unit.or(Some(Unit::M));
    if model.up == Some(Axis::Z) {
        model.convert(Axis::Z.turned_to(Axis::Y)).unwrap();
    }
    if model.unit == Some(Unit::Mm) && report.scaled.is_some() {
        model
            .convert(glam::DMat3::from_diagonal(DVec3::splat(1e-3)))
            .unwrap();
    }
    (model.unit, model.up) = (Some(Unit::M), Some(Axis::Y));
    (model, report)
}

fn named(report: &WriteReport, what: &str) -> bool {
    report.lost.iter().any(|lost| lost.contains(what))
}

/// The textures' files, in order of their materials' names.
fn textures(model: &Model) -> Vec<Vec<u8>> {
    let Some(scene) = &model.attributes.scene else {
        return Vec::new();
    };
    let mut materials: Vec<&Material> = scene.materials.iter().collect();
    materials.sort_by_key(|material| &material.name);
    let used = materials
        .iter()
        .filter_map(|material| material.color_texture.as_ref());
    used.map(|used| match &scene.images[used.image.0 as usize].data {
        ImageData::Embedded { bytes, .. } => bytes.to_vec(),
        ImageData::File { found, .. } => std::fs::read(found.as_ref().unwrap()).unwrap(),
    })
    .collect()
}

/// Every colour that some vertex has, and how many faces each material and object has.
fn colors(model: &Model) -> Vec<[u32; 4]> {
    let colors = model.attributes.colors.iter().flatten();
    let mut colors: Vec<[u32; 4]> = colors
        .map(|c| c.map(|c| (c * 255.0).round() as u32))
        .collect();
    colors.sort_unstable();
    colors.dedup();
    colors
}

fn names(model: &Model, of: impl Fn(&Tag) -> Option<String>) -> Vec<String> {
    let mut names: Vec<String> = model.attributes.tags.used().filter_map(of).collect();
    names.sort();
    names.dedup();
    names
}

#[test]
fn a_scene_goes_from_every_format_to_every_other() {
    let stage = stage();
    let shown = |model: &Model| measure::area(&model.expanded().mesh);
    let area = shown(&stage);
    let holds = |format: &str| -> Holds { Format::of_extension(format).unwrap().entry().holds };
    for one in FORMATS.iter().flat_map(|entry| entry.extensions) {
        let folder = tempfile::tempdir().unwrap();
        let (first, reported) = through(&stage, folder.path(), one);
        let own = holds(one);
        // Named once, where it is lost.
        assert_eq!(
            named(&reported, "UVs"),
            !own.uvs,
            "{one}: {:?}",
            reported.lost
        );
        assert_eq!(named(&reported, "vertex colours"), !own.colors, "{one}");
        assert_eq!(named(&reported, "groups and materials"), !own.tags, "{one}");
        assert_eq!(named(&reported, "textures"), !own.uvs, "{one}");
        assert_eq!(reported.instances > 0, !own.scenes, "{one}");
        for other in FORMATS.iter().flat_map(|entry| entry.extensions) {
            let pair = format!("{one} to {other}");
            let folder = tempfile::tempdir().unwrap();
            let (second, _) = through(&first, folder.path(), other);
            let to = holds(other);
            assert!((shown(&second) / area - 1.0).abs() < 1e-5, "{pair}");
            assert!(first.unit == second.unit && first.up == second.up);
            assert_eq!(second.attributes.uvs.is_some(), own.uvs && to.uvs, "{pair}");
            let expected = if own.colors && to.colors {
                colors(&stage)
            } else {
                Vec::new()
            };
            assert_eq!(colors(&second), expected, "{pair}");
            let all = own.tags && to.tags;
            let materials = names(&second, |tag| tag.material.clone());
            assert_eq!(
                materials,
                if all { vec!["oak", "tar"] } else { vec![] },
                "{pair}"
            );
            let expected = match own.uvs && to.uvs {
                true => vec![picture([120, 90, 60]), picture([20, 20, 20])],
                false => Vec::new(),
            };
            assert_eq!(textures(&second), expected, "{pair}");
            assert_eq!(
                second.instances(),
                usize::from(own.scenes && to.scenes),
                "{pair}"
            );
            let objects = names(&second, |tag| tag.object.clone());
            let written_out = !(own.scenes && to.scenes);
            let expected = match (all, written_out) {
                (false, _) => vec![],
                (true, true) => vec!["again", "body", "lid"],
                (true, false) => vec!["body", "lid"],
            };
            assert_eq!(objects, expected, "{pair}");
            // What hangs on what, in formats of scenes.
            if own.scenes && to.scenes {
                let scene = second.attributes.scene.as_ref().unwrap();
                assert_eq!(scene.objects(), (3, 1), "{pair}");
                let nodes = scene.nodes.iter().filter_map(|node| node.name.as_deref());
                let mut nodes: Vec<&str> = nodes.collect();
                nodes.sort_unstable();
                assert_eq!(nodes, ["again", "body", "lid", "stage"], "{pair}");
            }
        }
    }
}

#[test]
fn instances_beyond_all_measure_are_not_written_out() {
    let mut model = Model::from(shapes::sphere(1.0, 5));
    let node = |shows, x: u32| Node {
        local: DAffine3::from_translation(DVec3::X * f64::from(x)),
        shows,
        ..Node::default()
    };
    let own = Shows::Own {
        mesh: None,
        stays: false,
    };
    let count = 60_000_000 / model.mesh.face_count() as u32;
    let others = (1..count).map(|x| node(Shows::Of(NodeId(0)), x));
    model.attributes.tags.table = vec![Tag {
        node: Some(NodeId(0)),
        ..Tag::default()
    }];
    model.attributes.tags.of_face = vec![0; model.mesh.face_count()];
    model.attributes.scene = Some(Arc::new(Scene {
        nodes: std::iter::once(node(own, 0)).chain(others).collect(),
        roots: (0..count).map(NodeId).collect(),
        ..Scene::default()
    }));
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("many.ply");
    let refused = write(&file, &model, WriteOptions::default()).unwrap_err();
    assert!(refused.to_string().contains("written out"), "{refused}");
    assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 0);
    let file = folder.path().join("many.glb");
    write(&file, &model, WriteOptions::default()).unwrap();
    assert_eq!(read(&file).unwrap().model.instances() as u32, count - 1);
}
