//! Scenes: what is read of glTF, and that all of it is written again.

use crate::common::Builder;
use crate::valid::{assert_valid, document};
use glam::{DAffine3, DQuat, DVec3};
use hurmo_core::mesh::Model;
use hurmo_core::scene::{ImageData, NodeId, Scene, Shows};
use hurmo_core::units::Unit;
use hurmo_core::{FaceId, measure};
use hurmo_formats::{Format, Loaded, WriteOptions, read, read_bytes, write};
use serde_json::json;

fn read_glb(file: &[u8]) -> Loaded {
    read_bytes(file, Some(Format::Gltf)).unwrap()
}

fn written(model: &Model, name: &str) -> Vec<u8> {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join(name);
    write(&path, model, WriteOptions::default()).unwrap();
    std::fs::read(&path).unwrap()
}

fn scene(model: &Model) -> &Scene {
    model.attributes.scene.as_deref().unwrap()
}

/// Where all corners are, in order.
fn corners(model: &Model) -> impl Iterator<Item = DVec3> {
    model.mesh.corners().iter().map(|&v| model.mesh.position(v))
}

/// A red square pixel, as PNG.
fn pixel() -> Vec<u8> {
    let mut png = std::io::Cursor::new(Vec::new());
    let red = image::RgbaImage::from_pixel(1, 1, image::Rgba([255, 0, 0, 255]));
    red.write_to(&mut png, image::ImageFormat::Png).unwrap();
    png.into_inner()
}

/// The corners of a cube from 0 to 1, and its triangles, outward.
fn cube() -> (Vec<f32>, Vec<u16>) {
    let corners = (0..8).flat_map(|i| [i & 1, i >> 1 & 1, i >> 2].map(|bit| bit as f32));
    let quads = [
        [0, 2, 3, 1],
        [4, 5, 7, 6],
        [0, 1, 5, 4],
        [2, 6, 7, 3],
        [0, 4, 6, 2],
        [1, 3, 7, 5],
    ];
    let triangles = quads.iter().flat_map(|&[a, b, c, d]| [a, b, c, a, c, d]);
    (corners.collect(), triangles.collect())
}

/// A landing stage: a plank drawn three times, once mirrored, on a pontoon that floats turned and
/// scaled; two materials, one with a texture; a camera, a light, an animation, words of somebody's.
fn landing_stage() -> Builder {
    let mut file = Builder::new();
    let (corners, triangles) = cube();
    let positions = file.floats(3, &corners);
    let uvs: Vec<f32> = corners
        .chunks(3)
        .flat_map(|c| [c[0] * 0.5, c[1] * 0.25])
        .collect();
    let uvs = file.floats(2, &uvs);
    let low = file.indices(&triangles[..18]);
    let high = file.indices(&triangles[18..]);
    let plank = file.push("meshes", json!({"name": "plank", "primitives": [
        {"attributes": {"POSITION": positions, "TEXCOORD_0": uvs}, "indices": low, "material": 0},
        {"attributes": {"POSITION": positions, "TEXCOORD_0": uvs}, "indices": high, "material": 1},
    ]}));
    let pontoon = file.floats(3, &corners);
    let all = file.indices(&triangles);
    let pontoon = file.push(
        "meshes",
        json!({"primitives": [
            {"attributes": {"POSITION": pontoon}, "indices": all},
        ]}),
    );
    for node in [
        json!({"name": "stage", "translation": [10, 0, 0], "rotation": [0, 0.6, 0, 0.8], "scale": [2, 2, 2],
               "mesh": pontoon, "children": [1, 2, 3, 4], "extras": {"tide": "high"}}),
        json!({"name": "plank", "mesh": plank, "translation": [0, 1.5, 0]}),
        json!({"name": "plank", "mesh": plank, "translation": [3, 1.5, 0], "scale": [-1, 1, 1]}),
        json!({"mesh": plank, "matrix": [1,0,0,0, 0.5,1,0,0, 0,0,1,0, 0,2.5,0,1]}),
        json!({"name": "eye", "camera": 0, "extensions": {"KHR_lights_punctual": {"light": 0}}}),
    ] {
        file.push("nodes", node);
    }
    let png = file.view(&pixel());
    let times = file.floats(1, &[0.0, 1.0]);
    let moves = file.floats(3, &[10.0, 0.0, 0.0, 10.0, 1.0, 0.0]);
    for (name, value) in [
        (
            "materials",
            json!([
                {"name": "wood", "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}, "roughnessFactor": 0.75},
                 "extensions": {"KHR_materials_clearcoat": {"clearcoatFactor": 0.5}}},
                {"name": "wood", "pbrMetallicRoughness": {"baseColorFactor": [0.5, 0.25, 0.125, 0.5], "metallicFactor": 0},
                 "alphaMode": "BLEND", "doubleSided": true},
            ]),
        ),
        ("textures", json!([{"source": 0, "sampler": 0}])),
        ("samplers", json!([{"wrapS": 33071}])),
        (
            "images",
            json!([{"name": "wet wood", "bufferView": png, "mimeType": "image/png"}]),
        ),
        (
            "cameras",
            json!([{"type": "perspective", "perspective": {"yfov": 1.0, "znear": 0.1}}]),
        ),
        (
            "animations",
            json!([{"name": "swell", "channels": [{"sampler": 0, "target": {"node": 0, "path": "translation"}}],
            "samplers": [{"input": times, "output": moves}]}]),
        ),
        (
            "extensions",
            json!({"KHR_lights_punctual": {"lights": [{"type": "point"}]}, "SALT_marsh": {"reeds": 3}}),
        ),
        (
            "extensionsUsed",
            json!([
                "KHR_lights_punctual",
                "KHR_materials_clearcoat",
                "SALT_marsh"
            ]),
        ),
        ("scenes", json!([{"name": "quay", "nodes": [0]}])),
        ("scene", json!(0)),
    ] {
        file.json[name] = value;
    }
    file
}

#[test]
fn a_mesh_is_read_once_where_its_first_node_stands() {
    let loaded = read_glb(&landing_stage().glb());
    let model = &loaded.model;
    assert_eq!(loaded.notes, Vec::<String>::new());
    assert_eq!(model.unit, Some(Unit::M));
    // Two cubes of twelve triangles, each welded to eight vertices though its materials part it.
    assert_eq!(
        (model.mesh.face_count(), model.mesh.vertex_count()),
        (24, 16)
    );
    let volume = measure::volume(&model.mesh);
    assert!((volume - 2.0 * 8.0).abs() < 1e-6, "{volume}");
    let scene = scene(model);
    assert_eq!(scene.objects(), (4, 2));
    assert_eq!(scene.nodes[2].shows, Shows::Of(NodeId(1)));
    let names: Vec<&str> = scene.materials.iter().map(|m| &m.name[..]).collect();
    assert_eq!(names, ["wood", "wood_2"]);
    let ImageData::Embedded { media_type, bytes } = &scene.images[0].data else {
        panic!("{:?}", scene.images)
    };
    assert_eq!((&media_type[..], &bytes[..]), ("image/png", &pixel()[..]));
    // The plank's first vertex, through both transforms.
    let stage = DAffine3::from_scale_rotation_translation(
        DVec3::splat(2.0),
        DQuat::from_xyzw(0.0, f64::from(0.6f32), 0.0, f64::from(0.8f32)).normalize(),
        DVec3::X * 10.0,
    );
    let expected = stage.transform_point3(DVec3::Y * 1.5);
    let near = |at: &DVec3| at.distance(expected) < 1e-12;
    assert!(model.mesh.positions().iter().any(near));
    let tag = model.attributes.tags.of(FaceId(0)).unwrap();
    assert_eq!(
        (tag.object.as_deref(), tag.material.as_deref()),
        (Some("plank"), Some("wood"))
    );
    let uvs = model.attributes.uvs.as_ref().unwrap();
    assert_eq!(uvs.at(0).unwrap().to_array(), [0.0, 1.0]);
    assert_eq!(uvs.at(5).unwrap().to_array(), [0.5, 1.0]);
}

#[test]
fn what_is_read_is_written_again() {
    let file = landing_stage();
    let first = read_glb(&file.glb()).model;
    let bytes = written(&first, "stage.glb");
    assert_valid(&bytes);
    let again = read_glb(&bytes).model;
    assert_eq!(again.mesh.starts(), first.mesh.starts());
    for (a, b) in corners(&again).zip(corners(&first)) {
        assert!(a.distance(b) < 1e-6, "{a} {b}");
    }
    let corner_uvs = |model: &Model| -> Vec<_> {
        let uvs = model.attributes.uvs.as_ref().unwrap();
        (0..model.mesh.corners().len())
            .map(|corner| uvs.at(corner))
            .collect()
    };
    assert_eq!(corner_uvs(&again), corner_uvs(&first));
    assert_eq!(again.attributes.tags, first.attributes.tags);
    let (was, is) = (scene(&first), scene(&again));
    assert_eq!((&is.nodes, &is.roots), (&was.nodes, &was.roots));
    assert_eq!((&is.materials, &is.images), (&was.materials, &was.images));
    // And word by word.
    let document = document(&bytes);
    for name in [
        "textures",
        "samplers",
        "cameras",
        "extensions",
        "extensionsUsed",
        "scenes",
        "scene",
    ] {
        assert_eq!(document[name], file.json[name], "{name}");
    }
    assert_eq!(document["materials"][0], file.json["materials"][0]);
    assert_eq!(
        document["animations"][0]["channels"],
        file.json["animations"][0]["channels"]
    );
    for word in ["translation", "rotation", "scale", "extras"] {
        assert_eq!(
            document["nodes"][0][word], file.json["nodes"][0][word],
            "{word}"
        );
    }
    assert_eq!(document["nodes"][4], file.json["nodes"][4]);
    let other = gltf::Gltf::from_slice(&bytes).unwrap();
    let blob = other.blob.as_deref();
    let channel = other
        .animations()
        .next()
        .unwrap()
        .channels()
        .next()
        .unwrap();
    let gltf::animation::util::ReadOutputs::Translations(moves) =
        channel.reader(|_| blob).read_outputs().unwrap()
    else {
        panic!("translations")
    };
    assert_eq!(
        moves.collect::<Vec<_>>(),
        [[10.0, 0.0, 0.0], [10.0, 1.0, 0.0]]
    );
    // What is written a third time is the same to the byte.
    assert_eq!(written(&again, "stage.glb"), bytes);
}

#[test]
fn as_text_it_is_the_same() {
    let model = read_glb(&landing_stage().glb()).model;
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("stage.gltf");
    write(&path, &model, WriteOptions::default()).unwrap();
    let json: serde_json::Value = serde_json::from_slice(&std::fs::read(&path).unwrap()).unwrap();
    // What it speaks of lies beside it.
    assert_eq!(json["buffers"][0]["uri"], "stage.bin");
    assert!(
        folder
            .path()
            .join(json["images"][0]["uri"].as_str().unwrap())
            .is_file()
    );
    let again = read(&path).unwrap().model;
    assert_eq!(
        again.mesh,
        read_glb(&written(&model, "stage.glb")).model.mesh
    );
}

#[test]
fn an_object_that_changes_changes_in_its_own_space() {
    let mut model = read_glb(&landing_stage().glb()).model;
    // In millimetres, turned: nodes keep the scale that they had, and no other.
    model
        .convert(glam::DMat3::from_rotation_x(0.5) * 1000.0)
        .unwrap();
    model.unit = Some(Unit::Mm);
    let bytes = written(&model, "stage.glb");
    assert_valid(&bytes);
    let again = read_glb(&bytes).model;
    for (a, b) in corners(&again).zip(corners(&model)) {
        assert!(a.distance(b / 1000.0) < 1e-5, "{a} {b}");
    }
    let lengths = |scene: &Scene| -> Vec<f64> {
        let nodes = scene
            .nodes
            .iter()
            .map(|node| node.local.matrix3.determinant());
        nodes.collect()
    };
    let was = read_glb(&landing_stage().glb()).model;
    for (a, b) in lengths(scene(&again)).iter().zip(lengths(scene(&was))) {
        assert!((a - b).abs() < 1e-5, "{a} {b}");
    }
}

#[test]
fn an_obj_goes_through_with_all_that_both_can_hold() {
    let text = "o hull\nv 0 0 0 1 0.5 0\nv 1 0 0 1 0.5 0\nv 1 1 0 0 0 1\nv 0 1 0 0 0 1\nv 0 0 2\nvt 0 0\nvt 1 0\nvt 1 1\nvn 0 0 1\n\
        usemtl tar\nf 1/1/1 2/2/1 3/3/1\nusemtl moss\nf 1/1 3/3 4/2\no mast\nf 1 2 5\nl 2 5\n";
    let model = read_bytes(text.as_bytes(), Some(Format::Obj))
        .unwrap()
        .model;
    let bytes = written(&model, "boat.glb");
    assert_valid(&bytes);
    let again = read_glb(&bytes).model;
    let tag = |face: u32| again.attributes.tags.of(FaceId(face)).unwrap();
    assert_eq!(again.mesh.face_count(), 3);
    assert_eq!(
        (tag(0).object.as_deref(), tag(0).material.as_deref()),
        (Some("hull"), Some("tar"))
    );
    assert_eq!(tag(1).material.as_deref(), Some("moss"));
    assert_eq!(
        (tag(2).object.as_deref(), tag(2).material.as_deref()),
        (Some("mast"), Some("moss"))
    );
    let uvs = again.attributes.uvs.as_ref().unwrap();
    let uvs: Vec<_> = (0..9)
        .map(|corner| uvs.at(corner).map(|uv| uv.to_array()))
        .collect();
    let [a, b, c] = [[0.0, 0.0], [1.0, 0.0], [1.0, 1.0]].map(Some);
    assert_eq!(uvs, [a, b, c, a, c, b, None, None, None]);
    let normals = again.attributes.normals.as_ref().unwrap();
    assert_eq!((normals.at(0), normals.at(3)), (Some(DVec3::Z), None));
    assert_eq!(again.lines.len(), 1);
    let colors = again.attributes.colors.as_ref().unwrap();
    let color = colors[again.mesh.face(FaceId(0))[0].index()];
    assert!(
        color
            .iter()
            .zip([1.0, 0.5, 0.0, 1.0])
            .all(|(a, b): (&f32, f32)| (a - b).abs() < 1e-4)
    );
}

#[test]
fn textures_in_files_go_along() {
    let folder = tempfile::tempdir().unwrap();
    let mut file = landing_stage();
    file.json["images"] = json!([{"uri": "maps/wet%20wood.png"}]);
    file.json["buffers"] = json!([{"byteLength": file.bytes.len(), "uri": "stage.bin"}]);
    std::fs::create_dir(folder.path().join("maps")).unwrap();
    std::fs::write(folder.path().join("maps/wet wood.png"), pixel()).unwrap();
    std::fs::write(folder.path().join("stage.bin"), &file.bytes).unwrap();
    let path = folder.path().join("stage.gltf");
    std::fs::write(&path, file.json.to_string()).unwrap();
    let loaded = read(&path).unwrap();
    assert_eq!(loaded.notes, Vec::<String>::new());
    let again = read_glb(&written(&loaded.model, "stage.glb")).model;
    assert!(
        matches!(&scene(&again).images[0].data, ImageData::Embedded { bytes, .. } if bytes[..] == pixel())
    );
    // One that is not there is reported, and stays a name.
    std::fs::remove_file(folder.path().join("maps/wet wood.png")).unwrap();
    let loaded = read(&path).unwrap();
    assert!(
        loaded.notes[0].contains("maps/wet wood.png: there is no such file"),
        "{:?}",
        loaded.notes
    );
    let bytes = written(&loaded.model, "stage.glb");
    assert_eq!(document(&bytes)["images"][0]["uri"], "maps/wet%20wood.png");
}
