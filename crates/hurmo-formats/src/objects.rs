//! Which faces are whose: those of a scene's nodes, and those of objects that have no node yet.

use hurmo_core::mesh::Tag;
use hurmo_core::scene::{Material, NodeId, Scene, Shows};
use hurmo_core::{FaceId, Model};
use rustc_hash::{FxHashMap, FxHashSet};

/// Faces that become one mesh.
pub struct Object {
    /// The node that has them in the scene, if it has.
    pub node: Option<NodeId>,
    /// The object's name where it has no node.
    pub name: Option<String>,
    /// By material, in order of first use.
    pub faces: Vec<(Option<String>, Vec<FaceId>)>,
}

/// All objects that have faces, in order of their first ones.
pub fn objects(model: &Model, scene: &Scene) -> Vec<Object> {
    let tags = &model.attributes.tags;
    let has_mesh = |node: &NodeId| {
        let node = scene.nodes.get(node.index());
        node.is_some_and(|node| matches!(node.shows, Shows::Own { .. }))
    };
    let plain = Tag::default();
    let mut objects: Vec<Object> = Vec::new();
    let mut of_node: FxHashMap<NodeId, usize> = FxHashMap::default();
    let mut of_name: FxHashMap<Option<String>, usize> = FxHashMap::default();
    let table = if tags.is_empty() {
        std::slice::from_ref(&plain)
    } else {
        &tags.table[..]
    };
    // For every tag its object, and its place among that one's materials.
    let places = table.iter().map(|tag| {
        let node = tag.node.filter(has_mesh);
        let place = match node {
            Some(node) => of_node.entry(node).or_insert(objects.len()),
            None => of_name.entry(tag.object.clone()).or_insert(objects.len()),
        };
        let place = *place;
        if place == objects.len() {
            objects.push(Object {
                node,
                name: tag.object.clone(),
                faces: Vec::new(),
            });
        }
        let faces = &mut objects[place].faces;
        let known = faces
            .iter()
            .position(|(material, _)| *material == tag.material);
        let material = known.unwrap_or_else(|| {
            faces.push((tag.material.clone(), Vec::new()));
            faces.len() - 1
        });
        (place, material)
    });
    let places: Vec<(usize, usize)> = places.collect();
    for face in model.mesh.face_ids() {
        let tag = tags
            .of_face
            .get(face.index())
            .map_or(0, |&tag| tag as usize);
        let (object, material) = places[tag];
        objects[object].faces[material].1.push(face);
    }
    for object in &mut objects {
        object.faces.retain(|(_, faces)| !faces.is_empty());
    }
    objects.retain(|object| !object.faces.is_empty());
    // As in the model, so that what is read keeps its order.
    objects.sort_by_key(|object| object.faces.iter().map(|(_, faces)| faces[0]).min());
    objects
}

/// The materials of a scene, and behind them those that only faces know, by name.
pub fn materials(model: &Model, scene: &Scene) -> Vec<Material> {
    let mut materials = scene.materials.clone();
    let known = materials.iter().map(|material| material.name.clone());
    let mut known: FxHashSet<String> = known.collect();
    let named = model.attributes.tags.table.iter();
    for name in named.filter_map(|tag| tag.material.as_ref()) {
        if known.insert(name.clone()) {
            materials.push(Material::named(name));
        }
    }
    materials
}
