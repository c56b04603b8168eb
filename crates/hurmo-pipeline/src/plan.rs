//! What is to be done.

use crate::operation::Instruction;
use crate::operation::convert::{self, Place, Up};
use crate::output::TextureOptions;
use crate::quantity::Budget;
use hurmo_core::Model;
use hurmo_core::audit::Brief;
use hurmo_core::units::Length;

/// A step that a brief lists.
#[derive(Clone, Debug)]
pub struct PlannedStep {
    /// What to do.
    pub instruction: Instruction,
    /// What it may make worse.
    pub may_break: MayBreak,
}

/// Which findings that block a step may make more of, without ending the job.
#[derive(Clone, Debug, PartialEq)]
pub enum MayBreak {
    /// Those of these checks.
    Checks(Vec<String>),
    /// Any.
    All,
}

impl MayBreak {
    /// None at all.
    pub const NOTHING: Self = MayBreak::Checks(Vec::new());

    /// Whether there may be more findings of this check.
    pub fn allows(&self, check: &str) -> bool {
        match self {
            MayBreak::Checks(checks) => checks.iter().any(|allowed| allowed == check),
            MayBreak::All => true,
        }
    }
}

/// What to do in the usual order, where the brief lists no steps.
#[derive(Clone, Debug, Default)]
pub struct Usual {
    /// Cut one-sided patches open, so that they can be made consistent.
    pub cut_one_sided: bool,
    /// At most this many triangles.
    pub to: Option<Budget>,
    /// Even triangles of about this side first.
    pub remesh: Option<Length>,
}

/// What is done to every model.
#[derive(Clone, Debug)]
pub struct Plan {
    /// What the models are for.
    pub brief: Brief,
    /// The steps that the brief lists; none: the usual ones.
    pub steps: Vec<PlannedStep>,
    /// What to do in the usual order.
    pub usual: Usual,
    /// How the model goes on: its size and place come before all steps, how it is stored after
    /// them.
    pub goes_on: convert::Options,
    /// What becomes of textures.
    pub textures: TextureOptions,
}

impl Plan {
    /// What is asked of a model's size and place: on the command line, or else by the brief, as far
    /// as it is known what they are.
    pub fn place(&self, model: &Model) -> Place {
        let mut place = self.goes_on.place.clone();
        let handoff = &self.brief.handoff;
        if model.unit.is_some() || place.real_size.is_some() {
            place.to_unit = place.to_unit.or(handoff.unit);
        }
        if model.up.is_some() || place.up.is_some() {
            place.to_up = place.to_up.or(handoff.up.and_then(Up::of));
        }
        // Nothing is asked that is so already.
        if place.real_size.is_none() && place.to_unit == model.unit {
            place.to_unit = None;
        }
        let up = place.up.map(Up::axis).or(model.up);
        if place.to_up.map(Up::axis) == up {
            place.to_up = None;
        }
        place
    }
}
