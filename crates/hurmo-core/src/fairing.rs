//! Laplacians of a surface, and surfaces whose Laplacians are as they are wanted.
//!
//! ```text
//! at a vertex: the sum of cotangent weights x differences to its neighbours
//!              = its area x twice the mean curvature, along the normal
//! ```
//!
//! Cotangent weights (Pinkall & Polthier 1993; with areas, Meyer, Desbrun, Schröder & Barr 2003), kept
//! within limits, so that obtuse triangles and needles don't spoil the system. Vertices are placed so that
//! Laplacians come nearest to what is wanted in the least-squares sense (Botsch & Kobbelt 2004), by
//! one sparse Cholesky factor.

use crate::sparse::{Rows, solved};
use glam::DVec3;

/// Below this a cotangent weight doesn't go, so that obtuse triangles don't push.
const LEAST_WEIGHT: f64 = 0.02;
/// Nor above this, so that needles don't hold everything.
const MOST_WEIGHT: f64 = 10.0;
/// What a small area counts for at least, as a share of the mean.
const LEAST_AREA: f64 = 0.1;

/// The Laplacians of a surface of triangles.
pub(crate) struct Laplacians {
    /// Where its vertices are.
    pub points: Vec<DVec3>,
    /// The area round each vertex: a third of its triangles'.
    pub areas: Vec<f64>,
    weights: Rows,
    /// Not of length one.
    normals: Vec<DVec3>,
}

impl Laplacians {
    /// Of triangles over points.
    pub fn of(points: Vec<DVec3>, triangles: &[[u32; 3]]) -> Self {
        let mut surface = Self {
            weights: Rows::default(),
            areas: vec![0.0; points.len()],
            normals: vec![DVec3::ZERO; points.len()],
            points,
        };
        let mut terms = Vec::with_capacity(6 * triangles.len());
        for &triangle in triangles {
            surface.add(triangle, &mut terms);
        }
        surface.weights = Rows::summed(surface.points.len(), terms);
        surface
    }

    fn add(&mut self, triangle: [u32; 3], terms: &mut Vec<(u32, u32, f64)>) {
        let corners = triangle.map(|v| self.points[v as usize]);
        let across = (corners[1] - corners[0]).cross(corners[2] - corners[0]);
        for k in 0..3 {
            let (i, j) = (triangle[(k + 1) % 3], triangle[(k + 2) % 3]);
            let (p, q) = (
                corners[(k + 1) % 3] - corners[k],
                corners[(k + 2) % 3] - corners[k],
            );
            let cotangent = p.dot(q) / across.length().max(f64::MIN_POSITIVE);
            let weight = (cotangent / 2.0).clamp(LEAST_WEIGHT, MOST_WEIGHT);
            terms.extend([(i, j, weight), (j, i, weight)]);
            self.areas[triangle[k] as usize] += across.length() / 6.0;
            self.normals[triangle[k] as usize] += across;
        }
    }

    /// The neighbours of a vertex, with their weights.
    pub fn neighbours(&self, vertex: usize) -> &[(u32, f64)] {
        self.weights.of(vertex)
    }

    /// The normal at a vertex; nought where it has none.
    pub fn normal(&self, vertex: usize) -> DVec3 {
        self.normals[vertex].normalize_or_zero()
    }

    /// The Laplacian at a vertex: the sum of weighted differences to its neighbours.
    pub fn at(&self, vertex: usize) -> DVec3 {
        let here = self.points[vertex];
        let neighbours = self.neighbours(vertex).iter();
        neighbours
            .map(|&(j, weight)| (self.points[j as usize] - here) * weight)
            .sum()
    }

    /// Where `count` vertices come to lie so that the Laplacians at some come as near as can be to what is
    /// wanted there, while all others stay. `number` numbers those that move from 0. `None` where that
    /// can't be solved.
    pub fn bent(
        &self,
        wanted: impl Iterator<Item = (usize, DVec3)> + Clone,
        number: impl Fn(usize) -> Option<usize>,
        count: usize,
    ) -> Option<Vec<DVec3>> {
        let mut lower = Vec::new();
        let mut right = vec![DVec3::ZERO; count];
        let areas = wanted.clone().map(|(row, _)| self.areas[row]);
        let mean = areas.sum::<f64>() / wanted.clone().count() as f64;
        for (row, mut wanted) in wanted {
            let area = self.areas[row].max(LEAST_AREA * mean);
            let mut terms: Vec<(usize, f64)> = Vec::new();
            let mut sum = 0.0;
            for &(j, weight) in self.neighbours(row) {
                sum += weight;
                match number(j as usize) {
                    Some(j) => terms.push((j, weight)),
                    None => wanted -= self.points[j as usize] * weight,
                }
            }
            match number(row) {
                Some(row) => terms.push((row, -sum)),
                None => wanted += self.points[row] * sum,
            }
            for &(p, a) in &terms {
                right[p] += wanted * (a / area);
                let before = terms.iter().filter(|&&(q, _)| q <= p);
                lower.extend(before.map(|&(q, b)| (p as u32, q as u32, a * b / area)));
            }
        }
        solved(&Rows::summed(count, lower), &right)
    }
}
