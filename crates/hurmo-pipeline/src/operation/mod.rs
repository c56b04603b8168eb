//! What can be done to a model, one step at a time.
//!
//! ```text
//! hurmo decimate IN -o OUT --to 20k ─┐
//! [[step]] do = "decimate" to = "20k" ─┼─▶ Work ─▶ apply ─▶ model, and what is told of it
//! the usual order of hurmo prep ──────┘
//! ```
//!
//! A command that turns a model into another, a step of a brief and a step of the usual order are
//! one and the same: they share their options, because they are parsed by the same parser.

mod atlas;
pub mod bake;
pub mod boolean;
pub mod care;
pub mod convert;
pub mod decimate;
pub mod fill;
mod filled;
mod looks;
pub mod mend;
pub mod parts;
mod region;
pub mod remesh;
mod repatch;
pub mod reskin;
pub mod smooth;
pub mod transfer;
mod words;

pub use words::{KnownOption, Words, WordsError};

use crate::record::Step;
use crate::record::{Before, Rebuilt};
use anyhow::Result;
use glam::DAffine3;
use hurmo_core::audit::{Audit, Brief, Survey};
use hurmo_core::progress::Observer;
use hurmo_core::units::Length;
use hurmo_core::{Mesh, Model};

/// What a step works on.
pub struct At<'a> {
    /// The model.
    pub model: &'a Model,
    /// Its audit.
    pub audit: &'a Audit,
    /// What the audit was worked out from, [sorted](Survey::sorted), where that was kept.
    pub survey: Option<&'a Survey<'a>>,
    /// The model as it was read, where this one is now, if another has become of it.
    pub original: Option<&'a Model>,
    /// What the model is for.
    pub brief: &'a Brief,
    /// Whether it goes to a file that holds single precision only.
    pub single_precision: bool,
    /// Who watches.
    pub observer: &'a dyn Observer,
}

impl At<'_> {
    /// The diagonal of the model's bounds, in model units.
    pub fn diagonal(&self) -> f64 {
        self.audit.mesh.diagonal
    }

    /// What a rebuilding owes, of a mesh in place of the model's.
    fn rebuilt(&self, mesh: &Mesh) -> Option<Rebuilt> {
        let facts = &self.audit.mesh;
        let before = Before {
            mesh: &self.model.mesh,
            volume: facts.watertight.then_some(facts.volume),
            soup: self.survey.map(Survey::soup),
        };
        Rebuilt::between(&before, mesh)
    }

    /// A length in the model's units.
    pub fn length(&self, length: Length) -> Result<f64> {
        crate::quantity::length_in(length, self.model.unit, self.diagonal())
    }
}

/// What a step made.
pub struct Done {
    /// The model.
    pub model: Model,
    /// What was done, in words and figures.
    pub told: Vec<Step>,
    /// What could not be kept.
    pub lost: Vec<String>,
    /// What was asked for and not reached: a budget, a distance.
    pub missed: Vec<String>,
    /// Where all points have gone, where the step moved the model as a whole.
    pub carried: Option<DAffine3>,
}

impl Done {
    /// A step that lost nothing.
    pub fn new(model: Model, told: Vec<Step>) -> Self {
        Self {
            model,
            told,
            lost: Vec::new(),
            missed: Vec::new(),
            carried: None,
        }
    }
}

/// A kind of step, with its options.
#[derive(Clone, Debug, clap::Subcommand)]
pub enum Work {
    /// Clear faults, by kind
    Mend(mend::Mend),
    /// Close holes
    Fill(fill::Options),
    /// Reduce to a budget of triangles
    Decimate(Box<decimate::Options>),
    /// Rebuild with even triangles
    Remesh(Box<remesh::Options>),
    /// Put a new watertight skin round it
    Reskin(Box<reskin::Options>),
    /// Take noise out, or even vertices out
    Smooth(smooth::Options),
    /// Give vertices the colours of another model
    Transfer(transfer::Transfer),
    /// Keep or drop parts, or make groups of them
    Parts(parts::Options),
    /// Change unit, up axis, size, origin, transforms, names or normals
    Convert(Box<convert::Options>),
    /// Join it with other models, or take them away
    Boolean(Box<boolean::Boolean>),
    /// Fill a texture from the look of another
    Bake(Box<bake::Bake>),
}

impl Work {
    /// What it is called.
    pub fn name(&self) -> &'static str {
        match self {
            Work::Mend(_) => "mend",
            Work::Fill(_) => "fill",
            Work::Decimate(_) => "decimate",
            Work::Remesh(_) => "remesh",
            Work::Reskin(_) => "reskin",
            Work::Smooth(_) => "smooth",
            Work::Transfer(_) => "transfer",
            Work::Parts(_) => "parts",
            Work::Convert(_) => "convert",
            Work::Boolean(_) => "boolean",
            Work::Bake(_) => "bake",
        }
    }

    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        match self {
            Work::Mend(mend) => mend.options.check(),
            Work::Fill(options) => options.check(),
            Work::Decimate(options) => options.check(),
            Work::Remesh(options) => options.check(),
            Work::Reskin(options) => options.check(),
            Work::Smooth(options) => options.check(),
            Work::Parts(options) => options.check(),
            Work::Convert(options) => options.check(),
            Work::Boolean(boolean) => boolean.check(),
            Work::Bake(_) | Work::Transfer(_) => Ok(()),
        }
    }

    /// Whether it builds on what the audit was worked out from: then that is worth its memory.
    pub fn builds_on_survey(&self) -> bool {
        matches!(self, Work::Reskin(_))
    }

    /// What it finds to work on.
    pub fn finds(&self, at: &At<'_>) -> Vec<String> {
        match self {
            Work::Mend(mend) => mend.options.finds(at),
            Work::Fill(_) => vec![crate::text::counted(at.audit.mesh.rims, "rim")],
            Work::Decimate(_) | Work::Remesh(_) | Work::Reskin(_) | Work::Smooth(_) => {
                let triangles = at.model.mesh.triangle_count();
                vec![crate::text::counted(triangles, "triangle")]
            }
            Work::Parts(_) | Work::Boolean(_) => {
                vec![crate::text::counted(at.audit.mesh.parts, "part")]
            }
            Work::Convert(_) | Work::Bake(_) | Work::Transfer(_) => Vec::new(),
        }
    }

    /// Does it.
    pub fn apply(&self, at: &At<'_>) -> Result<Done> {
        match self {
            Work::Mend(mend) => mend.apply(at),
            Work::Fill(options) => options.apply(at),
            Work::Decimate(options) => options.apply(at),
            Work::Remesh(options) => options.apply(at),
            Work::Reskin(options) => options.apply(at),
            Work::Smooth(options) => options.apply(at),
            Work::Transfer(transfer) => transfer.apply(at),
            Work::Parts(options) => options.apply(at),
            Work::Convert(options) => options.apply(at),
            Work::Boolean(boolean) => boolean.apply(at),
            Work::Bake(bake) => bake.apply(at),
        }
    }
}

/// A step that gave the model other faces, or moved its vertices.
fn rebuilt_step(step: &'static str, did: Vec<String>, at: &At<'_>, after: &Model) -> Step {
    let rebuilt = at.rebuilt(&after.mesh);
    Step {
        step,
        did,
        single: Vec::new(),
        left: Vec::new(),
        moved: rebuilt.as_ref().map(Rebuilt::moved),
        rebuilt: rebuilt.map(Box::new),
        boolean: None,
    }
}
