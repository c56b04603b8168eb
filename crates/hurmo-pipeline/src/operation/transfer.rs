//! Vertex colours from another model, by nearest surface.

use super::looks::{NO_COLORS, looks, name_of, note, original};
use super::named_options::{NamedOptions, Visitor};
use super::{Context, Outcome};
use crate::record::{Statement, StepReport};
use crate::said;
use anyhow::{Result, bail};
use hurmo_core::paint::Original;
use std::path::PathBuf;

/// Vertices further from the original than this share of the diagonal (rms) make one ask whether
/// they belong together.
const FAR: f64 = 0.05;

/// A transfer as a step: where colours come from, and how.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct Transfer {
    /// Model file that gives its colours [default: the model as it was read]
    #[cfg_attr(feature = "clap", arg(long, value_name = "FILE"))]
    pub from: Option<PathBuf>,
    /// How.
    #[cfg_attr(feature = "clap", command(flatten))]
    pub options: Options,
}

/// How colours are transferred.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// A texture for all of FROM, instead of those that it names: PNG or JPEG
    #[cfg_attr(feature = "clap", arg(long, value_name = "IMAGE"))]
    pub texture: Option<PathBuf>,
}

impl Transfer {
    /// Gives the model's vertices the colours of the nearest surface.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        let name = name_of(self.from.as_deref());
        let mut left = Vec::new();
        let from = original(context, self.from.as_deref(), &name, &mut left)?;
        let looks = looks(&from, self.options.texture.as_deref(), &name)?;
        left.extend(looks.notes.into_iter().map(note));
        let mut model = context.model.clone();
        let painted = Original::new(&from, &looks.of_tags).paint(&model.mesh, context.observer)?;
        if painted.bare == painted.colors.len() {
            let notes = left.iter().map(|note| format!("\n  {note}"));
            bail!("{name}: {NO_COLORS}{}", notes.collect::<String>());
        }
        let sources = [
            (painted.by_texture, "by its texture"),
            (painted.by_vertices, "by its colours at vertices"),
            (painted.by_material, "by the colours of its materials"),
        ];
        let sources = sources.iter().filter(|(count, _)| *count > 0);
        let sources: Vec<Statement> = sources
            .map(|(count, how)| said!("source", "{count} {how}", count = *count, how = *how))
            .collect();
        let coloured = painted.colors.len() - painted.bare;
        let did = said!(
            "coloured",
            "{vertices:vertex} coloured as in {from}: {sources}",
            vertices = coloured,
            from = name,
            sources = sources,
        );
        if painted.bare > 0 {
            left.push(said!(
                "without-colour",
                "{vertices:vertex} white: what is nearest to them has no colour",
                vertices = painted.bare
            ));
        }
        let farthest = painted.farthest_vertex.map(|v| model.mesh.position(v));
        let mut single = Vec::new();
        if let Some(place) = farthest {
            let is_far = painted.rms > FAR * context.diagonal();
            let off = said!(
                "farthest-vertex",
                "the vertex furthest from it lies {off} off, at {at}{ask}",
                off = painted.farthest,
                at = place,
                ask = is_far.then(|| said!("ask", ": does it lie there, and is it as large?")),
            );
            match is_far {
                true => left.push(off),
                false => single.push(off),
            }
        }
        model.attributes.colors = Some(painted.colors);
        let step = StepReport {
            did: vec![did],
            single,
            left,
            ..StepReport::of("transfer")
        };
        Ok(Outcome::new(model, vec![step]))
    }
}

impl NamedOptions for Transfer {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.file("from", &mut self.from);
        visitor.file("texture", &mut self.options.texture);
    }
}
