//! How far triangles lie off the model.

use super::Honed;
use glam::DVec3;

/// Cosine between a triangle and the model below it, at least.
const ALONG: f64 = 0.3;

/// How far triangles lie off the model.
#[derive(Clone, Copy, Default)]
pub struct Off {
    pub most: f64,
    /// What lies between them and the model, over the area of a cell's side.
    pub between: f64,
}

impl Off {
    pub fn add(&mut self, other: &Off) {
        self.most = self.most.max(other.most);
        self.between += other.between;
    }

    /// Of one triangle.
    pub fn of(honed: &Honed<'_>, corners: [DVec3; 3]) -> Self {
        let [a, b, c] = corners;
        let middle = (a + b + c) / 3.0;
        Self::with_middle(honed, corners, honed.off(middle))
    }

    /// Of triangles that are to look along the model, if they do, and are to lie no further off it
    /// than others.
    pub fn of_all(honed: &Honed<'_>, triangles: &[[DVec3; 3]], others: &Off) -> Option<Self> {
        let looks_along = |&[a, b, c]: &[DVec3; 3]| {
            let (off, facing) = honed.off_and_normal((a + b + c) / 3.0);
            let normal = (b - a).cross(c - a).normalize_or_zero();
            (facing.dot(normal) > ALONG && off <= others.most).then_some(off)
        };
        // Most that won't do are found out by their middles.
        let middles: Vec<f64> = triangles.iter().map(looks_along).collect::<Option<_>>()?;
        let mut all = Off::default();
        for (&corners, middle) in triangles.iter().zip(middles) {
            all.add(&Self::with_middle(honed, corners, middle));
            if all.most > others.most || all.between > others.between {
                return None;
            }
        }
        Some(all)
    }

    /// Of one triangle, given how far its middle lies off.
    fn with_middle(honed: &Honed<'_>, [a, b, c]: [DVec3; 3], middle: f64) -> Self {
        let sides = [(a + b) / 2.0, (b + c) / 2.0, (c + a) / 2.0].map(|side| honed.off(side));
        let mean = (middle + sides.iter().sum::<f64>()) / 4.0;
        let area = (b - a).cross(c - a).length() / 2.0;
        Self {
            most: sides.into_iter().fold(middle, f64::max),
            between: mean * area / honed.cell().powi(2),
        }
    }
}
