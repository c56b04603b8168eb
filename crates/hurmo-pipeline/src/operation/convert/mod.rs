//! A model as a whole: unit, up axis, size, origin; transforms, names, normals.

mod place;
mod real_size;
mod tidy;

pub use place::{Place, Placed, Up};
pub use real_size::RealSize;
pub use tidy::{Tidied, Tidy};

use super::{At, Done};
use crate::record::Step;
use anyhow::Result;

/// How a model goes on, as a whole.
#[derive(Clone, Debug, Default, PartialEq, clap::Args)]
pub struct Options {
    /// How large it is and where it stands.
    #[command(flatten)]
    pub place: Place,
    /// How it is stored.
    #[command(flatten)]
    pub tidy: Tidy,
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        self.place.check()
    }

    /// Converts, as a step.
    pub fn apply(&self, at: &At<'_>) -> Result<Done> {
        self.tidy.check(at.model)?;
        let placed = self.place.apply(at.model.clone(), None)?;
        let tidied = self.tidy.apply(placed.model, at.observer)?;
        let mut did = placed.did;
        did.extend(tidied.did);
        let step = Step {
            step: "convert",
            did,
            single: tidied.single,
            left: tidied.left,
            moved: None,
            rebuilt: None,
            boolean: None,
        };
        Ok(Done {
            carried: placed.carried,
            ..Done::new(tidied.model, vec![step])
        })
    }
}
