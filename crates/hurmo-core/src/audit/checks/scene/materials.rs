//! Materials that no face has.

use super::scene_of;
use crate::audit::Level::{Note, Off};
use crate::audit::{Check, Found, Levels, Needs};
use rustc_hash::FxHashSet;

pub(in super::super) const UNUSED_MATERIALS: Check = Check {
    name: "unused-materials",
    counts: "materials that no face has",
    harm: "they bring their textures along, and are looked after for nothing",
    cure: "deleting them in the program that made it",
    drawing: r"
    tar  brass  glass
     |     |      .
    faces faces  none",
    levels: Levels::new(Note, Off, Note, Off),
    needs: Needs::Connectivity,
    find: |survey, search| {
        let scene = scene_of(survey);
        let tags = &survey.model.attributes.tags;
        let mut has_faces = vec![false; tags.table.len()];
        tags.of_face
            .iter()
            .for_each(|&tag| has_faces[tag as usize] = true);
        let used = tags
            .table
            .iter()
            .zip(has_faces)
            .filter(|(_, has_faces)| *has_faces);
        let used: FxHashSet<&String> = used.filter_map(|(tag, _)| tag.material.as_ref()).collect();
        let unused = scene
            .materials
            .iter()
            .filter(|material| !used.contains(&material.name));
        let named = unused.map(|material| (material.name.clone(), None));
        Ok(Found::named(survey, search.limit, named.collect()))
    },
};
