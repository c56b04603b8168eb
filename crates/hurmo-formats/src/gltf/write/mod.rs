//! Writing: objects as nodes with meshes, in a document that is otherwise as it was.

mod bytes;
mod looks;
mod mesh;

use super::container;
use super::document::{Kept, list, rename_nodes};
use super::nodes::local;
use crate::Target;
use crate::objects::objects;
use bytes::Buffer;
use glam::{DAffine3, DMat4};
use hurmo_core::Model;
use hurmo_core::scene::{Node, NodeId, Scene, Shows};
use mesh::Meshes;
pub(crate) use mesh::uv_sets_of;
use rustc_hash::FxHashMap;
use serde_json::{Map, Value, json};
use std::io;

pub(crate) fn write(model: &Model, to: &mut Target<'_>) -> io::Result<()> {
    let (mut json, buffer) = document(model, to)?;
    if buffer.is_beyond {
        let why = "a coordinate is too large for glTF, which has single precision";
        return Err(io::Error::other(why));
    }
    if !buffer.bytes.is_empty() {
        let mut about = json!({"byteLength": buffer.bytes.len()});
        if to.options.ascii {
            let name = format!("{}.bin", to.companions.stem());
            let name = to.companions.add(&name, &buffer.bytes)?;
            about["uri"] = looks::uri(&name).into();
        }
        json.insert("buffers".into(), json!([about]));
    }
    match to.options.ascii {
        true => {
            serde_json::to_writer_pretty(&mut *to.out, &json)?;
            to.out.write_all(b"\n")
        }
        false => container::glb(&serde_json::to_vec(&json)?, &buffer.bytes, to.out),
    }
}

/// The document of a model, without its buffer.
fn document(model: &Model, to: &mut Target<'_>) -> io::Result<(Map<String, Value>, Buffer)> {
    let none = Scene::default();
    let scene = model.attributes.scene.as_deref().unwrap_or(&none);
    let kept = scene.rest_of::<Kept>();
    let nothing = Kept::default();
    let kept = kept.unwrap_or(&nothing);
    let mut json = kept.json.clone();
    let mut buffer = Buffer::default();
    let asset = json.entry("asset").or_insert_with(|| json!({}));
    asset["version"] = "2.0".into();
    asset["generator"] = concat!("hurmo ", env!("CARGO_PKG_VERSION")).into();
    let materials = looks::looks(model, scene, kept, (&mut json, &mut buffer), to)?;
    let mut nodes = nodes(scene, &mut json);
    let placements = scene.mesh_placements();
    let mut meshes = Meshes::of(model);
    let mut mesh_of: FxHashMap<NodeId, usize> = FxHashMap::default();
    let mut own: Vec<Value> = Vec::new();
    let mut new_roots: Vec<usize> = Vec::new();
    for object in objects(model, scene) {
        let placement = object
            .node
            .map_or(DAffine3::IDENTITY, |node| placements[node.index()]);
        let mut primitives = Vec::new();
        for (material, faces) in &object.faces {
            for mut primitive in meshes.primitives(faces, placement, &mut buffer) {
                if let Some(number) = material.as_ref().and_then(|name| materials.get(name)) {
                    primitive["material"] = (*number).into();
                }
                primitives.push(primitive);
            }
        }
        let mut mesh = json!({"primitives": primitives});
        let name = match object.node.map(|node| &scene.node(node).shows) {
            Some(Shows::Own { mesh, .. }) => mesh.clone(),
            _ => object.name.clone(),
        };
        if let Some(name) = name {
            mesh["name"] = name.into();
        }
        match object.node {
            Some(node) => {
                mesh_of.insert(node, own.len());
            }
            None => {
                let mut node = json!({"mesh": own.len()});
                if let Some(name) = object.name {
                    node["name"] = name.into();
                }
                new_roots.push(nodes.len());
                nodes.push(node);
            }
        }
        own.push(mesh);
    }
    if let Some(primitive) = meshes.lines(&mut buffer) {
        new_roots.push(nodes.len());
        nodes.push(json!({"mesh": own.len(), "name": "lines"}));
        own.push(json!({"primitives": [primitive], "name": "lines"}));
    }
    show_meshes(scene, &mesh_of, &mut nodes);
    *list(&mut json, "nodes") = nodes;
    *list(&mut json, "meshes") = own;
    let all_roots = scene
        .roots
        .iter()
        .map(|root| root.index())
        .chain(new_roots.clone());
    scenes(&mut json, all_roots.collect(), &new_roots);
    numbers(kept, &mut json, &mut buffer);
    *list(&mut json, "accessors") = std::mem::take(&mut buffer.accessors);
    *list(&mut json, "bufferViews") = std::mem::take(&mut buffer.views);
    json.retain(|_, value| value != &Value::Array(Vec::new()));
    Ok((json, buffer))
}

/// Writes into nodes which mesh each shows.
fn show_meshes(scene: &Scene, mesh_of: &FxHashMap<NodeId, usize>, nodes: &mut [Value]) {
    for (number, (node, value)) in scene.nodes.iter().zip(nodes).enumerate() {
        let home = match node.shows {
            Shows::Of(home) => Some(home),
            Shows::Own { .. } => Some(NodeId(number as u32)),
            Shows::Nothing => None,
        };
        if let Some(mesh) = home.and_then(|home| mesh_of.get(&home)) {
            value["mesh"] = (*mesh).into();
        }
    }
}

/// The scene's nodes: as they were but for names, transforms and what hangs on what. Those that are
/// gone are spoken of nowhere.
fn nodes(scene: &Scene, json: &mut Map<String, Value>) -> Vec<Value> {
    let mut old = std::mem::take(list(json, "nodes"));
    let mut numbers: FxHashMap<u64, usize> = FxHashMap::default();
    let mut nodes = Vec::with_capacity(scene.nodes.len());
    for node in &scene.nodes {
        let own = node.source.and_then(|source| {
            numbers.insert(u64::from(source), nodes.len());
            old.get_mut(source as usize)
        });
        nodes.push(own.map_or_else(|| json!({}), Value::take));
    }
    rename_nodes(json, &numbers);
    for (node, value) in scene.nodes.iter().zip(&mut nodes) {
        let was = serde_json::from_value::<gltf_json::Node>(value.clone());
        if !was.is_ok_and(|was| local(&was) == node.local) {
            set_transform(node, value);
        }
        if let Some(about) = value.as_object_mut() {
            about.remove("mesh");
            about.remove("children");
            about.remove("name");
        }
        if let Some(name) = &node.name {
            value["name"] = name.clone().into();
        }
        if !node.children.is_empty() {
            let children = node.children.iter().map(|child| child.0);
            value["children"] = children.collect::<Vec<u32>>().into();
        }
    }
    nodes
}

/// Says where a node stands: by translation, rotation and scale where that is enough.
fn set_transform(node: &Node, value: &mut Value) {
    if let Some(about) = value.as_object_mut() {
        for word in ["matrix", "translation", "rotation", "scale"] {
            about.remove(word);
        }
    }
    let single = |numbers: &[f64]| -> Value { numbers.iter().map(|&n| n as f32).collect() };
    let (scale, rotation, translation) = node.local.to_scale_rotation_translation();
    let again = DAffine3::from_scale_rotation_translation(scale, rotation, translation);
    if !again.abs_diff_eq(node.local, 1e-9 * scale.abs().max_element()) {
        let matrix = DMat4::from(node.local).to_cols_array();
        value["matrix"] = single(&matrix);
        return;
    }
    let parts = [
        ("translation", &translation.to_array()[..], &[0.0; 3][..]),
        (
            "rotation",
            &rotation.to_array()[..],
            &[0.0, 0.0, 0.0, 1.0][..],
        ),
        ("scale", &scale.to_array()[..], &[1.0; 3][..]),
    ];
    for (word, numbers, nothing) in parts {
        if numbers != nothing {
            value[word] = single(numbers);
        }
    }
}

/// The file's scenes, with new roots in the one that is shown; or one with all roots.
fn scenes(json: &mut Map<String, Value>, all: Vec<usize>, new: &[usize]) {
    let shown = json.get("scene").and_then(Value::as_u64).unwrap_or(0) as usize;
    let scenes = list(json, "scenes");
    if let Some(scene) = scenes.get_mut(shown).and_then(Value::as_object_mut) {
        let nodes = list(scene, "nodes");
        nodes.extend(new.iter().map(|&node| Value::from(node)));
        // A scene without nodes has no list of them.
        scene.retain(|word, value| word != "nodes" || value != &Value::Array(Vec::new()));
        return;
    }
    if !all.is_empty() {
        scenes.push(json!({"nodes": all}));
        json.insert("scene".into(), 0.into());
    }
}

/// The numbers of animations and skins, behind all others.
fn numbers(kept: &Kept, json: &mut Map<String, Value>, buffer: &mut Buffer) {
    let numbers = kept.numbers.iter();
    let accessors: Vec<usize> = numbers
        .map(|numbers| buffer.kept(&numbers.accessor, &numbers.bytes))
        .collect();
    for number in super::document::numbers(json) {
        let accessor = number
            .as_u64()
            .and_then(|number| accessors.get(number as usize));
        if let Some(&accessor) = accessor {
            *number = accessor.into();
        }
    }
}
