//! How far triangles lie off the model, by their middles.

use super::Sharpened;
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
    pub fn of(sharpened: &Sharpened<'_>, [a, b, c]: [DVec3; 3]) -> Self {
        let off = sharpened.off((a + b + c) / 3.0);
        Self::by(sharpened, off, (b - a).cross(c - a))
    }

    /// Of one triangle, by how far it lies off and twice its vector area.
    fn by(sharpened: &Sharpened<'_>, off: f64, area: DVec3) -> Self {
        Self {
            most: off,
            between: off * (area.length() / 2.0) / sharpened.cell().powi(2),
        }
    }

    /// Of triangles that are to look along the model, if they do, and are to lie no further off it
    /// than others.
    pub fn of_all(
        sharpened: &Sharpened<'_>,
        triangles: &[[DVec3; 3]],
        others: &Off,
    ) -> Option<Self> {
        let mut all = Off::default();
        for &[a, b, c] in triangles {
            let (off, facing) = sharpened.off_and_normal((a + b + c) / 3.0);
            let area = (b - a).cross(c - a);
            all.add(&Self::by(sharpened, off, area));
            let looks_along = facing.dot(area.normalize_or_zero()) > ALONG;
            if !looks_along || all.most > others.most || all.between > others.between {
                return None;
            }
        }
        Some(all)
    }
}
