//! Boxes along the axes.

use glam::DVec3;

/// A box along the axes.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct Bounds {
    /// The least coordinates.
    #[cfg_attr(feature = "schemars", schemars(with = "[f64; 3]"))]
    pub min: DVec3,
    /// The greatest coordinates.
    #[cfg_attr(feature = "schemars", schemars(with = "[f64; 3]"))]
    pub max: DVec3,
}

impl Bounds {
    /// The bounds of some points; `None` when there are none.
    pub fn of(points: impl IntoIterator<Item = DVec3>) -> Option<Self> {
        let mut points = points.into_iter();
        let first = points.next()?;
        let start = Self {
            min: first,
            max: first,
        };
        Some(points.fold(start, |bounds, p| Self {
            min: bounds.min.min(p),
            max: bounds.max.max(p),
        }))
    }

    /// The box that holds nothing; what it takes in makes it one that does.
    pub const NOTHING: Bounds = Bounds {
        min: DVec3::INFINITY,
        max: DVec3::NEG_INFINITY,
    };

    /// Grows to hold a point.
    #[inline]
    pub fn take_in(&mut self, point: DVec3) {
        self.min = self.min.min(point);
        self.max = self.max.max(point);
    }

    /// Whether the other box lies within this one, borders included.
    pub fn holds(&self, other: &Bounds) -> bool {
        self.min.cmple(other.min).all() && other.max.cmple(self.max).all()
    }

    /// Length of the diagonal.
    pub fn diagonal(&self) -> f64 {
        self.size().length()
    }

    /// Edge lengths.
    pub fn size(&self) -> DVec3 {
        self.max - self.min
    }

    /// The middle.
    pub fn middle(&self) -> DVec3 {
        (self.min + self.max) / 2.0
    }
}
