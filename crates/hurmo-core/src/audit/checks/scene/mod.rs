//! Checks of the scene that a model is part of: objects and their names, materials, textures. Of models
//! without one they find nothing.

mod materials;
mod names;
mod objects;
mod textures;
mod transforms;

pub(super) use materials::UNUSED_MATERIALS;
pub(super) use names::{DUPLICATE_NAMES, UNSAFE_NAMES};
pub(super) use objects::EMPTY_OBJECTS;
pub(super) use textures::{ABSOLUTE_TEXTURE_PATHS, MISSING_TEXTURES, UNSAFE_TEXTURE_NAMES};
pub(super) use transforms::{MIRRORING_TRANSFORMS, UNAPPLIED_TRANSFORMS};

use crate::audit::Survey;
use crate::scene::{NodeId, Scene};

/// The scene, or an empty one.
fn scene_of<'s>(survey: &Survey<'s>) -> std::borrow::Cow<'s, Scene> {
    match survey.model.attributes.scene.as_deref() {
        Some(scene) => std::borrow::Cow::Borrowed(scene),
        None => std::borrow::Cow::Owned(Scene::default()),
    }
}

/// What a node is called.
fn name_of(scene: &Scene, node: NodeId) -> String {
    let name = scene.node(node).name.clone();
    name.unwrap_or_else(|| format!("node {}", node.0))
}

/// The longest name that every program takes.
const LONGEST: usize = 63;

/// Whether a name is the same in every program: letters, digits, `_`, `-` and `.` of ASCII, not too
/// many, none that leads elsewhere.
fn is_safe(name: &str) -> bool {
    let plain = |c: char| c.is_ascii_alphanumeric() || ['_', '-', '.'].contains(&c);
    !name.is_empty() && name.len() <= LONGEST && name.chars().all(plain) && !name.starts_with('.')
}

#[cfg(test)]
mod tests;
