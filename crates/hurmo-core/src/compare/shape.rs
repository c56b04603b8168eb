//! How a mesh's triangles are shaped and how dense they lie.

use crate::mesh::Mesh;
use crate::triangulate::{all_triangles, quality};

/// A mesh's size, and the shapes of its triangles.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct Shape {
    /// How many triangles, polygons cut up.
    pub triangles: usize,
    /// Area, in square units.
    pub area: f64,
    /// Volume, in cubic units; of a closed surface that faces outward.
    pub volume: f64,
    /// How many triangles are how even, by tenths: the first are needles, the last even-sided.
    pub evenness: [usize; 10],
    /// How many edges (two of a pair counted twice) are how long against the mean: up to an
    /// eighth, a quarter, half, as long, twice, four times, eight times, and longer.
    pub lengths: [usize; 8],
    /// The mean length of an edge.
    pub mean_length: f64,
}

impl Shape {
    /// Measures a mesh.
    pub fn of(mesh: &Mesh) -> Self {
        let (triangles, _) = all_triangles(mesh);
        let mut evenness = [0; 10];
        let mut sides = Vec::with_capacity(triangles.len() * 3);
        for triangle in &triangles {
            let [a, b, c] = triangle.map(|v| mesh.position(v));
            let tenth = (quality([a, b, c]) * 10.0) as usize;
            evenness[tenth.min(9)] += 1;
            sides.extend([a.distance(b), b.distance(c), c.distance(a)]);
        }
        let mean_length = sides.iter().sum::<f64>() / sides.len().max(1) as f64;
        let mut lengths = [0; 8];
        for side in sides {
            let doublings = (side / mean_length).log2().ceil();
            lengths[(doublings + 3.0).clamp(0.0, 7.0) as usize] += 1;
        }
        Self {
            triangles: triangles.len(),
            area: crate::measure::area(mesh),
            volume: crate::measure::volume(mesh),
            evenness,
            lengths,
            mean_length,
        }
    }
}
