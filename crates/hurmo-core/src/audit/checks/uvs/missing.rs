//! Faces without UVs.

use crate::audit::Level::{Off, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::mesh::{FaceId, Tag};
use crate::scene::Material;
use rustc_hash::FxHashSet;

pub(in super::super) const MISSING_UVS: Check = Check {
    name: "missing-uvs",
    counts: "faces without UVs whose material has a texture, or that are part of an object of which other faces have them",
    harm: "the texture can't be put on: one colour, or smears",
    remedy: Remedy::Convert,
    drawing: r"
    +---+---+      +---+
    | # | ? |  --> | # |   texture
    +---+---+      +---+",
    levels: Levels::new(Warn, Off, Warn, Off),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let attributes = &analysis.model.attributes;
    let tags = &attributes.tags;
    let has = |face: FaceId| {
        analysis
            .layout
            .as_ref()
            .is_some_and(|layout| layout.area(face).is_some())
    };
    let scene = attributes.scene.as_deref();
    let has_texture = |tag: &Tag| {
        let material = scene.zip(tag.material.as_deref());
        let material = material.and_then(|(scene, name)| scene.material(name));
        let mut textures = material.into_iter().flat_map(Material::textures);
        textures.any(|used| used.uv_set as usize == search.uv_set)
    };
    let wants: Vec<bool> = tags.table.iter().map(has_texture).collect();
    if analysis.layout.is_none() && !wants.contains(&true) {
        return Ok(Found::default());
    }
    // By node where there are any, else by name.
    let object = |face: FaceId| {
        let tag = tags.of(face);
        tag.map(|tag| (tag.node, tag.node.map_or(tag.object.as_deref(), |_| None)))
    };
    let objects: FxHashSet<_> = match &analysis.layout {
        Some(_) => analysis
            .mesh
            .face_ids()
            .filter(|&f| has(f))
            .map(object)
            .collect(),
        None => FxHashSet::default(),
    };
    let is_missing = |&face: &FaceId| {
        let tag = tags.of_face.get(face.index());
        let wanted = tag.is_some_and(|&tag| wants[tag as usize]);
        !has(face) && (wanted || objects.contains(&object(face)))
    };
    let missing = analysis.mesh.face_ids().filter(is_missing);
    Ok(Found::faces(analysis, search.limit, missing))
}
