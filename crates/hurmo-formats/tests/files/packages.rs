//! 3MF: what is read of it, that it is written again, and packages that lie.

use glam::{DAffine3, DMat3, DQuat, DVec3};
use hurmo_core::mesh::{Mesh, Model, Tag};
use hurmo_core::scene::{Material, Node, NodeId, Scene, Shows};
use hurmo_core::units::{Axis, Unit};
use hurmo_core::{FaceId, measure, shapes};
use hurmo_formats::{Format, Loaded, ReadError, WriteOptions, read, read_bytes, write};
use std::io::{Cursor, Write};
use std::sync::Arc;

const HEAD: &str = "<?xml version=\"1.0\"?><model unit=\"millimeter\" xmlns=\"http://schemas.microsoft.com/3dmanufacturing/core/2015/02\">";
/// A tetrahedron as object 1.
const TETRAHEDRON: &str = "<object id=\"1\" name=\"cleat &amp; rope\"><mesh><vertices>\
    <vertex x=\"0\" y=\"0\" z=\"0\"/><vertex x=\"6\" y=\"0\" z=\"0\"/><vertex x=\"0\" y=\"1\" z=\"0\"/><vertex x=\"0\" y=\"0\" z=\"1\"/>\
    </vertices><triangles><triangle v1=\"0\" v2=\"2\" v3=\"1\"/><triangle v1=\"0\" v2=\"1\" v3=\"3\"/>\
    <triangle v1=\"0\" v2=\"3\" v3=\"2\"/><triangle v1=\"1\" v2=\"2\" v3=\"3\"/></triangles></mesh></object>";

fn package(parts: &[(&str, &[u8])]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let options = zip::write::SimpleFileOptions::default();
    for (name, bytes) in parts {
        zip.start_file(*name, options).unwrap();
        zip.write_all(bytes).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

fn parsed(document: &str) -> Result<Loaded, ReadError> {
    let parts: [(&str, &[u8]); 2] = [
        ("[Content_Types].xml", b"<Types/>"),
        ("3D/3dmodel.model", document.as_bytes()),
    ];
    read_bytes(&package(&parts), Some(Format::ThreeMf))
}

fn built(resources: &str, build: &str) -> Result<Loaded, ReadError> {
    parsed(&format!(
        "{HEAD}<resources>{resources}</resources><build>{build}</build></model>"
    ))
}

#[test]
fn what_is_built_stands_where_it_is_built() {
    let resources = format!(
        "<basematerials id=\"9\"><base name=\"oak\" displaycolor=\"#80402080\"/><base name=\"oak\" displaycolor=\"#ffffff\"/></basematerials>\
         {}<object id=\"2\"><components><component objectid=\"1\"/><component objectid=\"1\" transform=\"1 0 0 0 1 0 0 0 1 0 0 5\"/></components></object>\
         <object id=\"3\" type=\"support\"><mesh><vertices/><triangles/></mesh></object><metadata name=\"Title\">dock</metadata><texture2d id=\"4\"/>",
        TETRAHEDRON.replace(
            "v3=\"3\"/>\
    <triangle v1=\"0\" v2=\"3\"",
            "v3=\"3\" pid=\"9\" p1=\"1\"/><triangle v1=\"0\" v2=\"3\""
        )
    );
    let build = "<item objectid=\"2\" transform=\"2 0 0 0 2 0 0 0 2 10 0 0\"/><item objectid=\"1\" transform=\"-1 0 0 0 1 0 0 0 1 0 0 0\"/>";
    let loaded = built(&resources, build).unwrap();
    let model = &loaded.model;
    assert_eq!((model.unit, model.up), (Some(Unit::Mm), Some(Axis::Z)));
    assert_eq!(model.mesh.face_count(), 4);
    assert_eq!(model.instances(), 2);
    // Twice at double size, once mirrored; all outward.
    let volume = measure::volume(&model.expanded().mesh);
    assert!((volume - (8.0 + 8.0 + 1.0)).abs() < 1e-12, "{volume}");
    let bounds = measure::bounds(&model.expanded().mesh).unwrap();
    assert_eq!(
        (bounds.min.x, bounds.max.x, bounds.max.z),
        (-6.0, 22.0, 12.0)
    );
    let tag = |face: u32| model.attributes.tags.of(FaceId(face)).unwrap();
    assert_eq!(tag(0).object.as_deref(), Some("cleat & rope"));
    assert_eq!(
        (tag(0).material.as_deref(), tag(1).material.as_deref()),
        (None, Some("oak_2"))
    );
    let scene = model.attributes.scene.as_ref().unwrap();
    assert_eq!(scene.material("oak").unwrap().color[3], 128.0 / 255.0);
    assert_eq!(
        loaded.notes,
        [
            "passed over: objects that are not to be built (1)",
            "taken in as they are: supports and other helpers (1)",
            "passed over: 'texture2d' (1)",
        ]
    );
}

#[test]
fn odd_units_are_known() {
    for (unit, known, factor) in [
        ("micron", Unit::Mm, 1e-3),
        ("foot", Unit::In, 12.0),
        ("inch", Unit::In, 1.0),
        ("meter", Unit::M, 1.0),
    ] {
        let head = HEAD.replace("millimeter", unit);
        let document = format!("{head}<resources>{TETRAHEDRON}</resources><build/></model>");
        let loaded = parsed(&document).unwrap();
        assert_eq!(loaded.model.unit, Some(known));
        let size = measure::bounds(&loaded.model.mesh).unwrap().size();
        assert!(size.distance(DVec3::new(6.0, 1.0, 1.0) * factor) < 1e-12);
        assert!(loaded.notes[0].starts_with("nothing in it is to be built"));
    }
}

/// A buoy on a pole, and another buoy that is the same, mirrored and larger.
fn moorings() -> Model {
    let mut mesh = Mesh::default();
    let mut tags = Vec::new();
    let mut of_face = Vec::new();
    let stand = |way: DAffine3, shape: &Mesh, mesh: &mut Mesh| {
        let corners: Vec<_> = shape
            .positions()
            .iter()
            .map(|&p| mesh.push_vertex(way.transform_point3(p)))
            .collect();
        for (_, face) in shape.faces() {
            mesh.push_face(face.iter().map(|v| corners[v.index()]));
        }
        shape.face_count()
    };
    let pole = DAffine3::from_rotation_translation(
        DQuat::from_rotation_x(0.25),
        DVec3::new(3.0, 0.0, 0.0),
    );
    let buoy = DAffine3::from_translation(DVec3::Z * 2.0);
    let other = DAffine3::from_scale_rotation_translation(
        DVec3::new(2.0, -2.0, 2.0),
        DQuat::from_rotation_z(1.0),
        DVec3::Y * 9.0,
    );
    for (node, way, shape, material) in [
        (
            0,
            pole,
            shapes::cuboid(DVec3::ZERO, DVec3::new(0.5, 0.5, 4.0), 1),
            "iron",
        ),
        (1, pole * buoy, shapes::sphere(1.0, 2), "cork & tar"),
    ] {
        let faces = stand(way, &shape, &mut mesh);
        of_face.extend(std::iter::repeat_n(tags.len() as u32, faces));
        tags.push(Tag {
            object: Some(["pole", "buoy"][node].into()),
            material: Some(material.into()),
            node: Some(NodeId(node as u32)),
            ..Tag::default()
        });
    }
    let own = |mesh: &str| Shows::Own {
        mesh: Some(mesh.into()),
        stays: false,
    };
    let node = |name: &str, local, children: &[u32], shows| Node {
        name: Some(name.into()),
        local,
        children: children.iter().map(|&child| NodeId(child)).collect(),
        shows,
        serves: false,
        moves: false,
        source: None,
    };
    let mut model = Model::from(mesh);
    model.attributes.tags.table = tags;
    model.attributes.tags.of_face = of_face;
    model.attributes.scene = Some(Arc::new(Scene {
        nodes: vec![
            node("pole", pole, &[1], own("pole")),
            node("buoy", buoy, &[], own("buoy")),
            node("other", other, &[], Shows::Of(NodeId(1))),
        ],
        roots: vec![NodeId(0), NodeId(2)],
        materials: vec![
            Material {
                color: [0.1, 0.2, 0.3, 1.0],
                ..Material::named("iron")
            },
            Material {
                color: [0.5, 0.5, 0.0, 0.5],
                ..Material::named("cork & tar")
            },
        ],
        ..Scene::default()
    }));
    model.unit = Some(Unit::Cm);
    model.up = Some(Axis::Y);
    model
}

fn written(model: &Model, name: &str) -> Vec<u8> {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join(name);
    let report = write(&path, model, WriteOptions::default()).unwrap();
    assert_eq!(report.format, Format::ThreeMf);
    std::fs::read(&path).unwrap()
}

#[test]
fn what_is_read_is_written_again() {
    let model = moorings();
    let file = written(&model, "moorings.3mf");
    let first = read_bytes(&file, None).unwrap();
    assert_eq!(
        (first.source.format, &first.notes[..]),
        (Format::ThreeMf, &[][..])
    );
    let again = first.model;
    // y was up, z is.
    let turn = Axis::Y.turned_to(Axis::Z);
    let volume = |model: &Model| measure::volume(&model.expanded().mesh);
    assert!((volume(&again) - volume(&model)).abs() < 1e-9 * volume(&model));
    assert_eq!((again.unit, again.up), (Some(Unit::Cm), Some(Axis::Z)));
    let bounds = |model: &Model, by: DMat3| {
        let mut model = model.expanded();
        model.convert(by).unwrap();
        measure::bounds(&model.mesh).unwrap()
    };
    let (was, is) = (bounds(&model, turn), bounds(&again, DMat3::IDENTITY));
    assert!(
        was.min.distance(is.min) < 1e-9 && was.max.distance(is.max) < 1e-9,
        "{was:?} {is:?}"
    );
    assert_eq!(again.instances(), 1);
    let objects = |model: &Model| -> Vec<(Option<String>, Option<String>, usize)> {
        let tags = &model.attributes.tags;
        let count = |tag: usize| {
            tags.of_face
                .iter()
                .filter(|&&own| own as usize == tag)
                .count()
        };
        let table = tags.table.iter().enumerate();
        table
            .map(|(i, tag)| (tag.object.clone(), tag.material.clone(), count(i)))
            .collect()
    };
    let mut was = objects(&model);
    // Quads are cut.
    was[0].2 *= 2;
    let mut is = objects(&again);
    is.sort_by_key(|(name, ..)| name.as_deref() != Some("pole"));
    assert_eq!(is, was);
    let scene = again.attributes.scene.as_ref().unwrap();
    for own in &model.attributes.scene.as_ref().unwrap().materials {
        let color = scene.material(&own.name).unwrap().color;
        assert!(
            color
                .iter()
                .zip(own.color)
                .all(|(a, b)| (a - b).abs() < 0.01),
            "{}",
            own.name
        );
    }
    // From then on nothing changes.
    let twice = read_bytes(&written(&again, "again.3mf"), None)
        .unwrap()
        .model;
    assert!((volume(&twice) - volume(&again)).abs() < 1e-9 * volume(&again));
    assert_eq!(objects(&twice), objects(&again));
}

#[test]
fn packages_that_lie_are_refused() {
    let item = "<item objectid=\"1\"/>";
    let error = |found: Result<Loaded, ReadError>| found.unwrap_err().to_string();
    let wrong = |from: &str, to: &str| error(built(&TETRAHEDRON.replace(from, to), item));
    for (said, expected) in [
        (
            wrong("v1=\"1\" v2=\"2\" v3=\"3\"", "v1=\"1\" v2=\"2\" v3=\"4\""),
            "a triangle has vertex 4, of 4",
        ),
        (wrong("v1=\"1\"", "v1=\"-1\""), "-1 is no whole number"),
        (wrong("x=\"6\"", "x=\"nan\""), "byte"),
        (wrong("x=\"6\" ", ""), "no x"),
        (wrong("</object>", ""), "byte"),
        (wrong("&amp;", "&tide;"), "byte"),
        (
            error(built(TETRAHEDRON, "<item objectid=\"7\"/>")),
            "object 7 does not exist",
        ),
        (
            error(built(&TETRAHEDRON.repeat(2), item)),
            "object 1 is there twice",
        ),
        (
            error(built("", "<item objectid=\"1\" transform=\"1 0 0\"/>")),
            "twelve numbers",
        ),
        (
            error(built("<vertex x=\"0\" y=\"0\" z=\"0\"/>", "")),
            "it is in no object",
        ),
        (error(parsed("<tide/>")), "there is no model in it"),
        (
            error(parsed(
                &HEAD.replace("<model", "<!DOCTYPE a [<!ENTITY b \"b\">]><model"),
            )),
            "document type",
        ),
        (
            error(parsed(&HEAD.replace(
                "unit",
                "requiredextensions=\"q\" xmlns:q=\"http://marsh/reeds\" unit",
            ))),
            "http://marsh/reeds",
        ),
        (
            error(parsed(&HEAD.replace("millimeter", "fathom"))),
            "'fathom' is no unit",
        ),
        (
            error(built(
                "<object id=\"1\"><components><component objectid=\"1\"/></components></object>",
                item,
            )),
            "object 1 is part of itself",
        ),
        (
            error(read_bytes(&package(&[("3D/other.model", b"")]), None)),
            "3D/3dmodel.model can't be read",
        ),
    ] {
        assert!(said.contains(expected), "{said} should have {expected}");
    }
    // Objects of ten of the next, twelve deep.
    let deep = (1..12).map(|i| {
        let part = format!("<component objectid=\"{}\"/>", i + 1);
        format!(
            "<object id=\"{i}\"><components>{}</components></object>",
            part.repeat(10)
        )
    });
    let deep = deep.collect::<String>() + &TETRAHEDRON.replace("id=\"1\"", "id=\"12\"");
    assert!(error(built(&deep, item)).contains("there is no end of them"));
}

#[test]
fn what_unpacks_to_far_more_is_not_unpacked() {
    let bomb = format!("{HEAD}{}", " ".repeat(200 << 20));
    let file = {
        let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
        zip.start_file("3D/3dmodel.model", zip::write::SimpleFileOptions::default())
            .unwrap();
        zip.write_all(bomb.as_bytes()).unwrap();
        zip.finish().unwrap().into_inner()
    };
    assert!(file.len() < 1 << 20);
    let error = read_bytes(&file, None).unwrap_err().to_string();
    assert!(error.contains("far larger than the package"), "{error}");
}

#[test]
fn names_that_lead_elsewhere_lead_nowhere() {
    let folder = tempfile::tempdir().unwrap();
    let inner = folder.path().join("inner");
    std::fs::create_dir(&inner).unwrap();
    std::fs::write(folder.path().join("secret.model"), HEAD).unwrap();
    let relations = "<Relationships><Relationship Target=\"/../secret.model\" Type=\"http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel\"/></Relationships>";
    let file = package(&[
        ("_rels/.rels", relations.as_bytes()),
        ("3D/3dmodel.model", b""),
    ]);
    let path = inner.join("model.3mf");
    std::fs::write(&path, file).unwrap();
    let error = read(&path).unwrap_err().to_string();
    assert!(
        error.contains("../secret.model can't be read from the package"),
        "{error}"
    );
    assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 2);
}
