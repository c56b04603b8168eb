//! What other formats can't hold of a scene is reported, by kind and number.

use crate::common::Builder;
use hurmo_core::mesh::Model;
use hurmo_formats::{Format, losses, read_bytes};
use serde_json::json;

/// A buoy's float with a lamp, an eye that looks at it, and a rocking of the sea.
fn float() -> Model {
    let mut file = Builder::new();
    let places = file.floats(3, &[0., 0., 0., 1., 0., 0., 0., 1., 0.]);
    let indices = file.indices(&[0, 1, 2]);
    let times = file.floats(1, &[0., 1.]);
    let ways = file.floats(3, &[0., 0., 0., 0., 0., 1.]);
    file.push(
        "meshes",
        json!({"primitives": [
            {"attributes": {"POSITION": places}, "indices": indices, "material": 0}
        ]}),
    );
    file.push("nodes", json!({"mesh": 0, "name": "float"}));
    file.push("nodes", json!({"camera": 0, "name": "eye"}));
    let light = json!({"KHR_lights_punctual": {"light": 0}});
    file.push("nodes", json!({"extensions": light, "name": "lamp"}));
    file.json["cameras"] =
        json!([{"type": "perspective", "perspective": {"yfov": 1, "znear": 0.1}}]);
    file.json["extensionsUsed"] = json!(["KHR_lights_punctual", "KHR_materials_clearcoat"]);
    file.json["extensions"] = json!({"KHR_lights_punctual": {"lights": [{"type": "point"}]}});
    file.json["animations"] = json!([{
        "channels": [{"sampler": 0, "target": {"node": 0, "path": "translation"}}],
        "samplers": [{"input": times, "output": ways}],
    }]);
    file.json["materials"] = json!([{
        "name": "paint", "doubleSided": true, "alphaMode": "MASK",
        "pbrMetallicRoughness": {"roughnessFactor": 0.5},
        "extensions": {"KHR_materials_clearcoat": {"clearcoatFactor": 1}},
    }]);
    file.json["scenes"] = json!([{"nodes": [0, 1, 2]}, {"nodes": [1]}]);
    file.json["scene"] = json!(0);
    read_bytes(&file.glb(), Some(Format::Gltf)).unwrap().model
}

#[test]
fn what_a_scene_has_besides_is_told() {
    let float = float();
    assert!(losses(&float, Format::Gltf).is_empty());
    let besides = [
        "cameras (1)",
        "lights (1)",
        "animations (1)",
        "scenes beyond the one that is shown (1)",
    ];
    let extensions = "extensions of materials: KHR_materials_clearcoat (1)";
    let cut = "materials that are cut out by their opacity (1)";
    let both_sides = "materials that show from both sides (1)";
    let obj = losses(&float, Format::Obj);
    assert_eq!(obj, [&besides[..], &[cut, both_sides, extensions]].concat());
    let shine = "metal and roughness of materials (1)";
    let threemf = losses(&float, Format::ThreeMf);
    let expected = [&besides[..], &[shine, cut, both_sides, extensions]].concat();
    assert_eq!(threemf, expected);
    // Without materials, theirs are reported no more than the materials themselves.
    let stl = losses(&float, Format::Stl).join("; ");
    assert!(
        stl.contains("groups and materials (1); cameras (1)"),
        "{stl}"
    );
    assert!(!stl.contains("clearcoat"), "{stl}");
}
