//! What can be done to a model, one step at a time.
//!
//! ```text
//! hurmo decimate IN -o OUT --to 20k ─┐
//! [[step]] do = "decimate" to = "20k" ─┼─▶ Operation ─▶ apply ─▶ a model, and reports
//! the usual order of hurmo prep ──────┘
//! ```
//!
//! A command that turns a model into another, a step of a brief and a step of the usual order are
//! the same operation with the same options.

mod atlas;
pub mod bake;
pub mod boolean;
pub mod convert;
pub mod decimate;
pub mod feature_weights;
pub mod fill;
pub mod filled;
mod instruction;
mod levels;
mod looks;
pub mod mend;
mod named_options;
pub mod parts;
pub mod quads;
mod region;
pub mod remesh;
pub mod repatch;
pub mod reskin;
pub mod smooth;
mod symmetry;
mod together;
pub mod transfer;

pub use instruction::{Instruction, InstructionError};
pub use named_options::{KnownOption, NamedOption, NamedOptions, Takes, Visitor};

use crate::record::{Before, Rebuilt, Statement, StepReport};
use crate::said;
use anyhow::Result;
use glam::DAffine3;
use hurmo_core::audit::{Audit, Brief, SortedAnalysis};
use hurmo_core::progress::Observer;
use hurmo_core::subdivision::Level;
use hurmo_core::units::Length;
use hurmo_core::{Mesh, Model};

/// What a step works on.
pub struct Context<'a> {
    /// The model.
    pub model: &'a Model,
    /// Its audit.
    pub audit: &'a Audit,
    /// What the audit was worked out from, where that was kept.
    pub analysis: Option<&'a SortedAnalysis<'a>>,
    /// The model as it was read, where this one is now, if another has become of it.
    pub original: Option<&'a Model>,
    /// What the model is for.
    pub brief: &'a Brief,
    /// Whether it goes to a file that holds single precision only.
    pub single_precision: bool,
    /// Who watches.
    pub observer: &'a dyn Observer,
}

impl Context<'_> {
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
            hierarchy: self.analysis.map(SortedAnalysis::hierarchy),
        };
        Rebuilt::between(&before, mesh)
    }

    /// A length in the model's units.
    ///
    /// # Errors
    /// When the model's unit must be known and isn't, or it is no length.
    pub fn length(&self, length: Length) -> Result<f64> {
        match crate::quantity::length_in(length, self.model.unit, self.diagonal())? {
            length if length >= 0.0 && length.is_finite() => Ok(length),
            length => anyhow::bail!("{length} is no length"),
        }
    }
}

/// What a step made.
pub struct Outcome {
    /// The model.
    pub model: Model,
    /// What was done.
    pub reports: Vec<StepReport>,
    /// What could not be kept.
    pub lost: Vec<Statement>,
    /// What was asked for and not reached: a budget, a distance.
    pub missed: Vec<Statement>,
    /// Where all points have gone, where the step moved the model as a whole.
    pub carried: Option<DAffine3>,
    /// Whether its faces are known not to meet: the step has made sure of it.
    pub faces_apart: bool,
    /// The model divided once, twice …, where it was asked for: files of their own.
    pub levels: Vec<Level>,
}

impl Outcome {
    /// A step that lost nothing.
    pub fn new(model: Model, reports: Vec<StepReport>) -> Self {
        Self {
            model,
            reports,
            lost: Vec::new(),
            missed: Vec::new(),
            carried: None,
            faces_apart: false,
            levels: Vec::new(),
        }
    }
}

/// A kind of step, with its options.
#[derive(Clone, Debug)]
pub enum Operation {
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

impl Operation {
    /// The names of all kinds.
    pub const KINDS: [&str; 11] = [
        "mend", "fill", "decimate", "remesh", "reskin", "smooth", "transfer", "parts", "convert",
        "boolean", "bake",
    ];

    /// One of a kind, with the default options.
    pub fn of_kind(name: &str) -> Option<Self> {
        Some(match name {
            "mend" => Self::Mend(Default::default()),
            "fill" => Self::Fill(Default::default()),
            "decimate" => Self::Decimate(Default::default()),
            "remesh" => Self::Remesh(Default::default()),
            "reskin" => Self::Reskin(Default::default()),
            "smooth" => Self::Smooth(Default::default()),
            "transfer" => Self::Transfer(Default::default()),
            "parts" => Self::Parts(Default::default()),
            "convert" => Self::Convert(Default::default()),
            "boolean" => Self::Boolean(Default::default()),
            "bake" => Self::Bake(Default::default()),
            _ => return None,
        })
    }

    /// What it is called.
    pub fn name(&self) -> &'static str {
        match self {
            Operation::Mend(_) => "mend",
            Operation::Fill(_) => "fill",
            Operation::Decimate(_) => "decimate",
            Operation::Remesh(_) => "remesh",
            Operation::Reskin(_) => "reskin",
            Operation::Smooth(_) => "smooth",
            Operation::Transfer(_) => "transfer",
            Operation::Parts(_) => "parts",
            Operation::Convert(_) => "convert",
            Operation::Boolean(_) => "boolean",
            Operation::Bake(_) => "bake",
        }
    }

    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        match self {
            Operation::Mend(mend) => mend.options.check(),
            Operation::Fill(options) => options.check(),
            Operation::Decimate(options) => options.check(),
            Operation::Remesh(options) => options.check(),
            Operation::Reskin(options) => options.check(),
            Operation::Smooth(options) => options.check(),
            Operation::Parts(options) => options.check(),
            Operation::Convert(options) => options.check(),
            Operation::Boolean(boolean) => boolean.check(),
            Operation::Bake(bake) => bake.options.check(),
            Operation::Transfer(_) => Ok(()),
        }
    }

    /// Whether it builds on what the audit was worked out from: then that is worth its memory.
    pub fn builds_on_analysis(&self) -> bool {
        matches!(self, Operation::Reskin(_))
    }

    /// How many levels of the result it makes, for files of their own.
    pub fn levels(&self) -> usize {
        match self {
            Operation::Remesh(options) => options.quads.levels(),
            Operation::Reskin(options) => options.levels_of_quads(),
            _ => 0,
        }
    }

    /// What it finds to work on.
    pub fn finds(&self, context: &Context<'_>) -> Vec<Statement> {
        match self {
            Operation::Mend(mend) => mend.options.finds(context),
            Operation::Fill(_) => vec![said!("rims", "{rims:rim}", rims = context.audit.mesh.rims)],
            Operation::Decimate(_)
            | Operation::Remesh(_)
            | Operation::Reskin(_)
            | Operation::Smooth(_) => {
                let triangles = context.model.mesh.triangle_count();
                vec![said!(
                    "triangles",
                    "{triangles:triangle}",
                    triangles = triangles
                )]
            }
            Operation::Parts(_) | Operation::Boolean(_) => {
                vec![said!(
                    "parts",
                    "{parts:part}",
                    parts = context.audit.mesh.parts
                )]
            }
            Operation::Convert(_) | Operation::Bake(_) | Operation::Transfer(_) => Vec::new(),
        }
    }

    /// Does it.
    ///
    /// # Errors
    /// When it can't be done on this model, or was [cancelled](hurmo_core::progress::Cancelled).
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        let outcome = self.outcome(context);
        // Whatever error it ended with, it was cancelled.
        context.observer.check()?;
        outcome
    }

    /// What it makes.
    fn outcome(&self, context: &Context<'_>) -> Result<Outcome> {
        match self {
            Operation::Mend(mend) => mend.apply(context),
            Operation::Fill(options) => options.apply(context),
            Operation::Decimate(options) => options.apply(context),
            Operation::Remesh(options) => options.apply(context),
            Operation::Reskin(options) => options.apply(context),
            Operation::Smooth(options) => options.apply(context),
            Operation::Transfer(transfer) => transfer.apply(context),
            Operation::Parts(options) => options.apply(context),
            Operation::Convert(options) => options.apply(context),
            Operation::Boolean(boolean) => boolean.apply(context),
            Operation::Bake(bake) => bake.apply(context),
        }
    }
}

impl NamedOptions for Operation {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        match self {
            Operation::Mend(options) => options.each(visitor),
            Operation::Fill(options) => options.each(visitor),
            Operation::Decimate(options) => options.each(visitor),
            Operation::Remesh(options) => options.each(visitor),
            Operation::Reskin(options) => options.each(visitor),
            Operation::Smooth(options) => options.each(visitor),
            Operation::Transfer(options) => options.each(visitor),
            Operation::Parts(options) => options.each(visitor),
            Operation::Convert(options) => options.each(visitor),
            Operation::Boolean(options) => options.each(visitor),
            Operation::Bake(options) => options.each(visitor),
        }
    }
}

/// A step that gave the model other faces, or moved its vertices.
fn rebuilt_step(
    step: &'static str,
    did: Vec<Statement>,
    context: &Context<'_>,
    after: &Model,
) -> StepReport {
    let rebuilt = context.rebuilt(&after.mesh);
    StepReport {
        did,
        moved: rebuilt.as_ref().map(Rebuilt::moved),
        rebuilt: rebuilt.map(Box::new),
        ..StepReport::of(step)
    }
}
