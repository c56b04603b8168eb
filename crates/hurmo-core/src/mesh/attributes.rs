//! What a model carries besides its shape: UVs, normals, colours, groups and materials.

use super::scene::{NodeId, Scene};
use glam::{DVec2, DVec3};
use std::sync::Arc;

/// In [`CornerLayer::index`]: this corner has no value.
pub const NO_VALUE: u32 = u32::MAX;

/// Values that belong to corners (a vertex may have another UV in each face), stored once and
/// pointed to.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct CornerLayer<T> {
    /// The distinct values.
    pub values: Vec<T>,
    /// For every corner of the mesh, which value, or [`NO_VALUE`].
    pub index: Vec<u32>,
}

impl<T: Copy> CornerLayer<T> {
    /// The value at a corner.
    pub fn at(&self, corner: usize) -> Option<T> {
        self.values.get(self.index[corner] as usize).copied()
    }
}

/// What a face belongs to, as the source file says it.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub struct Tag {
    /// Object name.
    pub object: Option<String>,
    /// Group name or names, as one string.
    pub group: Option<String>,
    /// Material name.
    pub material: Option<String>,
    /// Smoothing group.
    pub smoothing: Option<String>,
    /// The node of the model's scene whose mesh it is part of.
    pub node: Option<NodeId>,
}

/// Tags by face: an index into a table of distinct tags.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct FaceTags {
    /// The distinct tags.
    pub table: Vec<Tag>,
    /// For every face its tag; empty when the model has no tags at all.
    pub of_face: Vec<u32>,
}

impl FaceTags {
    /// The tag of a face, if the model has any.
    pub fn of(&self, face: super::FaceId) -> Option<&Tag> {
        self.of_face
            .get(face.index())
            .map(|&tag| &self.table[tag as usize])
    }

    /// The tags that faces have.
    pub fn used(&self) -> impl Iterator<Item = &Tag> {
        let mut used = vec![false; self.table.len()];
        self.of_face
            .iter()
            .for_each(|&tag| used[tag as usize] = true);
        let table = self.table.iter().zip(used);
        table.filter_map(|(tag, used)| used.then_some(tag))
    }

    /// Whether any face has a tag that says something.
    pub fn is_empty(&self) -> bool {
        self.of_face.is_empty()
    }
}

/// Everything beside positions and faces.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Attributes {
    /// Texture coordinates by corner: the first set of UVs.
    pub uvs: Option<CornerLayer<DVec2>>,
    /// The sets beyond the first, in order; none without a first.
    pub more_uvs: Vec<CornerLayer<DVec2>>,
    /// Normals by corner, as the file gave them.
    pub normals: Option<CornerLayer<DVec3>>,
    /// Red, green, blue, alpha by vertex, 0 to 1.
    pub colors: Option<Vec<[f32; 4]>>,
    /// Object, group, material and smoothing by face.
    pub tags: FaceTags,
    /// Material library files that the source refers to, in order.
    pub material_libraries: Vec<String>,
    /// The scene that tags speak of.
    pub scene: Option<Arc<Scene>>,
}

impl Attributes {
    /// All sets of UVs, in order.
    pub fn uv_sets(&self) -> impl Iterator<Item = &CornerLayer<DVec2>> {
        self.uvs.iter().chain(&self.more_uvs)
    }

    /// One of the sets of UVs, from 0.
    pub fn uv_set(&self, set: usize) -> Option<&CornerLayer<DVec2>> {
        self.uv_sets().nth(set)
    }

    /// All sets of UVs, to be changed.
    pub fn uv_sets_mut(&mut self) -> impl Iterator<Item = &mut CornerLayer<DVec2>> {
        self.uvs.iter_mut().chain(&mut self.more_uvs)
    }

    /// Makes these all sets of UVs.
    pub fn set_uv_sets(&mut self, sets: impl IntoIterator<Item = CornerLayer<DVec2>>) {
        let mut sets = sets.into_iter();
        self.uvs = sets.next();
        self.more_uvs = sets.collect();
    }

    /// Whether corners have values of any kind.
    pub fn has_corner_layers(&self) -> bool {
        self.uvs.is_some() || self.normals.is_some()
    }
}
