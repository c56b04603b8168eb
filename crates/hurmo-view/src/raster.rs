//! The rasteriser: bands of rows in parallel, a depth for every sample, two by two samples a
//! pixel.

use super::{BACKGROUND, Scene, View};
use glam::{DMat3, DVec2, DVec3};
use rayon::prelude::*;

const SAMPLES: usize = 2;
const BAND: usize = 32;
const MARGIN: f64 = 0.06;
/// Half a line's width, in samples.
const LINE: f64 = 2.2;
const FRONT: [f32; 3] = [0.78, 0.76, 0.7];
const BACK: [f32; 3] = [0.52, 0.3, 0.62];

/// Colours by sample.
pub(crate) struct Samples {
    width: usize,
    colors: Vec<[f32; 3]>,
}

struct Flat {
    /// Sample coordinates, y down, and depth towards the eye.
    at: [DVec3; 3],
    color: [f32; 3],
}

impl Samples {
    pub fn of(scene: &Scene, view: View, width: usize, height: usize) -> Self {
        let (width, height) = (width * SAMPLES, height * SAMPLES);
        let mut colors = vec![BACKGROUND; width * height];
        let Some(bounds) = scene.bounds else {
            return Self { width, colors };
        };
        let axes = view.axes();
        let project = projection(axes, bounds, width as f64, height as f64);
        let triangles: Vec<Flat> = scene
            .triangles
            .par_iter()
            .map(|&points| Flat {
                at: points.map(&project),
                color: shade(axes, points),
            })
            .collect();
        // Lines lie a little nearer than the faces they border on.
        let lift = (bounds[1] - bounds[0]).length() * 2e-3;
        let lines: Vec<([DVec3; 2], [f32; 3])> = scene
            .lines
            .iter()
            .map(|(ends, color)| (ends.map(|p| project(p) + DVec3::Z * lift), *color))
            .collect();
        colors
            .par_chunks_mut(width * BAND)
            .enumerate()
            .for_each(|(band, colors)| {
                let mut canvas = Canvas {
                    top: band * BAND,
                    width,
                    depths: vec![f64::NEG_INFINITY; colors.len()],
                    colors,
                };
                triangles
                    .iter()
                    .for_each(|triangle| canvas.triangle(triangle));
                lines
                    .iter()
                    .for_each(|(ends, color)| canvas.line(*ends, *color));
            });
        Self { width, colors }
    }

    /// The mean of a pixel's samples.
    pub fn pixel(&self, x: usize, y: usize) -> [f32; 3] {
        let mut sum = [0.0f32; 3];
        for dy in 0..SAMPLES {
            for dx in 0..SAMPLES {
                let color = self.colors[(y * SAMPLES + dy) * self.width + x * SAMPLES + dx];
                (0..3).for_each(|i| sum[i] += color[i]);
            }
        }
        sum.map(|channel| channel / (SAMPLES * SAMPLES) as f32)
    }
}

/// Scales and centres what the bounds enclose, seen along the axes.
fn projection(
    axes: DMat3,
    [low, high]: [DVec3; 2],
    width: f64,
    height: f64,
) -> impl Fn(DVec3) -> DVec3 {
    let corners = (0..8).map(|i| {
        let pick = |bit: usize, axis: usize| {
            if i >> bit & 1 == 0 {
                low[axis]
            } else {
                high[axis]
            }
        };
        axes * DVec3::new(pick(0, 0), pick(1, 1), pick(2, 2))
    });
    let (min, max) = corners.fold((DVec3::INFINITY, DVec3::NEG_INFINITY), |(a, b), p| {
        (a.min(p), b.max(p))
    });
    let size = (max - min).max(DVec3::splat(f64::MIN_POSITIVE));
    let room = 1.0 - 2.0 * MARGIN;
    let scale = (width * room / size.x).min(height * room / size.y);
    let middle = (min + max) / 2.0;
    move |p| {
        let seen = axes * p - middle;
        DVec3::new(
            width / 2.0 + seen.x * scale,
            height / 2.0 - seen.y * scale,
            seen.z,
        )
    }
}

/// The colour of a face: lit from over the eye's left shoulder.
fn shade(axes: DMat3, [a, b, c]: [DVec3; 3]) -> [f32; 3] {
    let normal = (axes * (b - a).cross(c - a)).normalize_or_zero();
    let (base, normal) = if normal.z >= 0.0 {
        (FRONT, normal)
    } else {
        (BACK, -normal)
    };
    let light = DVec3::new(-0.45, 0.55, 0.7).normalize();
    let lit = 0.35 + 0.65 * normal.dot(light).max(0.0) + 0.08 * normal.z;
    base.map(|channel| channel * lit as f32)
}

/// One band of rows.
struct Canvas<'c> {
    top: usize,
    width: usize,
    depths: Vec<f64>,
    colors: &'c mut [[f32; 3]],
}

impl Canvas<'_> {
    fn rows(&self) -> usize {
        self.colors.len() / self.width
    }

    /// The samples of the band between two heights.
    fn span(&self, low: f64, high: f64) -> std::ops::Range<usize> {
        let from = (low - 0.5).ceil().max(self.top as f64) as usize;
        let upto = (high - 0.5).floor() + 1.0;
        let upto = upto.clamp(0.0, (self.top + self.rows()) as f64) as usize;
        from..upto.max(from)
    }

    fn across(&self, low: f64, high: f64) -> std::ops::Range<usize> {
        let from = (low - 0.5).ceil().max(0.0) as usize;
        let upto = ((high - 0.5).floor() + 1.0).clamp(0.0, self.width as f64) as usize;
        from..upto.max(from)
    }

    #[inline]
    fn put(&mut self, x: usize, y: usize, depth: f64, color: [f32; 3]) {
        let at = (y - self.top) * self.width + x;
        if depth > self.depths[at] {
            self.depths[at] = depth;
            self.colors[at] = color;
        }
    }

    fn triangle(&mut self, flat: &Flat) {
        let [a, b, c] = flat.at;
        let rows = self.span(a.y.min(b.y).min(c.y), a.y.max(b.y).max(c.y));
        if rows.is_empty() {
            return;
        }
        let columns = self.across(a.x.min(b.x).min(c.x), a.x.max(b.x).max(c.x));
        let (u, v) = (b.truncate() - a.truncate(), c.truncate() - a.truncate());
        let area = u.perp_dot(v);
        if area == 0.0 {
            return;
        }
        for y in rows {
            for x in columns.clone() {
                let p = DVec2::new(x as f64 + 0.5, y as f64 + 0.5) - a.truncate();
                let (s, t) = (p.perp_dot(v) / area, u.perp_dot(p) / area);
                if s >= 0.0 && t >= 0.0 && s + t <= 1.0 {
                    let depth = a.z + s * (b.z - a.z) + t * (c.z - a.z);
                    self.put(x, y, depth, flat.color);
                }
            }
        }
    }

    fn line(&mut self, [a, b]: [DVec3; 2], color: [f32; 3]) {
        let rows = self.span(a.y.min(b.y) - LINE, a.y.max(b.y) + LINE);
        let columns = self.across(a.x.min(b.x) - LINE, a.x.max(b.x) + LINE);
        let along = (b - a).truncate();
        let length = along.length_squared().max(f64::MIN_POSITIVE);
        for y in rows {
            for x in columns.clone() {
                let p = DVec2::new(x as f64 + 0.5, y as f64 + 0.5) - a.truncate();
                let share = (p.dot(along) / length).clamp(0.0, 1.0);
                if p.distance(along * share) <= LINE {
                    self.put(x, y, a.z + (b.z - a.z) * share, color);
                }
            }
        }
    }
}
