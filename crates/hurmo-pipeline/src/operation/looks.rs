//! How the model looks that another takes its look from.

use anyhow::{Context, Result, bail};
use hurmo_core::Model;
use hurmo_core::paint::Look;
use hurmo_formats::Looks;
use std::path::Path;
use std::sync::Arc;

/// Said of a model that looks like nothing.
pub const NO_COLORS: &str =
    "it has no colours to give: none at vertices, no texture and no materials";

/// How the tags of a model look, or all of them with one texture.
pub fn looks(model: &Model, texture: Option<&Path>, name: &str) -> Result<Looks> {
    let Some(file) = texture else {
        return Ok(hurmo_formats::looks(model));
    };
    if model.attributes.uvs.is_none() {
        bail!("{name}: has no UVs that say how a texture lies on it");
    }
    let read = hurmo_formats::texture(file).map_err(anyhow::Error::msg);
    let texture = Arc::new(read.with_context(|| file.display().to_string())?);
    let tags = model.attributes.tags.table.len().max(1);
    Ok(Looks {
        of_tags: vec![Some(Look::texture(texture)); tags],
        notes: Vec::new(),
    })
}
