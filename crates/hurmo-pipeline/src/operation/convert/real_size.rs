//! The size that a model has in the world, as it is stated on the command line.

use hurmo_core::units::{Axis, LENGTH_FORMS, Length, Unit};
use std::fmt;
use std::str::FromStr;

/// Which side of the bounds.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    /// Along the axis that points up.
    Height,
    /// Along the first axis that does not.
    Width,
    /// Along the other.
    Depth,
    /// Whichever is longest.
    Longest,
}

const SIDES: [(&str, Side); 4] = [
    ("height", Side::Height),
    ("width", Side::Width),
    ("depth", Side::Depth),
    ("longest", Side::Longest),
];

/// How long a side is in the world.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct RealSize {
    /// The side.
    pub side: Side,
    /// Its length.
    pub length: f64,
    /// In this unit.
    pub unit: Unit,
}

impl FromStr for RealSize {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let fail = || {
            format!(
                "'{text}' is no size; write height=12cm, or width=, depth=, longest=, with a unit"
            )
        };
        let (side, length) = text.split_once('=').ok_or_else(fail)?;
        let side = SIDES.iter().find(|(name, _)| *name == side.trim());
        match (side, length.parse()) {
            (Some((_, side)), Ok(Length::Real(length, unit))) if length > 0.0 => Ok(Self {
                side: *side,
                length,
                unit,
            }),
            (Some(_), Err(_)) => Err(format!("'{length}' is no length; write {LENGTH_FORMS}")),
            _ => Err(fail()),
        }
    }
}

impl fmt::Display for RealSize {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let (name, _) = SIDES
            .iter()
            .find(|(_, side)| *side == self.side)
            .expect("all are listed");
        write!(f, "{name}={}{}", self.length, self.unit)
    }
}

impl RealSize {
    /// Whether it must be known which axis points up.
    pub fn needs_up(&self) -> bool {
        self.side != Side::Longest
    }

    /// The length of the side in a model of this size.
    pub fn side_of(&self, size: glam::DVec3, up: Axis) -> f64 {
        let others: Vec<usize> = (0..3).filter(|&axis| axis != up as usize).collect();
        match self.side {
            Side::Height => size[up as usize],
            Side::Width => size[others[0]],
            Side::Depth => size[others[1]],
            Side::Longest => size.max_element(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::DVec3;

    #[test]
    fn sizes_are_read_and_told_alike() {
        let tall: RealSize = "height=12cm".parse().unwrap();
        assert_eq!(
            (tall.side, tall.length, tall.unit),
            (Side::Height, 12.0, Unit::Cm)
        );
        assert_eq!(tall.to_string(), "height=12cm");
        for wrong in [
            "12cm",
            "height=12",
            "tall=12cm",
            "height=0mm",
            "height=5%",
            "width=x",
        ] {
            assert!(wrong.parse::<RealSize>().is_err(), "{wrong}");
        }
        let size = DVec3::new(1.0, 2.0, 3.0);
        let side = |text: &str, up| text.parse::<RealSize>().unwrap().side_of(size, up);
        assert_eq!(side("height=1m", Axis::Y), 2.0);
        assert_eq!(side("width=1m", Axis::Y), 1.0);
        assert_eq!(side("depth=1m", Axis::Y), 3.0);
        assert_eq!(side("depth=1m", Axis::Z), 2.0);
        assert_eq!(side("longest=1m", Axis::X), 3.0);
    }
}
