//! Refining a patch until its triangles are as dense as those round it (Liepa 2003).
//!
//! Every vertex has a scale: the mean length of the edges that end there. A triangle that is
//! large against the scales of its corners gets a vertex in its middle, with the mean of their
//! scales; then edges are flipped to better triangles, and so on until nothing is large. Cost:
//! near-linear in the triangles that it ends with.

use crate::triangulate::flip_to_better;
use glam::DVec3;

/// A patch that closes a border. Its vertices are first those of the border, then new ones.
#[derive(Clone, Debug)]
pub(super) struct Patch {
    pub points: Vec<DVec3>,
    pub triangles: Vec<[u32; 3]>,
    /// For every vertex, the place on the border that it takes after.
    pub like: Vec<u32>,
    pub border: usize,
    /// For every vertex, how long edges at it should be; empty when it isn't to be refined.
    pub scales: Vec<f64>,
}

/// No more than so many triangles are made for one border.
const MOST: usize = 400_000;
const ROUNDS: usize = 40;

impl Patch {
    /// How much coarser than asked for it is to begin with, to have about `across` edges from
    /// side to side; a power of 2.
    pub fn first_coarseness(&self, across: f64) -> f64 {
        let border = &self.points[..self.border];
        let middle = border.iter().sum::<DVec3>() / self.border as f64;
        let reach = border
            .iter()
            .map(|p| p.distance(middle))
            .fold(0.0, f64::max);
        let scale = self.scales.iter().sum::<f64>() / self.scales.len().max(1) as f64;
        let steps = (2.0 * reach / (across * scale)).max(1.0).log2().floor();
        if steps.is_finite() { steps.exp2() } else { 1.0 }
    }

    /// A patch over its border only.
    pub fn over(points: Vec<DVec3>, triangles: Vec<[u32; 3]>) -> Self {
        Self {
            like: (0..points.len() as u32).collect(),
            border: points.len(),
            points,
            triangles,
            scales: Vec::new(),
        }
    }

    /// Refines until edges are about as long as the scales ask for, times `coarseness`.
    pub fn refine(&mut self, coarseness: f64, taken: &dyn Fn(u32, u32) -> bool) {
        debug_assert_eq!(self.scales.len(), self.points.len());
        for _ in 0..ROUNDS {
            let before = self.points.len();
            for t in 0..self.triangles.len() {
                let [a, b, c] = self.triangles[t];
                let corners = [a, b, c].map(|v| self.points[v as usize]);
                let middle = corners.into_iter().sum::<DVec3>() / 3.0;
                let scale = [a, b, c]
                    .map(|v| self.scales[v as usize])
                    .iter()
                    .sum::<f64>()
                    / 3.0;
                let is_large = [a, b, c].iter().zip(corners).all(|(&v, corner)| {
                    let reach = std::f64::consts::SQRT_2 * middle.distance(corner);
                    reach > coarseness * scale.max(self.scales[v as usize])
                });
                if !is_large {
                    continue;
                }
                let new = self.points.len() as u32;
                let nearest = [a, b, c].into_iter().min_by(|&p, &q| {
                    let distance = |v: u32| self.points[v as usize].distance_squared(middle);
                    distance(p).total_cmp(&distance(q))
                });
                self.like.push(self.like[nearest.unwrap_or(a) as usize]);
                self.points.push(middle);
                self.scales.push(scale);
                self.triangles[t] = [a, b, new];
                self.triangles.extend([[b, c, new], [c, a, new]]);
            }
            self.flip(taken);
            if self.points.len() == before || self.triangles.len() > MOST {
                break;
            }
        }
    }

    /// Flips edges to better triangles where nothing folds over.
    pub fn flip(&mut self, taken: &dyn Fn(u32, u32) -> bool) {
        let points = &self.points;
        let normal = |a: u32, b: u32, c: u32| {
            let [a, b, c] = [a, b, c].map(|i| points[i as usize]);
            (b - a).cross(c - a)
        };
        let on_border = |v: u32| (v as usize) < self.border;
        flip_to_better(points, &mut self.triangles, |a, b, c, d| {
            let before = normal(a, b, c) + normal(b, a, d);
            let free = !(on_border(c) && on_border(d) && taken(c, d));
            free && normal(c, a, d).dot(before) > 0.0 && normal(d, b, c).dot(before) > 0.0
        });
    }
}
