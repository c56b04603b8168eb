//! Checks of the scene that a model is part of: objects and their names, materials, textures. Of models
//! without one they find nothing.

mod animations;
mod materials;
mod names;
mod objects;
mod textures;
mod transforms;

pub(super) use animations::UNWANTED_ANIMATION;
pub(super) use materials::UNUSED_MATERIALS;
pub(super) use names::{DUPLICATE_NAMES, UNSAFE_NAMES};
pub(super) use objects::EMPTY_OBJECTS;
pub(super) use textures::{
    ABSOLUTE_TEXTURE_PATHS, MISSING_TEXTURES, OVERSIZED_TEXTURES, UNSAFE_TEXTURE_NAMES,
};
pub(super) use transforms::{MIRRORING_TRANSFORMS, UNAPPLIED_TRANSFORMS};

use crate::audit::MeshAnalysis;
use crate::scene::Scene;

/// The scene, or an empty one.
fn scene_of<'s>(analysis: &MeshAnalysis<'s>) -> std::borrow::Cow<'s, Scene> {
    match analysis.model.attributes.scene.as_deref() {
        Some(scene) => std::borrow::Cow::Borrowed(scene),
        None => std::borrow::Cow::Owned(Scene::default()),
    }
}

#[cfg(test)]
mod tests;
