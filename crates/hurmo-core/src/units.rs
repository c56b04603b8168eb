//! Units of length, lengths as people state them, and axes.

use glam::{DMat3, DVec3};
use std::fmt;

/// What one unit of a model's coordinates is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "serde", serde(rename_all = "lowercase"))]
pub enum Unit {
    /// Millimetre.
    Mm,
    /// Centimetre.
    Cm,
    /// Metre.
    M,
    /// Inch, 25.4 mm.
    In,
}

impl Unit {
    /// All units, smallest first.
    pub const ALL: [Unit; 4] = [Unit::Mm, Unit::Cm, Unit::In, Unit::M];

    /// Length of one such unit in millimetres.
    pub fn millimetres(self) -> f64 {
        match self {
            Unit::Mm => 1.0,
            Unit::Cm => 10.0,
            Unit::M => 1000.0,
            Unit::In => 25.4,
        }
    }

    /// The short name: `mm`, `cm`, `m`, `in`.
    pub fn name(self) -> &'static str {
        match self {
            Unit::Mm => "mm",
            Unit::Cm => "cm",
            Unit::M => "m",
            Unit::In => "in",
        }
    }

    /// The unit with this short name.
    pub fn from_name(name: &str) -> Option<Unit> {
        Unit::ALL.into_iter().find(|unit| unit.name() == name)
    }

    /// How many of `other` make one of this.
    pub fn per(self, other: Unit) -> f64 {
        self.millimetres() / other.millimetres()
    }
}

impl fmt::Display for Unit {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

/// A length as it is stated by a person.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Length {
    /// In the model's own units.
    Own(f64),
    /// In a unit of the world.
    Real(f64, Unit),
    /// In percent of the diagonal.
    Percent(f64),
}

/// How lengths are written, for messages.
pub const LENGTH_FORMS: &str = "0.02 (model units), 2mm, 1.5cm, 1m, 1in (of a model whose unit is known), or 0.5% (of the diagonal)";

impl std::str::FromStr for Length {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let (digits, suffix) = split_suffix(text);
        let fail = || format!("'{text}' is no length; write {LENGTH_FORMS}");
        let number = plain_number(digits).ok_or_else(fail)?;
        match suffix {
            "" => Ok(Length::Own(number)),
            "%" => Ok(Length::Percent(number)),
            name => Unit::from_name(name)
                .map(|unit| Length::Real(number, unit))
                .ok_or_else(fail),
        }
    }
}

/// A number's digits, and what stands behind them.
pub fn split_suffix(text: &str) -> (&str, &str) {
    let text = text.trim();
    let is_digit = |c: char| c.is_ascii_digit() || c == '.';
    let end = text.rfind(is_digit).map_or(0, |last| last + 1);
    (&text[..end], text[end..].trim())
}

/// A number from 0 up, in digits.
pub fn plain_number(digits: &str) -> Option<f64> {
    let number: f64 = digits.trim().parse().ok()?;
    (number.is_finite() && number >= 0.0).then_some(number)
}

/// A length in a unit of the world, of a model whose unit isn't known.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
#[error("the length {0}{1} needs a model whose unit is known")]
pub struct UnitUnknown(pub f64, pub Unit);

impl Length {
    /// The length in a model's own units.
    ///
    /// # Errors
    /// When it is in a unit of the world and the model's isn't known.
    pub fn in_model(self, unit: Option<Unit>, diagonal: f64) -> Result<f64, UnitUnknown> {
        match self {
            Length::Own(length) => Ok(length),
            Length::Percent(share) => Ok(diagonal * share / 100.0),
            Length::Real(length, in_unit) => match unit {
                Some(unit) => Ok(length * in_unit.per(unit)),
                None => Err(UnitUnknown(length, in_unit)),
            },
        }
    }
}

impl fmt::Display for Length {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Length::Own(length) => write!(f, "{length}"),
            Length::Real(length, unit) => write!(f, "{length}{unit}"),
            Length::Percent(share) => write!(f, "{share}%"),
        }
    }
}

/// One of the three axes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Axis {
    /// The first.
    X,
    /// The second.
    Y,
    /// The third.
    Z,
}

impl Axis {
    /// All three.
    pub const ALL: [Axis; 3] = [Axis::X, Axis::Y, Axis::Z];

    /// Its name, in lower case.
    pub fn name(self) -> &'static str {
        ["x", "y", "z"][self as usize]
    }

    /// The turn that brings this axis to where another points; the third axis to the second and back
    /// keep the first where it is.
    pub fn turned_to(self, to: Axis) -> DMat3 {
        match (self, to) {
            (Axis::Y, Axis::Z) => DMat3::from_cols(DVec3::X, DVec3::Z, -DVec3::Y),
            (Axis::Z, Axis::Y) => DMat3::from_cols(DVec3::X, -DVec3::Z, DVec3::Y),
            (Axis::X, Axis::Z) => DMat3::from_cols(DVec3::Z, DVec3::Y, -DVec3::X),
            (Axis::Z, Axis::X) => DMat3::from_cols(-DVec3::Z, DVec3::Y, DVec3::X),
            (Axis::X, Axis::Y) => DMat3::from_cols(DVec3::Y, -DVec3::X, DVec3::Z),
            (Axis::Y, Axis::X) => DMat3::from_cols(-DVec3::Y, DVec3::X, DVec3::Z),
            _ => DMat3::IDENTITY,
        }
    }

    /// The axis of this name.
    pub fn from_name(name: &str) -> Option<Axis> {
        Axis::ALL.into_iter().find(|axis| axis.name() == name)
    }

    /// A step of length 1 along it.
    pub fn unit_vector(self) -> glam::DVec3 {
        [glam::DVec3::X, glam::DVec3::Y, glam::DVec3::Z][self as usize]
    }
}

/// What leads from one unit and axis up to others; nothing where they are the same or one is not known.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Conversion {
    /// By how much lengths are multiplied.
    pub scale: Option<f64>,
    /// How everything is turned about the origin.
    pub turn: Option<DMat3>,
}

impl Conversion {
    /// Both in one; nothing where there is nothing to do.
    pub fn matrix(self) -> Option<DMat3> {
        let is_one = self.scale.is_some() || self.turn.is_some();
        is_one.then(|| self.turn.unwrap_or(DMat3::IDENTITY) * self.scale.unwrap_or(1.0))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lengths_in_all_their_forms() {
        assert_eq!("0.02".parse(), Ok(Length::Own(0.02)));
        assert_eq!("2mm".parse(), Ok(Length::Real(2.0, Unit::Mm)));
        assert_eq!("1.5 cm".parse(), Ok(Length::Real(1.5, Unit::Cm)));
        assert_eq!("0.5%".parse(), Ok(Length::Percent(0.5)));
        for wrong in ["", "mm", "-1", "2ft", "1e", "nan", "inf"] {
            assert!(wrong.parse::<Length>().is_err(), "{wrong}");
        }
        let inch = Length::Real(1.0, Unit::In);
        assert!((inch.in_model(Some(Unit::Cm), 9.0).unwrap() - 2.54).abs() < 1e-12);
        assert!(inch.in_model(None, 9.0).is_err());
        assert_eq!(Length::Percent(50.0).in_model(None, 9.0).unwrap(), 4.5);
    }

    #[test]
    fn axes_are_turned_and_nothing_is_mirrored() {
        for from in Axis::ALL {
            for to in Axis::ALL {
                let turn = from.turned_to(to);
                let axis = |axis: Axis| DVec3::AXES[axis as usize];
                assert_eq!(turn * axis(from), axis(to), "{from:?} {to:?}");
                assert_eq!(turn.determinant(), 1.0);
                assert_eq!(turn * to.turned_to(from), DMat3::IDENTITY);
            }
        }
    }
}
