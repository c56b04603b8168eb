//! How UVs go on over the surface round a vertex (the attribute part of Hoppe's 1999 quadric, with
//! the place given).

use glam::{DVec2, DVec3};

/// Sums, by area, of how UVs go on over a plane: `across · (place - centre) + start` for each of
/// the two, over `weight`.
#[derive(Clone, Copy, Default)]
pub(super) struct Fit {
    across: [DVec3; 2],
    start: DVec2,
    weight: f64,
}

impl Fit {
    /// Of a triangle, none if it has no area.
    pub fn of([a, b, c]: [DVec3; 3], uvs: [DVec2; 3]) -> Self {
        let normal = (b - a).cross(c - a);
        let square = normal.length_squared();
        let finite = uvs.iter().all(|uv| uv.is_finite());
        if square <= 0.0 || !finite {
            return Self::default();
        }
        let weight = square.sqrt();
        // How fast the share of each corner grows, by place.
        let grows = |p: DVec3, q: DVec3| normal.cross(q - p) / square;
        let (by_b, by_c) = (grows(c, a), grows(a, b));
        let (to_b, to_c) = (uvs[1] - uvs[0], uvs[2] - uvs[0]);
        let across = [0, 1].map(|k| by_b * to_b[k] + by_c * to_c[k]);
        let start = uvs[0] - DVec2::new(across[0].dot(a), across[1].dot(a));
        Self {
            across: across.map(|across| across * weight),
            start: start * weight,
            weight,
        }
    }

    pub fn plus(self, other: Self) -> Self {
        Self {
            across: [0, 1].map(|k| self.across[k] + other.across[k]),
            start: self.start + other.start,
            weight: self.weight + other.weight,
        }
    }

    /// The UV at a place; not finite without any triangle.
    pub fn at(&self, place: DVec3) -> DVec2 {
        let along = DVec2::new(self.across[0].dot(place), self.across[1].dot(place));
        (along + self.start) / self.weight
    }

    /// By how much the UV changes over a way.
    pub fn change(&self, way: DVec3) -> DVec2 {
        DVec2::from_array(self.across.map(|across| across.dot(way) / self.weight))
    }
}
