//! Numbers of glTF: the many forms in which they come, and what its own can't hold.

use crate::common::Builder;
use crate::valid::assert_valid;
use glam::DVec3;
use hurmo_core::FaceId;
use hurmo_formats::{Format, WriteOptions, read_bytes, write};
use serde_json::json;

#[test]
fn numbers_come_in_many_forms() {
    let mut file = Builder::new();
    // Four corners of a square, every other one nonsense that a stride passes over; the last is
    // moved by sparse values.
    let corners: Vec<u8> = [
        [0., 0., 0.],
        [9., 9., 9.],
        [1., 0., 0.],
        [9., 9., 9.],
        [0., 1., 0.],
        [9., 9., 9.],
        [5., 5., 5.],
    ]
    .concat()
    .iter()
    .flat_map(|v: &f32| v.to_le_bytes())
    .collect();
    let view = file.view(&corners);
    file.json["bufferViews"][view]["byteStride"] = 24.into();
    let changed = file.view(&[3]);
    let to: Vec<u8> = [1f32, 1., 0.]
        .iter()
        .flat_map(|v| v.to_le_bytes())
        .collect();
    let to = file.view(&to);
    let positions = file.push("accessors", json!({
        "bufferView": view, "componentType": 5126, "type": "VEC3", "count": 4,
        "sparse": {"count": 1, "indices": {"bufferView": changed, "componentType": 5121}, "values": {"bufferView": to}},
    }));
    // Shares of 65535 and of 127.
    let halves: Vec<u8> = [[0u16, 0], [65535, 0], [0, 65535], [65535, 32768]]
        .as_flattened()
        .iter()
        .flat_map(|v| v.to_le_bytes())
        .collect();
    let view = file.view(&halves);
    let uvs = file.push("accessors", json!({"bufferView": view, "componentType": 5123, "type": "VEC2", "count": 4, "normalized": true}));
    let view = file.view(&[0, 0, 127, 0].repeat(4));
    file.json["bufferViews"][view]["byteStride"] = 4.into();
    let normals = file.push("accessors", json!({"bufferView": view, "componentType": 5120, "type": "VEC3", "count": 4, "normalized": true}));
    let colors = file.floats(3, &[1., 1., 1., 0., 0., 0., 1., 0., 0., 0., 1., 0.]);
    // A strip that doubles back, a fan, a list without indices of nothing but noughts, lines.
    let strip = file.indices(&[0, 1, 2, 3, 3]);
    let fan = file.indices(&[0, 1, 3, 2]);
    let round = file.indices(&[0, 1, 3]);
    let noughts = file.push(
        "accessors",
        json!({"componentType": 5126, "type": "VEC3", "count": 3}),
    );
    let streams =
        json!({"POSITION": positions, "TEXCOORD_0": uvs, "NORMAL": normals, "COLOR_0": colors});
    file.push(
        "meshes",
        json!({"primitives": [
            {"attributes": streams, "indices": strip, "mode": 5},
            {"attributes": streams, "indices": fan, "mode": 6},
            {"attributes": {"POSITION": noughts}},
            {"attributes": {"POSITION": positions}, "indices": round, "mode": 2},
            {"attributes": {"POSITION": positions}, "mode": 0},
        ]}),
    );
    file.push("nodes", json!({"mesh": 0, "name": "sail"}));
    let loaded = read_bytes(&file.glb(), Some(Format::Gltf)).unwrap();
    assert_eq!(loaded.notes, ["passed over: points (4)"]);
    let model = &loaded.model;
    let faces: Vec<Vec<[f64; 3]>> = (model.mesh.faces())
        .map(|(_, face)| {
            face.iter()
                .map(|&v| model.mesh.position(v).to_array())
                .collect()
        })
        .collect();
    let [a, b, c, d] = [[0., 0., 0.], [1., 0., 0.], [0., 1., 0.], [1., 1., 0.]];
    assert_eq!(
        faces,
        [[a, b, c], [c, b, d], [a, b, d], [a, d, c], [a, a, a]].map(Vec::from)
    );
    // Corners that are nowhere distinguished are one vertex; the noughts are at the first of them.
    assert_eq!(model.mesh.vertex_count(), 4);
    assert_eq!(model.lines.len(), 1);
    let uvs = model.attributes.uvs.as_ref().unwrap();
    assert!((uvs.at(5).unwrap() - glam::DVec2::new(1.0, 1.0 - 32768.0 / 65535.0)).length() < 1e-6);
    assert_eq!(
        model.attributes.normals.as_ref().unwrap().at(0),
        Some(DVec3::Z)
    );
    let colors = model.attributes.colors.as_ref().unwrap();
    assert_eq!(
        colors[model.mesh.face(FaceId(0))[2].index()],
        [1.0, 0.0, 0.0, 1.0]
    );
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("sail.glb");
    write(&path, model, WriteOptions::default()).unwrap();
    assert_valid(&std::fs::read(&path).unwrap());
}

#[test]
fn what_single_precision_cannot_hold_is_not_written() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("far.glb");
    std::fs::write(&path, "as it was").unwrap();
    let text = "v 0 0 0\nv 1e50 0 0\nv 0 1 0\nf 1 2 3\n";
    let far = read_bytes(text.as_bytes(), Some(Format::Obj))
        .unwrap()
        .model;
    let error = write(&path, &far, WriteOptions::default()).unwrap_err();
    assert!(error.to_string().contains("too large for glTF"), "{error}");
    assert_eq!(std::fs::read(&path).unwrap(), b"as it was");
    assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1);
}
