//! What a format can't hold.

use crate::{Format, gltf, obj};
use hurmo_core::Model;
use hurmo_core::mesh::NO_VALUE;
use hurmo_core::scene::Material;

/// What a model has that a format can't hold, in words; empty when nothing is lost.
pub fn losses(model: &Model, format: Format) -> Vec<String> {
    let holds = format.entry().holds;
    let mut lost = Vec::new();
    let mut say = |held: bool, count: usize, what: &str| {
        if !held && count > 0 {
            lost.push(format!("{what} ({count})"));
        }
    };
    let mesh = &model.mesh;
    let attributes = &model.attributes;
    let layer_len = |index: Option<&Vec<u32>>| {
        index.map_or(0, |i| i.iter().filter(|&&v| v != NO_VALUE).count())
    };
    let polygons = mesh.faces().filter(|(_, face)| face.len() > 3).count();
    say(
        holds.polygons,
        polygons,
        "faces of more than three sides, cut into triangles",
    );
    let short = mesh.faces().filter(|(_, face)| face.len() < 3).count();
    say(holds.polygons, short, "faces of fewer than three corners");
    say(
        holds.uvs,
        layer_len(attributes.uvs.as_ref().map(|l| &l.index)),
        "UVs of corners",
    );
    say(
        holds.uv_sets || !holds.uvs,
        attributes.more_uvs.len(),
        "sets of UVs beyond the first",
    );
    if holds.uv_sets {
        let sets = |face| attributes.uv_sets().skip(gltf::uv_sets_of(model, face));
        let has_any = |face| {
            let mut corners = sets(face).flat_map(|set| &set.index[mesh.face_range(face)]);
            corners.any(|&value| value != NO_VALUE)
        };
        let partly = match attributes.uvs {
            Some(_) => mesh.face_ids().filter(|&face| has_any(face)).count(),
            None => 0,
        };
        say(
            false,
            partly,
            "UVs of faces that have none at some corners or in a set before",
        );
    }
    say(
        holds.normals,
        layer_len(attributes.normals.as_ref().map(|l| &l.index)),
        "normals of corners",
    );
    say(
        holds.colors,
        attributes.colors.as_ref().map_or(0, Vec::len),
        "vertex colours",
    );
    say(
        holds.tags,
        attributes.tags.table.len(),
        "groups and materials",
    );
    say(holds.lines, model.lines.len(), "line elements");
    let scene = attributes.scene.as_deref();
    let kept = scene.and_then(|scene| scene.rest_of::<obj::Kept>());
    let textures = scene.map_or(0, |scene| scene.images.len());
    say(holds.uvs, textures, "textures");
    if holds.uvs && !holds.uv_sets {
        let materials = scene.map_or(&[][..], |scene| &scene.materials);
        let others = materials.iter().flat_map(Material::textures);
        let others = others.filter(|used| used.uv_set > 0).count();
        say(
            false,
            others,
            "textures that go by a set of UVs beyond the first",
        );
    }
    if let (Some(kept), true) = (kept, format != Format::Obj) {
        let words = kept.untranslated();
        let count = words.len();
        let mut words: Vec<&str> = words;
        words.dedup();
        say(
            false,
            count,
            &format!("textures of materials: {}", words.join(", ")),
        );
    }
    if !holds.shared_vertices {
        let stray = mesh.used_vertices().iter().filter(|used| !**used).count();
        say(false, stray, "vertices in no face");
    }
    lost
}
