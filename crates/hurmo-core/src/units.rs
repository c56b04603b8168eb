//! Units of length.

use serde::Serialize;
use std::fmt;

/// What one unit of a model's coordinates is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
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
