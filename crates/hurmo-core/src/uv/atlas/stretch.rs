//! How far a flattened surface is from true: by the two singular values of the map from each triangle
//! in space to the plane.

use super::flatten::Chart;
use crate::mesh::Mesh;
use glam::{DMat2, DVec2, DVec3};

/// How far charts are from true.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stretch {
    /// How many times longer lengths become in one direction than across it, at the most.
    pub worst_skew: f64,
    /// The same, the mean over the area.
    pub mean_skew: f64,
    /// By what areas are multiplied: the least and the most.
    pub areas: [f64; 2],
    /// How many triangles have no area in the plane, or are folded over.
    pub folded: usize,
    area: f64,
}

impl Stretch {
    const NONE: Self = Self {
        worst_skew: 1.0,
        mean_skew: 1.0,
        areas: [f64::INFINITY, 0.0],
        folded: 0,
        area: 0.0,
    };

    /// Of charts.
    pub fn of(mesh: &Mesh, charts: &[Chart]) -> Self {
        let each = charts.iter().map(|chart| Self::of_chart(mesh, chart));
        each.fold(Self::NONE, Self::with)
    }

    /// Of one chart.
    pub fn of_chart(mesh: &Mesh, chart: &Chart) -> Self {
        let each = chart.triangles.iter().map(|&triangle| {
            let places = triangle.map(|place| chart.places[place as usize]);
            Self::of_triangle(chart.points(mesh, triangle), places)
        });
        each.fold(Self::NONE, Self::with)
    }

    /// Of a triangle in space and in the plane.
    pub fn of_triangle([a, b, c]: [DVec3; 3], [p, q, r]: [DVec2; 3]) -> Self {
        let (u, v) = (b - a, c - a);
        let x = u.normalize_or_zero();
        let y = u.cross(v).cross(u).normalize_or_zero();
        let own = DMat2::from_cols(DVec2::new(u.length(), 0.0), DVec2::new(v.dot(x), v.dot(y)));
        let map = DMat2::from_cols(q - p, r - p) * own.inverse();
        let (e, f) = (map.x_axis.x + map.y_axis.y, map.x_axis.x - map.y_axis.y);
        let (g, h) = (map.x_axis.y + map.y_axis.x, map.x_axis.y - map.y_axis.x);
        let (one, other) = (e.hypot(h) / 2.0, f.hypot(g) / 2.0);
        let (most, least) = (one + other, (one - other).abs());
        let area = u.cross(v).length() / 2.0;
        let is_folded = map.determinant() <= 0.0 || !map.is_finite();
        let skew = if is_folded {
            f64::INFINITY
        } else {
            most / least
        };
        Self {
            worst_skew: skew,
            mean_skew: skew,
            areas: [most * least; 2],
            folded: usize::from(is_folded),
            area,
        }
    }

    /// The area in space that it is of.
    pub fn area(&self) -> f64 {
        self.area
    }

    fn with(self, other: Self) -> Self {
        let area = self.area + other.area;
        let mean = (self.mean_skew * self.area + other.mean_skew * other.area) / area;
        Self {
            worst_skew: self.worst_skew.max(other.worst_skew),
            mean_skew: if area > 0.0 { mean } else { 1.0 },
            areas: [
                self.areas[0].min(other.areas[0]),
                self.areas[1].max(other.areas[1]),
            ],
            folded: self.folded + other.folded,
            area,
        }
    }
}
