//! What is done along the lines where solids were joined.

use crate::operation::named_options::{NamedOptions, Visitor};
use crate::quantity::length_in;
use crate::record::SeamRecord;
use crate::words::Words;
use anyhow::{Result, bail};
use hurmo_core::Model;
use hurmo_core::boolean::BooleanOutcome;
use hurmo_core::measure::{bounds, volume};
use hurmo_core::progress::Observer;
use hurmo_core::seam::{self, Joined, softened};
use hurmo_core::units::Length;

/// What is done along cut lines.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct Seams {
    /// Make triangles even along the cut lines, so far to both sides: of one size at the line, which
    /// stays, and from there gently into the sizes of each side
    #[cfg_attr(feature = "clap", arg(long, value_name = "WIDTH"))]
    even_along: Option<Length>,
    /// Round the cut lines into fillets of about this radius
    #[cfg_attr(feature = "clap", arg(long, value_name = "RADIUS"))]
    blend: Option<Length>,
    /// How cut lines are shaded, where models have normals: keep them hard, or soften them
    #[cfg_attr(feature = "clap", arg(long, value_enum, value_name = "HOW", default_value_t = Crease::Keep))]
    crease: Crease,
}

/// How cut lines are shaded.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
enum Crease {
    /// Each side by its own faces
    #[default]
    Keep,
    /// Softly from one side to the other
    Soften,
}

impl Words for Crease {
    const WORDS: &'static [(&'static str, Self)] =
        &[("keep", Self::Keep), ("soften", Self::Soften)];
}

impl NamedOptions for Seams {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.value("even-along", &mut self.even_along);
        visitor.value("blend", &mut self.blend);
        visitor.usual_word("crease", &mut self.crease, Crease::Keep);
    }
}

/// A result with its seams worked on.
pub struct Finished {
    /// The model.
    pub model: Model,
    /// For every face, the solid that it comes from.
    pub solids: Vec<u32>,
    /// What was done.
    pub record: SeamRecord,
}

impl Seams {
    /// Whether anything is to be done.
    pub fn is_asked_for(&self) -> bool {
        self.even_along.is_some() || self.blend.is_some() || self.crease == Crease::Soften
    }

    /// Does it. `before`: what the solids were, and which of them each face bounded.
    pub fn apply(
        &self,
        before: &Model,
        of_face: &[u32],
        made: &BooleanOutcome,
        observer: &dyn Observer,
    ) -> Result<Finished> {
        let model = &made.model;
        let diagonal = bounds(&model.mesh).map_or(0.0, |bounds| bounds.diagonal());
        let length = |name: &str, given: Option<Length>| -> Result<Option<f64>> {
            let Some(given) = given else { return Ok(None) };
            match length_in(given, model.unit, diagonal)? {
                length if length > 0.0 => Ok(Some(length)),
                _ => bail!("{name} must be more than 0"),
            }
        };
        let mut options = seam::SeamOptions::default();
        options.even_along = length("--even-along", self.even_along)?;
        options.radius = length("--blend", self.blend)?;
        let sources = || made.sources.iter().map(|source| source.face);
        let solids: Vec<u32> = sources().map(|face| of_face[face.index()]).collect();
        let sizes: Vec<f64> = sources().map(|face| seam::size_of(before, face)).collect();
        let joined = Joined {
            model,
            solids: &solids,
            sizes: &sizes,
        };
        let mut record = SeamRecord::asked(options.even_along, options.radius);
        let finished = match options == seam::SeamOptions::default() {
            true => None,
            false => seam::finish(&joined, &options, observer)?,
        };
        let (mut model, solids) = match finished {
            Some(finished) => {
                record.evened = finished.evened.map(Into::into);
                record.rounded = finished.fillets.map(Into::into);
                let of = |face: &hurmo_core::FaceId| solids[face.index()];
                let solids = finished.sources.iter().map(of).collect();
                (finished.model, solids)
            }
            None => (model.clone(), solids),
        };
        record.volume_change = volume(&model.mesh) - volume(&made.model.mesh);
        if self.crease == Crease::Soften {
            let soft = softened(&model, &solids);
            record.softened = Some(soft.as_ref().map_or(0, |(_, edges)| *edges));
            record.without_normals = soft.is_none();
            if let Some((soft, _)) = soft {
                model = soft;
            }
        }
        Ok(Finished {
            model,
            solids,
            record,
        })
    }
}
