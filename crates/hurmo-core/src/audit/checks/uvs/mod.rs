//! Checks of how the surface lies in its textures. Of models without UVs only the first finds anything.

mod density;
mod layout;
mod missing;

pub(super) use density::UNEVEN_TEXEL_DENSITY;
pub(super) use layout::{
    MIRRORED_UVS, NONMANIFOLD_UVS, OVERLAPPING_UVS, UVS_OUTSIDE_TILE, ZERO_AREA_UVS,
};
pub(super) use missing::MISSING_UVS;

use crate::mesh::{FaceTags, Model};
use rustc_hash::FxHashMap;

/// By face a number for its material; faces with the same have the same textures.
pub(in super::super) fn textures(model: &Model) -> impl Fn(usize) -> u32 + Sync + '_ {
    let tags: &FaceTags = &model.attributes.tags;
    let mut numbers: FxHashMap<Option<&str>, u32> = FxHashMap::default();
    let of_tag: Vec<u32> = tags
        .table
        .iter()
        .map(|tag| {
            let next = numbers.len() as u32;
            *numbers.entry(tag.material.as_deref()).or_insert(next)
        })
        .collect();
    move |face| match tags.of_face.get(face) {
        Some(&tag) => of_tag[tag as usize],
        None => 0,
    }
}

#[cfg(test)]
mod tests;
