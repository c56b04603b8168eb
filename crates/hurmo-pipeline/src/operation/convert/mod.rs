//! A model as a whole: unit, up axis, size, origin; transforms, names, normals.

mod place;
mod real_size;
mod tidy;

pub use place::{Place, Placed, Up};
pub use real_size::RealSize;
pub use tidy::{Tidied, Tidy};

use super::named_options::{NamedOptions, Visitor};
use super::{Context, Outcome};
use crate::record::StepReport;
use anyhow::Result;

/// How a model goes on, as a whole.
#[derive(Clone, Debug, Default, PartialEq)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// How large it is and where it stands.
    #[cfg_attr(feature = "clap", command(flatten))]
    pub place: Place,
    /// How it is stored.
    #[cfg_attr(feature = "clap", command(flatten))]
    pub tidy: Tidy,
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        self.place.check()
    }

    /// Converts, as a step.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        self.tidy.check(context.model)?;
        let placed = self.place.apply(context.model.clone(), None)?;
        let tidied = self.tidy.apply(placed.model, context.observer)?;
        let mut did = placed.did;
        did.extend(tidied.did);
        let step = StepReport {
            did,
            single: tidied.single,
            left: tidied.left,
            ..StepReport::of("convert")
        };
        Ok(Outcome {
            carried: placed.carried,
            ..Outcome::new(tidied.model, vec![step])
        })
    }
}

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        self.place.each(visitor);
        self.tidy.each(visitor);
    }
}
