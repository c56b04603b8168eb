//! What holds for all GLB files that are written.

use serde_json::{Value, json};

/// The document of a GLB.
pub fn document(file: &[u8]) -> Value {
    let length = u32::from_le_bytes(file[12..16].try_into().unwrap()) as usize;
    serde_json::from_slice(&file[20..20 + length]).unwrap()
}

/// Holds a GLB to the specification: lengths, alignment, targets, bounds, unit normals; and reads it
/// with another reader.
pub fn assert_valid(file: &[u8]) {
    let four = |at: usize| u32::from_le_bytes(file[at..at + 4].try_into().unwrap()) as usize;
    assert_eq!(
        (&file[..4], four(4), four(8)),
        (&b"glTF"[..], 2, file.len())
    );
    let json = document(file);
    let binary_at = 20 + four(12);
    assert_eq!((four(12) % 4, file.len() % 4), (0, 0));
    let binary = match binary_at < file.len() {
        true => {
            assert_eq!(&file[binary_at + 4..binary_at + 8], b"BIN\0");
            &file[binary_at + 8..]
        }
        false => &[],
    };
    let number = |value: &Value, word: &str| value[word].as_u64().unwrap_or(0) as usize;
    let list = |name: &str| json[name].as_array().cloned().unwrap_or_default();
    let views = list("bufferViews");
    let accessors = list("accessors");
    for buffer in list("buffers") {
        let length = number(&buffer, "byteLength");
        assert!(length > 0 && length <= binary.len() && binary.len() - length < 4);
    }
    for view in &views {
        let end = number(view, "byteOffset") + number(view, "byteLength");
        assert!(number(view, "byteLength") > 0 && end <= number(&list("buffers")[0], "byteLength"));
        assert_eq!(number(view, "byteOffset") % 4, 0);
    }
    let size = |accessor: &Value| {
        let component = match number(accessor, "componentType") {
            5120 | 5121 => 1,
            5122 | 5123 => 2,
            5125 | 5126 => 4,
            other => panic!("component type {other}"),
        };
        let components = match accessor["type"].as_str().unwrap() {
            "SCALAR" => 1,
            "VEC2" => 2,
            "VEC3" => 3,
            "VEC4" => 4,
            "MAT4" => 16,
            other => panic!("type {other}"),
        };
        component * components
    };
    for accessor in &accessors {
        let view = &views[number(accessor, "bufferView")];
        let count = number(accessor, "count");
        assert!(count > 0);
        assert!(count * size(accessor) <= number(view, "byteLength"));
    }
    let floats = |accessor: usize| -> Vec<f32> {
        let view = &views[number(&accessors[accessor], "bufferView")];
        let from = number(view, "byteOffset");
        let bytes = &binary[from..from + number(view, "byteLength")];
        let floats = bytes.chunks_exact(4);
        floats
            .map(|b| f32::from_le_bytes(b.try_into().unwrap()))
            .collect()
    };
    for primitive in list("meshes").iter().flat_map(|mesh| {
        assert!(!mesh["primitives"].as_array().unwrap().is_empty());
        mesh["primitives"].as_array().unwrap()
    }) {
        let attributes = primitive["attributes"].as_object().unwrap();
        let positions = attributes["POSITION"].as_u64().unwrap() as usize;
        let count = number(&accessors[positions], "count");
        for accessor in attributes.values() {
            let accessor = &accessors[accessor.as_u64().unwrap() as usize];
            assert_eq!(number(accessor, "count"), count);
            assert_eq!(
                number(&views[number(accessor, "bufferView")], "target"),
                34_962
            );
        }
        let about = &accessors[positions];
        for axis in 0..3 {
            let own = floats(positions).into_iter().skip(axis).step_by(3);
            let (low, high) = own.fold((f32::MAX, f32::MIN), |(l, h), v| (l.min(v), h.max(v)));
            assert_eq!(about["min"][axis].as_f64().unwrap() as f32, low);
            assert_eq!(about["max"][axis].as_f64().unwrap() as f32, high);
        }
        if let Some(normals) = attributes.get("NORMAL") {
            for normal in floats(normals.as_u64().unwrap() as usize).chunks(3) {
                let length = normal.iter().map(|n| n * n).sum::<f32>().sqrt();
                assert!((length - 1.0).abs() < 1e-4, "{normal:?}");
            }
        }
        let indices = &accessors[number(primitive, "indices")];
        assert_eq!(
            number(&views[number(indices, "bufferView")], "target"),
            34_963
        );
        if let Some(material) = primitive.get("material") {
            assert!((material.as_u64().unwrap() as usize) < list("materials").len());
        }
    }
    for name in [
        "buffers",
        "bufferViews",
        "accessors",
        "meshes",
        "nodes",
        "materials",
        "scenes",
    ] {
        assert!(
            json.get(name).is_none_or(|list| list != &json!([])),
            "{name} is empty"
        );
    }
    // What another reader makes of it.
    let other = gltf::Gltf::from_slice(file).unwrap();
    let blob = other.blob.as_deref();
    for mesh in other.meshes() {
        for primitive in mesh.primitives() {
            let reader = primitive.reader(|_| blob);
            let count = reader.read_positions().unwrap().count() as u32;
            let indices = reader.read_indices().unwrap().into_u32();
            assert!(indices.into_iter().all(|index| index < count));
        }
    }
}
