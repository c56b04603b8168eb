//! Colours of another model, brought onto the vertices of this one.

use super::looks::{NO_COLORS, looks};
use super::{At, Done};
use crate::record::Step;
use crate::text;
use anyhow::{Context, Result, bail};
use hurmo_core::paint::Original;
use std::path::Path;

/// Vertices further from the original than this share of the diagonal (rms) make one ask whether
/// they belong together.
const FAR: f64 = 0.05;

/// Gives what a step made the colours of a model in a file, or of a texture on it.
pub fn bring(at: &At<'_>, done: &mut Done, file: &Path, texture: Option<&Path>) -> Result<()> {
    let name = || file.display().to_string();
    let loaded = hurmo_formats::read(file).with_context(name)?;
    let original = loaded.model;
    if original.mesh.face_count() == 0 {
        bail!("{}: there are no faces to take colours from", name());
    }
    let mut looks = looks(&original, texture, &name())?;
    looks.notes.splice(..0, loaded.notes);
    let painted = Original::new(&original, &looks.of_tags).paint(&done.model.mesh, at.observer);
    if painted.bare == painted.colors.len() {
        let notes = looks.notes.iter().map(|note| format!("\n  {note}"));
        bail!("{}: {NO_COLORS}{}", name(), notes.collect::<String>());
    }
    let sources = [
        (painted.by_texture, "by its texture"),
        (painted.by_vertices, "by its colours at vertices"),
        (painted.by_material, "by the colours of its materials"),
    ];
    let sources = sources.iter().filter(|(count, _)| *count > 0);
    let sources: Vec<String> = sources
        .map(|(count, how)| format!("{} {how}", text::count(*count)))
        .collect();
    let coloured = painted.colors.len() - painted.bare;
    let did = format!(
        "{} coloured as in {}: {}",
        text::counted(coloured, "vertex"),
        name(),
        sources.join(", ")
    );
    let mut left = looks.notes;
    if painted.bare > 0 {
        left.push(format!(
            "{} white: what is nearest to them has no colour",
            text::counted(painted.bare, "vertex")
        ));
    }
    let farthest = painted.farthest_vertex.map(|v| done.model.mesh.position(v));
    let mut single = Vec::new();
    if let Some(place) = farthest {
        let off = format!(
            "the vertex furthest from it lies {} off, at {}",
            text::measure(painted.farthest),
            text::position(place)
        );
        match painted.rms > FAR * at.diagonal() {
            true => left.push(format!("{off}: does it lie there, and is it as large?")),
            false => single.push(off),
        }
    }
    done.model.attributes.colors = Some(painted.colors);
    done.told.push(Step {
        step: "colours",
        did: vec![did],
        single,
        left,
        moved: None,
        rebuilt: None,
        boolean: None,
    });
    Ok(())
}
