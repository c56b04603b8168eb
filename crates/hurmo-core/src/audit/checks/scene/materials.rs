//! Materials that no face has.

use super::scene_of;
use crate::audit::Level::{Note, Off};
use crate::audit::{Check, Found, Levels, Needs, Remedy};
use rustc_hash::FxHashSet;

pub(in super::super) const UNUSED_MATERIALS: Check = Check {
    name: "unused-materials",
    counts: "materials that no face has",
    harm: "they bring their textures along, and are looked after for nothing",
    remedy: Remedy::ByHand,
    drawing: r"
    tar  brass  glass
     |     |      .
    faces faces  none",
    levels: Levels::new(Note, Off, Note, Off),
    needs: Needs::Connectivity,
    find: |analysis, search| {
        let scene = scene_of(analysis);
        let tags = analysis.model.attributes.tags.used();
        let used: FxHashSet<&String> = tags.filter_map(|tag| tag.material.as_ref()).collect();
        let unused = scene
            .materials
            .iter()
            .filter(|material| !used.contains(&material.name));
        let named = unused.map(|material| (material.name.clone(), None));
        Ok(Found::named(analysis, search.limit, named.collect()))
    },
};
