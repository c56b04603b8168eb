//! glTF that lies, is cut short or leads elsewhere: one clear error, and no great memory.

use crate::common::{Builder, glb};
use hurmo_formats::{Format, read, read_bytes};
use proptest::prelude::*;
use serde_json::{Value, json};

/// A triangle.
fn sail() -> Builder {
    let mut file = Builder::new();
    let positions = file.floats(3, &[0., 0., 0., 1., 0., 0., 0., 1., 0.]);
    let indices = file.indices(&[0, 1, 2]);
    file.push(
        "meshes",
        json!({"primitives": [{"attributes": {"POSITION": positions}, "indices": indices}]}),
    );
    file.push("nodes", json!({"mesh": 0}));
    file
}

/// What is said of a file after a change to its document.
fn said(change: impl Fn(&mut Value)) -> String {
    let file = sail();
    let mut json = file.json.clone();
    json["buffers"] = json!([{"byteLength": file.bytes.len()}]);
    change(&mut json);
    match read_bytes(&glb(&json, &file.bytes), Some(Format::Gltf)) {
        Ok(loaded) => format!("read: {:?}", loaded.notes),
        Err(error) => error.to_string(),
    }
}

#[test]
fn documents_that_lie_are_refused() {
    assert_eq!(said(|_| {}), "read: []");
    type Change = fn(&mut Value);
    let lies: &[(Change, &str)] = &[
        (
            |json| json["asset"]["version"] = "1.0".into(),
            "this is glTF 1.0",
        ),
        (|json| json["asset"] = json!({}), "does not say which glTF"),
        (
            |json| json["accessors"][0]["count"] = 4.into(),
            "accessors[0]: it reaches beyond its buffer view",
        ),
        (
            |json| json["accessors"][0]["count"] = 4_000_000_000u64.into(),
            "accessors[0]: 4000000000 elements are more",
        ),
        (
            |json| json["accessors"][0]["byteOffset"] = u64::MAX.into(),
            "reaches beyond",
        ),
        (
            |json| json["accessors"][0]["type"] = "VEC2".into(),
            "should have 3 components",
        ),
        (
            |json| json["accessors"][0]["componentType"] = 7.into(),
            "it has no type",
        ),
        (
            |json| json["accessors"][1]["componentType"] = 5126.into(),
            "one whole number",
        ),
        (
            |json| json["accessors"][0]["bufferView"] = 9.into(),
            "bufferViews[9]: there is none",
        ),
        (
            |json| json["bufferViews"][0]["byteLength"] = 4000.into(),
            "bufferViews[0]: it reaches beyond",
        ),
        (
            |json| json["bufferViews"][0]["buffer"] = 3.into(),
            "bufferViews[0]: it reaches beyond",
        ),
        (
            |json| json["bufferViews"][0]["byteStride"] = 252.into(),
            "reaches beyond",
        ),
        (
            |json| json["buffers"][0]["byteLength"] = 4000.into(),
            "buffers[0]: it should have 4000 bytes",
        ),
        (
            |json| json["buffers"][0]["uri"] = "../quay.bin".into(),
            "buffers[0]",
        ),
        (
            |json| json["meshes"][0]["primitives"][0]["attributes"]["POSITION"] = 8.into(),
            "accessors[8]: there is none",
        ),
        (
            |json| json["meshes"][0]["primitives"][0]["material"] = 8.into(),
            "its material does not exist",
        ),
        (
            |json| json["nodes"][0]["mesh"] = 8.into(),
            "nodes[0]: its mesh does not exist",
        ),
        (
            |json| json["nodes"][0]["children"] = json!([7]),
            "nodes[0]: a child of it does not exist",
        ),
        (
            |json| json["nodes"][0]["children"] = json!([0]),
            "nodes[0]: it hangs on itself",
        ),
        (
            |json| json["nodes"] = json!([{"children": [1]}, {"children": [0]}]),
            "hangs on itself",
        ),
        (
            |json| json["nodes"] = json!([{"children": [2]}, {"children": [2]}, {}]),
            "nodes[2]: it hangs on two nodes",
        ),
        (
            |json| json["nodes"][0]["scale"] = json!([1e38, 1e38, 1e300]),
            "nodes[0]: its transform is not finite",
        ),
        (
            |json| json["extensionsRequired"] = json!(["MARSH_packed"]),
            "the extension MARSH_packed",
        ),
        (
            |json| json["images"] = json!([{}]),
            "images[0]: it is nowhere",
        ),
    ];
    for (lie, expected) in lies {
        let said = said(lie);
        assert!(said.contains(expected), "{said} should have {expected}");
    }
}

#[test]
fn what_would_take_far_more_memory_than_the_file_is_refused() {
    // One accessor, in very many meshes.
    let mut file = Builder::new();
    let positions = file.floats(3, &[0., 0., 0., 1., 0., 0., 0., 1., 0.]);
    let indices = file.indices(&[0, 1, 2].repeat(1000));
    let mesh = json!({"primitives": [{"attributes": {"POSITION": positions}, "indices": indices}]});
    file.json["meshes"] = vec![mesh; 10_000].into();
    let error = read_bytes(&file.glb(), None).unwrap_err().to_string();
    assert!(error.contains("far more vertices and triangles"), "{error}");
    // The same in one mesh of very many pieces.
    let piece = json!({"attributes": {"POSITION": positions}, "indices": indices});
    file.json["meshes"] = json!([{"primitives": vec![piece; 10_000]}]);
    let error = read_bytes(&file.glb(), None).unwrap_err().to_string();
    assert!(error.contains("far more vertices and triangles"), "{error}");
    // One mesh that very many nodes show is no more than one mesh.
    let shown = said(|json| json["nodes"] = vec![json!({"mesh": 0}); 10_000].into());
    assert_eq!(shown, "read: []");
}

#[test]
fn wrong_indices_and_nan_are_refused() {
    for (positions, indices) in [
        ([0., 0., 0., 1., 0., 0., 0., 1., f32::NAN], [0, 1, 2]),
        ([0., 0., 0., 1., 0., 0., 0., 1., 0.], [0, 1, 3]),
    ] {
        let mut file = Builder::new();
        let positions = file.floats(3, &positions);
        let indices = file.indices(&indices);
        file.push(
            "meshes",
            json!({"primitives": [{"attributes": {"POSITION": positions}, "indices": indices}]}),
        );
        assert!(read_bytes(&file.glb(), None).is_err());
    }
}

#[test]
fn files_elsewhere_are_not_opened() {
    let outside = tempfile::tempdir().unwrap();
    let folder = outside.path().join("model");
    std::fs::create_dir(&folder).unwrap();
    let file = sail();
    std::fs::write(outside.path().join("tide.bin"), &file.bytes).unwrap();
    let absolute = outside.path().join("tide.bin").display().to_string();
    for uri in [
        "../tide.bin",
        "%2E%2E/tide.bin",
        &absolute,
        "file:///tide.bin",
    ] {
        let mut json = file.json.clone();
        json["buffers"] = json!([{"byteLength": file.bytes.len(), "uri": uri}]);
        let path = folder.join("sail.gltf");
        std::fs::write(&path, json.to_string()).unwrap();
        let error = read(&path).unwrap_err().to_string();
        assert!(error.starts_with("buffers[0]: "), "{error}");
    }
}

#[test]
fn broken_text_is_told_by_its_line() {
    let error = read_bytes(
        b"{\n\"asset\": {\"version\": \"2.0\"},\n\"nodes\": [,]\n}",
        Some(Format::Gltf),
    );
    let error = error.unwrap_err().to_string();
    assert!(error.starts_with("line 3: "), "{error}");
}

proptest! {
    /// Whatever bytes are changed, nothing breaks but the reading.
    #[test]
    fn spoilt_bytes_do_no_harm(changes in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..8), cut in any::<prop::sample::Index>()) {
        let mut file = sail().glb();
        for (at, byte) in changes {
            let at = at.index(file.len());
            file[at] = byte;
        }
        let _ = read_bytes(&file, Some(Format::Gltf));
        let _ = read_bytes(&file[..cut.index(file.len())], Some(Format::Gltf));
    }
}
