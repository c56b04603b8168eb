//! How large a model is and where it stands: unit, up axis, scale, origin.

use super::RealSize;
use crate::operation::named_options::{NamedOptions, Visitor};
use crate::operation::together::excludes;
use crate::quantity::unit;
use crate::record::Statement;
use crate::said;
use crate::text;
use crate::words::Words;
use anyhow::{Context as _, Result, bail};
use glam::{DAffine3, DMat3, DVec3};
use hurmo_core::Model;
use hurmo_core::scene::Origin;
use hurmo_core::units::{Axis, Unit};
use hurmo_formats::Format;

/// What a model as a whole is turned, scaled and moved to.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct Place {
    /// What one unit shall be
    #[cfg_attr(feature = "clap", arg(long, value_parser = unit))]
    pub to_unit: Option<Unit>,
    /// Which axis points up in the model
    #[cfg_attr(feature = "clap", arg(long))]
    pub up: Option<Up>,
    /// Which axis shall point up
    #[cfg_attr(feature = "clap", arg(long))]
    pub to_up: Option<Up>,
    /// Multiply all lengths by this
    #[cfg_attr(
        feature = "clap",
        arg(long, value_name = "FACTOR", default_value_t = 1.0)
    )]
    pub scale: f64,
    /// How large it is in the world: height=12cm, width=…, depth=… or longest=…; all lengths are
    /// multiplied so that it is
    #[cfg_attr(feature = "clap", arg(long, value_name = "SIDE=LENGTH"))]
    pub real_size: Option<RealSize>,
    /// Where its origin shall be: in the middle of the ground that it stands on, in its centre, or
    /// where it is
    #[cfg_attr(feature = "clap", arg(long, value_enum, default_value_t))]
    pub origin: OriginWish,
}

/// An axis that may point up.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum Up {
    /// The second.
    Y,
    /// The third.
    Z,
}

impl Words for Up {
    const WORDS: &'static [(&'static str, Self)] = &[("y", Self::Y), ("z", Self::Z)];
}

impl Up {
    /// That of an axis, if it may point up.
    pub fn of(axis: Axis) -> Option<Self> {
        match axis {
            Axis::X => None,
            Axis::Y => Some(Up::Y),
            Axis::Z => Some(Up::Z),
        }
    }

    /// The axis.
    pub fn axis(self) -> Axis {
        match self {
            Up::Y => Axis::Y,
            Up::Z => Axis::Z,
        }
    }
}

/// Where the origin shall be.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum OriginWish {
    /// Where it is.
    #[default]
    Keep,
    /// In the middle of the ground that the model stands on.
    Base,
    /// In the middle of its bounds.
    Centre,
}

impl Words for OriginWish {
    const WORDS: &'static [(&'static str, Self)] = &[
        ("keep", Self::Keep),
        ("base", Self::Base),
        ("centre", Self::Centre),
    ];
}

impl Default for Place {
    fn default() -> Self {
        Self {
            to_unit: None,
            up: None,
            to_up: None,
            scale: 1.0,
            real_size: None,
            origin: OriginWish::Keep,
        }
    }
}

/// A model that was turned, scaled and moved, and how.
pub struct Placed {
    /// The model.
    pub model: Model,
    /// By what its lengths were multiplied.
    pub factor: f64,
    /// Whether it was turned to another up axis.
    pub turned: bool,
    /// What was done.
    pub did: Vec<Statement>,
    /// Where its points have gone, if they have.
    pub carried: Option<DAffine3>,
}

impl Place {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        if !(self.scale > 0.0 && self.scale.is_finite()) {
            bail!("--scale needs a number above 0");
        }
        let scale = ("scale", self.scale != 1.0);
        excludes(("real-size", self.real_size.is_some()), &[scale])
    }

    /// Turns, scales and moves a model; to the unit and the axes of a format, where none are asked
    /// for and the model's are known.
    pub fn apply(&self, mut model: Model, format: Option<Format>) -> Result<Placed> {
        let entry = format.map(Format::entry);
        let was_unit = model.unit;
        if let Some(up) = self.up {
            model.up = Some(up.axis());
        }
        let turn = self.turn(&model, entry.and_then(|entry| entry.up))?;
        let of_format = entry.and_then(|entry| entry.unit);
        let (factor, unit) = match self.real_size {
            Some(size) => {
                let unit = self.to_unit.or(model.unit).unwrap_or(size.unit);
                (self.factor_to(size, &model, turn, unit)?, Some(unit))
            }
            None => self.factor(&model, of_format)?,
        };
        let turned = turn != DMat3::IDENTITY;
        let by = turn * factor;
        if by != DMat3::IDENTITY {
            model.convert(by).with_context(|| {
                format!("scaled by {factor:e}, the model is too large for any number")
            })?;
        }
        model.unit = unit;
        if let Some(up) = self
            .to_up
            .map(Up::axis)
            .or(entry.and_then(|entry| entry.up))
            && model.up.is_some()
        {
            model.up = Some(up);
        }
        let moved = self.move_to_origin(&mut model)?;
        let carried = DAffine3::from_translation(-moved) * DAffine3::from_mat3(by);
        let mut did = Vec::new();
        if factor != 1.0 {
            let shown = (factor, text::factor(factor));
            did.push(said!("scaled", "lengths × {factor}", factor = shown));
        }
        if let Some(size) = self.real_size {
            did.push(said!("real-size", "{size}", size = size.to_string()));
        }
        if turned {
            did.push(said!("turned", "turned to the other up axis"));
        }
        if moved != DVec3::ZERO {
            did.push(said!("moved", "moved by {by}", by = -moved));
        }
        if let (Some(unit), true) = (model.unit, was_unit != model.unit) {
            did.push(said!("unit", "in {unit}", unit = unit.name()));
        }
        Ok(Placed {
            model,
            factor,
            turned,
            did,
            carried: (carried != DAffine3::IDENTITY).then_some(carried),
        })
    }

    /// The turn to the axis that shall point up.
    fn turn(&self, model: &Model, of_format: Option<Axis>) -> Result<DMat3> {
        let of_format = of_format.filter(|_| model.up.is_some());
        match (model.up, self.to_up.map(Up::axis).or(of_format)) {
            (None, Some(_)) => bail!("--to-up needs --up, which says which axis points up now"),
            (Some(up), Some(to)) => Ok(up.turned_to(to)),
            _ => Ok(DMat3::IDENTITY),
        }
    }

    /// By what lengths are multiplied, and the unit that they are in then.
    fn factor(&self, model: &Model, of_format: Option<Unit>) -> Result<(f64, Option<Unit>)> {
        let to_unit = self.to_unit.or(of_format.filter(|_| model.unit.is_some()));
        let factor = match (model.unit, to_unit) {
            (Some(from), Some(to)) => from.per(to),
            (None, Some(_)) => bail!("--to-unit needs --unit, which says what the unit is now"),
            (_, None) => 1.0,
        };
        Ok((self.scale * factor, to_unit.or(model.unit)))
    }

    /// By what lengths are multiplied so that a side is as long as it is to be, in a unit.
    fn factor_to(&self, size: RealSize, model: &Model, turn: DMat3, unit: Unit) -> Result<f64> {
        let up = self.to_up.or(self.up).map(Up::axis).or(model.up);
        if size.needs_up() && up.is_none() {
            bail!("--real-size {size} needs --up, which says which axis points up");
        }
        let bounds = model.shown_bounds().context("the model has no size")?;
        let turned = (turn * bounds.size()).abs();
        let side = size.side_of(turned, up.unwrap_or(Axis::Z));
        let factor = size.length * size.unit.per(unit) / side;
        match side > 0.0 && factor.is_finite() {
            true => Ok(factor),
            false => bail!("--real-size {size}: the model has no such extent"),
        }
    }

    /// Moves the origin where it shall be; by how much.
    fn move_to_origin(&self, model: &mut Model) -> Result<DVec3> {
        let (origin, up) = match (self.origin, model.up) {
            (OriginWish::Keep, _) => return Ok(DVec3::ZERO),
            (OriginWish::Centre, up) => (Origin::Centre, up.unwrap_or(Axis::Z)),
            (OriginWish::Base, Some(up)) => (Origin::Base, up),
            (OriginWish::Base, None) => {
                bail!("--origin base needs --up, which says which axis points up")
            }
        };
        let point = model.origin(origin, up).unwrap_or_default();
        if point != DVec3::ZERO {
            model.move_to_origin(point)?;
        }
        Ok(point)
    }
}

impl NamedOptions for Place {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.parsed("to-unit", &mut self.to_unit, unit, Unit::to_string);
        visitor.word("up", &mut self.up);
        visitor.word("to-up", &mut self.to_up);
        visitor.number("scale", &mut self.scale, 1.0);
        visitor.value("real-size", &mut self.real_size);
        visitor.usual_word("origin", &mut self.origin, OriginWish::Keep);
    }
}
