//! How the model looks that another takes its look from.

use super::Context;
use crate::record::Statement;
use crate::said;
use anyhow::{Context as _, Result, bail};
use hurmo_core::Model;
use hurmo_core::paint::Look;
use hurmo_formats::Looks;
use std::borrow::Cow;
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

/// What the model is called that gives its look: its file, or none for the model as it was read.
pub fn name_of(file: Option<&Path>) -> String {
    match file {
        Some(file) => file.display().to_string(),
        None => "the model as it was read".into(),
    }
}

/// What a reader had to say of a file.
pub fn note(note: String) -> Statement {
    said!("note", "{note}", note = note)
}

/// The model that gives its look, in the unit and with the axes of the one that gets it, its
/// instances written out.
pub fn original<'a>(
    context: &Context<'a>,
    file: Option<&Path>,
    name: &str,
    left: &mut Vec<Statement>,
) -> Result<Cow<'a, Model>> {
    let from = match file {
        None => {
            let original = context
                .original
                .context("--from is missing: no model was read")?;
            Cow::Borrowed(original)
        }
        Some(file) => {
            let loaded = hurmo_formats::read(file).with_context(|| name.to_string())?;
            left.extend(loaded.notes.into_iter().map(note));
            let mut from = loaded.model;
            if from.convert_like(context.model)? {
                left.push(said!(
                    "converted",
                    "{from}: taken in the unit and with the axes of the other",
                    from = name
                ));
            }
            Cow::Owned(from)
        }
    };
    hurmo_formats::check_instances(&from).with_context(|| name.to_string())?;
    if from.mesh.face_count() == 0 {
        bail!("{name}: there are no faces to take a look from");
    }
    Ok(match from.instances() {
        0 => from,
        _ => Cow::Owned(from.expanded()),
    })
}
