//! Refining a patch until its triangles are as dense as those round it (Liepa 2003).
//!
//! Every vertex has a scale: the mean length of the edges that end there. A triangle that is
//! large against the scales of its corners gets a vertex in its middle, with the mean of their
//! scales; then edges are flipped to better triangles, and so on until nothing is large. Cost:
//! near-linear in the triangles that it ends with.

use super::editable_triangles::{Net, SideOf};
use super::height_field::Look;
use super::patch::Patch;
use crate::triangulate::quality;
use glam::DVec3;

/// The area of an even triangle of side 1.
const EVEN: f64 = 0.433;
/// Up to this many triangles, or eight for each edge of the border, a patch is dense all over.
const FAIR_COUNT: f64 = 40_000.0;
/// How edges grow towards the middle of a larger one: by this share of the way.
const GROWTH: f64 = 0.35;
/// No more than this many triangles are made for one border.
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

    /// Takes on scales, to be kept all over or, where that would take too many triangles, at the
    /// border and longer further in.
    pub fn scale(&mut self, scales: Vec<f64>) {
        let mean = scales.iter().sum::<f64>() / scales.len().max(1) as f64;
        let area: f64 = self.triangles.iter().map(|&t| self.area(t)).sum();
        let wanted = area / (EVEN * mean * mean);
        let is_many = wanted > FAIR_COUNT.max(8.0 * scales.len() as f64);
        self.growth = if is_many { GROWTH } else { 0.0 };
        self.scales = scales;
    }

    /// Refines until edges are about as long as the scales ask for, times `coarseness`.
    pub fn refine(&mut self, coarseness: f64, taken: &dyn Fn(u32, u32) -> bool) {
        debug_assert_eq!(self.scales.len(), self.points.len());
        let mut net = Net::of(std::mem::take(&mut self.triangles));
        let every = (0..net.triangles.len() as u32)
            .flat_map(|triangle| [0, 1, 2].map(|side| SideOf { triangle, side }));
        let mut todo: Vec<SideOf> = every.collect();
        for _ in 0..ROUNDS {
            self.flip(&mut net, &mut todo, taken);
            let before = self.points.len();
            for t in 0..net.triangles.len() {
                let triangle = net.triangles[t];
                let Some(middle) = self.middle_of_large(triangle, coarseness) else {
                    continue;
                };
                let new = self.points.len() as u32;
                let nearest = triangle.into_iter().min_by(|&p, &q| {
                    let distance = |v: u32| self.points[v as usize].distance_squared(middle);
                    distance(p).total_cmp(&distance(q))
                });
                let like = self.like[nearest.unwrap_or(triangle[0]) as usize];
                let scale = match self.growth > 0.0 {
                    true => {
                        let way = middle.distance(self.points[like as usize]);
                        self.scales[like as usize] + self.growth * way
                    }
                    false => {
                        triangle
                            .iter()
                            .map(|&v| self.scales[v as usize])
                            .sum::<f64>()
                            / 3.0
                    }
                };
                self.like.push(like);
                self.points.push(middle);
                let lid = triangle.map(|v| self.lid[v as usize]);
                self.lid.push(lid.into_iter().sum::<DVec3>() / 3.0);
                self.scales.push(scale);
                todo.extend(net.split(t as u32, new));
            }
            if self.points.len() == before || net.triangles.len() > MOST {
                break;
            }
        }
        self.flip(&mut net, &mut todo, taken);
        self.triangles = net.triangles;
    }

    /// The middle of a triangle that is large against the scales of its corners.
    fn middle_of_large(&self, triangle: [u32; 3], coarseness: f64) -> Option<DVec3> {
        let corners = triangle.map(|v| self.points[v as usize]);
        let scales = triangle.map(|v| self.scales[v as usize]);
        let middle = corners.into_iter().sum::<DVec3>() / 3.0;
        let scale = scales.iter().sum::<f64>() / 3.0;
        if let Some(look) = self.steady_look() {
            let [a, b, c] = corners;
            let pieces = [[a, b, middle], [b, c, middle], [c, a, middle]];
            if !pieces.into_iter().all(|piece| look.is_forth(piece)) {
                return None;
            }
        }
        let is_large = corners.iter().zip(scales).all(|(corner, own)| {
            let reach = std::f64::consts::SQRT_2 * middle.distance(*corner);
            reach > coarseness * scale.max(own)
        });
        is_large.then_some(middle)
    }

    /// Flips edges to better triangles where nothing folds over, beginning with those in
    /// `todo`. The sorted list of qualities only ever rises, so this ends.
    fn flip(&self, net: &mut Net, todo: &mut Vec<SideOf>, taken: &dyn Fn(u32, u32) -> bool) {
        let at = |v: u32| self.points[v as usize];
        let shape = |t: [u32; 3]| quality(t.map(at));
        let normal = |[a, b, c]: [u32; 3]| (at(b) - at(a)).cross(at(c) - at(a));
        let on_border = |v: u32| (v as usize) < self.border;
        let look = self.steady_look();
        let mut patience = net.triangles.len() * 30;
        while let Some(side) = todo.pop() {
            let Some(pair) = net.pair(side) else {
                continue;
            };
            let [a, b, c, d] = pair.corners;
            let (now, then) = ([[a, b, c], [b, a, d]], [[c, a, d], [d, b, c]]);
            let worst = |two: [[u32; 3]; 2]| shape(two[0]).min(shape(two[1]));
            if worst(then) <= worst(now) * (1.0 + 1e-9) + 1e-15 {
                continue;
            }
            let before = normal(now[0]) + normal(now[1]);
            let folds = then.iter().any(|&t| {
                let turns = |look: Look| !look.is_forth(t.map(at));
                normal(t).dot(before) <= 0.0 || look.is_some_and(turns)
            });
            let is_taken = on_border(c) && on_border(d) && taken(c, d);
            // Over border vertices alone nothing can give way to what lies round them.
            let is_stiff = |t: &[u32; 3]| t.iter().all(|&v| on_border(v));
            let stiffens = then.iter().any(is_stiff) && !now.iter().any(is_stiff);
            if folds || stiffens || is_taken || c == d || net.has_edge(pair.left(), c, d) {
                continue;
            }
            patience -= 1;
            if patience == 0 {
                return todo.clear();
            }
            todo.extend(net.flip(pair));
        }
    }
}
