//! Unit, up axis, scale.

use super::{At, Done};
use crate::cli::unit;
use crate::out;
use crate::story::Step;
use anyhow::{Result, bail};
use clap::ValueEnum;
use glam::DMat3;
use hurmo_core::Model;
use hurmo_core::units::{Axis, Unit};
use hurmo_formats::Format;

/// What a model as a whole is turned and scaled to.
#[derive(Clone, Debug, clap::Args)]
pub struct Options {
    /// What one unit shall be
    #[arg(long, value_parser = unit)]
    to_unit: Option<Unit>,
    /// Which axis points up in the model
    #[arg(long)]
    up: Option<Up>,
    /// Which axis shall point up
    #[arg(long)]
    to_up: Option<Up>,
    /// Multiply all lengths by this
    #[arg(long, value_name = "FACTOR", default_value_t = 1.0)]
    scale: f64,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
enum Up {
    Y,
    Z,
}

impl Up {
    fn axis(self) -> Axis {
        match self {
            Up::Y => Axis::Y,
            Up::Z => Axis::Z,
        }
    }
}

/// A model that was converted, and how.
pub struct Converted {
    /// The model.
    pub model: Model,
    /// By what its lengths were multiplied.
    pub factor: f64,
    /// Whether it was turned to another up axis.
    pub turned: bool,
    /// By what its positions were multiplied, if they were.
    by: Option<DMat3>,
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        if !(self.scale > 0.0 && self.scale.is_finite()) {
            bail!("--scale needs a number above 0");
        }
        Ok(())
    }

    /// Converts a model; to the unit and the axes of a format, where none are asked for and the
    /// model's are known.
    pub fn convert(&self, mut model: Model, format: Option<Format>) -> Result<Converted> {
        let entry = format.map(Format::entry);
        let of_format = entry
            .and_then(|entry| entry.unit)
            .filter(|_| model.unit.is_some());
        let to_unit = self.to_unit.or(of_format);
        let factor = self.scale
            * match (model.unit, to_unit) {
                (Some(from), Some(to)) => from.per(to),
                (None, Some(_)) => bail!("--to-unit needs --unit, which says what the unit is now"),
                (_, None) => 1.0,
            };
        if let Some(up) = self.up {
            model.up = Some(up.axis());
        }
        let of_format = entry
            .and_then(|entry| entry.up)
            .filter(|_| model.up.is_some());
        let to_up = self.to_up.map(Up::axis).or(of_format);
        let turn = match (model.up, to_up) {
            (None, Some(_)) => bail!("--to-up needs --up, which says which axis points up now"),
            (Some(up), Some(to)) if up != to => Some(up.turned_to(to)),
            _ => None,
        };
        let mut by = None;
        if factor != 1.0 || turn.is_some() {
            let turn = turn.unwrap_or(DMat3::IDENTITY);
            model.convert(turn * factor);
            if !(model.mesh.positions().iter()).all(|&at| hurmo_core::mesh::is_usable(at)) {
                bail!("scaled by {factor}, the model is too large for any number");
            }
            by = Some(turn * factor);
        }
        model.unit = to_unit.or(model.unit);
        model.up = to_up.or(model.up);
        Ok(Converted {
            model,
            factor,
            turned: turn.is_some(),
            by,
        })
    }

    /// Converts, as a step.
    pub fn apply(&self, at: &At<'_>) -> Result<Done> {
        let converted = self.convert(at.model.clone(), None)?;
        let mut did = Vec::new();
        if converted.factor != 1.0 {
            did.push(format!("lengths × {}", out::measure(converted.factor)));
        }
        if converted.turned {
            did.push("turned to the other up axis".into());
        }
        if let (Some(unit), true) = (converted.model.unit, at.model.unit != converted.model.unit) {
            did.push(format!("in {}", unit.name()));
        }
        let step = Step {
            step: "convert",
            did,
            single: Vec::new(),
            left: Vec::new(),
            moved: None,
            rebuilt: None,
        };
        Ok(Done {
            turned: converted.by,
            ..Done::new(converted.model, vec![step])
        })
    }
}
