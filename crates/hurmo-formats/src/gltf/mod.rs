//! glTF 2.0 (Khronos 2021), `.glb` and `.gltf`: scenes of triangles with materials.
//!
//! ```text
//! bytes ─container─▶ document ─▶ nodes ─▶ where each mesh stands ┐
//!            └─▶ buffers ─accessor─▶ vertices, triangles ────────┴─geometry─▶ model, with its scene
//! ```
//!
//! The format splits vertices wherever a UV, a normal or a material changes: within a mesh, vertices
//! at equal positions are one (`docs/checks.md`), and what differs between them belongs to corners. What is
//! not the model's own (cameras, lights, samplers, settings of materials, animations, unknown
//! extensions) is kept as it was, and written again.

mod accessor;
mod buffers;
pub(crate) mod container;
mod document;
mod geometry;
mod looks;
mod nodes;
mod pieces;
mod write;

pub(crate) use container::looks_like;
pub(crate) use document::{Document, Kept};
pub(crate) use write::{uv_sets_of, write};

use crate::{ReadError, Remarks};
use accessor::Data;
use buffers::Buffers;
use hurmo_core::Model;
use hurmo_core::scene::{Rest, Scene};
use hurmo_core::units::{Axis, Unit};
use std::sync::Arc;

/// What a document said, but for materials, textures and images; none where it was none of this format.
pub(crate) fn without_looks(rest: &Rest) -> Option<Rest> {
    let mut kept = rest.0.downcast_ref::<document::Kept>()?.clone();
    for list in ["materials", "textures", "images", "samplers"] {
        kept.json.remove(list);
    }
    Some(Rest(Arc::new(kept)))
}

pub(crate) fn read(bytes: &[u8], remarks: &mut Remarks) -> Result<Model, ReadError> {
    let container = container::split(bytes)?;
    let document = Document::parse(&container)?;
    let folder = remarks.folder.clone();
    let buffers = Buffers::of(&document, container.binary, folder.as_deref())?;
    let data = Data {
        document: &document,
        buffers: &buffers,
    };
    let (nodes, roots) = nodes::nodes(&document, &mut remarks.notes)?;
    let (materials, images) = looks::looks(&data, remarks)?;
    let animations = document.root.animations.iter().enumerate();
    let animations = animations.map(|(number, animation)| {
        let name = animation.name.clone();
        name.unwrap_or_else(|| format!("animation {number}"))
    });
    let mut scene = Scene {
        nodes,
        roots,
        materials,
        images,
        animations: animations.collect(),
        rest: None,
    };
    let mut model = geometry::model(&data, &scene, &mut remarks.notes)?;
    let kept = document.kept(&data)?;
    scene.rest = Some(Rest(Arc::new(kept)));
    model.attributes.scene = Some(Arc::new(scene));
    model.unit = Some(Unit::M);
    model.up = Some(Axis::Y);
    Ok(model)
}
