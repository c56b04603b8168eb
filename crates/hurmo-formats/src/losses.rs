//! What a format can't hold.

use crate::{Format, obj};
use hurmo_core::Model;

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
        index.map_or(0, |i| {
            i.iter()
                .filter(|&&v| v != hurmo_core::mesh::NO_VALUE)
                .count()
        })
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
