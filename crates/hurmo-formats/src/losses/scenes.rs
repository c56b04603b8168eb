//! What a format can't hold of materials, and of what else a scene has.

use super::Lost;
use crate::{Format, gltf, obj};
use hurmo_core::scene::{Alpha, Material, Scene};

pub(super) fn of_scene(scene: &Scene, format: Format, lost: &mut Lost) {
    let holds = format.entry().holds;
    lost.say(holds.uvs, scene.images.len(), "textures");
    if holds.uvs && !holds.uv_sets {
        let others = scene.materials.iter().flat_map(Material::textures);
        let others = others.filter(|used| used.uv_set > 0).count();
        let what = "textures that go by a set of UVs beyond the first";
        lost.say(false, others, what);
    }
    if format != Format::Obj
        && let Some(kept) = scene.rest_of::<obj::Kept>()
    {
        let mut words = kept.untranslated();
        let count = words.len();
        words.dedup();
        let what = format!("textures of materials: {}", words.join(", "));
        lost.say(false, count, &what);
    }
    if format == Format::Gltf {
        return;
    }
    let kept = scene.rest_of::<gltf::Kept>();
    for (what, count) in kept.map(gltf::Kept::besides).unwrap_or_default() {
        lost.say(false, count, what);
    }
    // Where no materials are held, these are reported already.
    if holds.tags {
        of_materials(scene, format, lost);
        if let Some(kept) = kept {
            let mut names = kept.extensions_of_materials();
            let count = names.len();
            names.sort_unstable();
            names.dedup();
            let what = format!("extensions of materials: {}", names.join(", "));
            lost.say(false, count, &what);
        }
    }
}

/// Settings of materials beyond those of the format.
fn of_materials(scene: &Scene, format: Format, lost: &mut Lost) {
    // The format's own words, as they were read, are written as they were.
    let own = format == Format::Obj && scene.rest_of::<obj::Kept>().is_some();
    let foreign = |material: &&Material| !own || material.source.is_none();
    let count = |has: fn(&Material) -> bool| {
        let foreign = scene.materials.iter().filter(foreign);
        foreign.filter(|material| has(material)).count()
    };
    let occlusion = count(|material| material.occlusion_texture.is_some());
    let cut = count(|material| matches!(material.alpha, Alpha::Cut(_)));
    let both_sides = count(|material| material.double_sided);
    match format {
        Format::Obj => lost.say(false, occlusion, "occlusion textures of materials"),
        _ => {
            let shine = count(|material| material.metallic != 0.0 || material.roughness != 1.0);
            lost.say(false, shine, "metal and roughness of materials");
            let glow = count(|material| material.glow != [0.0; 3]);
            lost.say(false, glow, "glow of materials");
        }
    }
    lost.say(false, cut, "materials that are cut out by their opacity");
    lost.say(false, both_sides, "materials that show from both sides");
}
