//! The rasteriser: bands of rows in parallel, two by two samples a pixel.
//!
//! ```text
//! positions ─projected─▶ triangles ─sorted into bands─▶ depths and colours by sample
//!                          marks ──────────────────────▶ over them, paler where hidden
//!                                                         └─▶ mean of four ─▶ pixels
//! ```

use crate::camera::Projection;
use crate::color::{BACK, CLAY, Color, INK, PALE_CLAY, PAPER, mixed};
use crate::scene::{Scene, Show};
use crate::skins::Skin;
use glam::{DVec2, DVec3};
use rayon::prelude::*;
use std::ops::Range;

pub(crate) const SAMPLES: usize = 2;
const BAND: usize = 32;
/// Half a marked line's width, in samples.
const LINE: f64 = 2.4;
/// A marked point's radius, in samples.
const POINT: f64 = 8.0;
/// How much of a mark's colour shows through what hides it.
const GHOST: f32 = 0.5;

/// Pixels of a frame, row by row.
pub(crate) fn drawn(
    scene: &Scene<'_>,
    projection: &Projection,
    [width, height]: [usize; 2],
) -> Vec<Color> {
    let (across, down) = (width * SAMPLES, height * SAMPLES);
    let flats: Vec<Flat> = scene
        .triangles
        .par_iter()
        .with_min_len(4096)
        .enumerate()
        .map(|(i, t)| Flat::of(scene, projection, i, t.map(|v| scene.positions[v.index()])))
        .collect();
    let bands = down.div_ceil(BAND);
    let base = sorted_into_bands(bands, flats.len(), |i| flats[i].rows());
    let size = scene.bounds.map_or(0.0, |bounds| bounds.diagonal());
    // Marks lie a little nearer than what they mark, the more so the higher their rank.
    let marked: Vec<Flat> = scene
        .marks
        .faces
        .iter()
        .map(|&(triangle, color, rank)| {
            let mut flat = flats[triangle as usize];
            flat.color = lit(color, flat.light);
            let lift = size * (5e-4 + 2e-5 * f64::from(rank));
            flat.at.iter_mut().for_each(|corner| corner.z += lift);
            flat
        })
        .collect();
    let over = sorted_into_bands(bands, marked.len(), |i| marked[i].rows());
    let lift = DVec3::Z * size * 1.5e-3;
    let lines: Vec<([DVec3; 2], Color)> = scene
        .marks
        .lines
        .iter()
        .map(|(ends, color)| (ends.map(|p| projection.of(p) + lift), *color))
        .collect();
    let points: Vec<(DVec3, Color)> = scene
        .marks
        .points
        .iter()
        .map(|(at, color)| (projection.of(*at) + lift * 2.0, *color))
        .collect();
    let mut pixels = vec![PAPER; width * height];
    pixels
        .par_chunks_mut(width * BAND / SAMPLES)
        .enumerate()
        .for_each(|(band, pixels)| {
            let mut canvas = Canvas::new(band * BAND, across, pixels.len() / width * SAMPLES);
            let through = scene.show == Show::Through;
            for &i in &base[band] {
                match through {
                    true => canvas.glass(&flats[i as usize]),
                    false => {
                        let skin = scene.skins.as_ref().map(|skins| &skins[i as usize]);
                        canvas.face(&flats[i as usize], skin, scene.show == Show::Wire);
                    }
                }
            }
            if through {
                canvas.resolve_glass();
            }
            over[band]
                .iter()
                .for_each(|&i| canvas.mark(&marked[i as usize]));
            lines
                .iter()
                .for_each(|(ends, color)| canvas.line(*ends, *color));
            points
                .iter()
                .for_each(|(at, color)| canvas.point(*at, *color));
            for (i, pixel) in pixels.iter_mut().enumerate() {
                *pixel = canvas.pixel(i % width, i / width);
            }
        });
    pixels
}

/// How many samples of a frame show marked faces that nothing hides.
pub(crate) fn visible_marks(scene: &Scene<'_>, projection: &Projection, side: usize) -> usize {
    let mut canvas = Canvas::new(0, side, side);
    let frame = 0..side as i32;
    let flat = |i: usize| {
        let corners = scene.triangles[i].map(|v| scene.positions[v.index()]);
        Flat::of(scene, projection, i, corners)
    };
    for i in 0..scene.triangles.len() {
        let flat = flat(i);
        if flat.rows().end > frame.start && flat.rows().start < frame.end {
            canvas.face(&flat, None, false);
        }
    }
    for &(triangle, ..) in &scene.marks.faces {
        canvas.mark(&flat(triangle as usize));
    }
    for (ends, color) in &scene.marks.lines {
        canvas.line(ends.map(|p| projection.of(p)), *color);
    }
    for (at, color) in &scene.marks.points {
        canvas.point(projection.of(*at), *color);
    }
    canvas.marks.iter().filter(|mark| mark.2).count()
}

/// A triangle as it comes to lie in the frame.
#[derive(Clone, Copy)]
struct Flat {
    /// Sample coordinates, y down, and depth towards the eye.
    at: [DVec3; 3],
    color: Color,
    /// How much light falls on it.
    light: f32,
    /// How much of it faces the eye, from 0 to 1.
    frontal: f32,
    sides: u8,
}

impl Flat {
    fn of(
        scene: &Scene<'_>,
        projection: &Projection,
        triangle: usize,
        corners: [DVec3; 3],
    ) -> Self {
        let [a, b, c] = corners;
        let normal = projection
            .direction((b - a).cross(c - a))
            .normalize_or_zero();
        let toward = if normal.z < 0.0 { -normal } else { normal };
        // Lit from over the eye's left shoulder.
        let lamp = DVec3::new(-0.45, 0.55, 0.7).normalize();
        let light = 0.42 + 0.58 * toward.dot(lamp).max(0.0) + 0.06 * toward.z;
        let base = match (&scene.colors, scene.show) {
            (Some(colors), _) => colors[triangle],
            (None, Show::Sides) if normal.z < 0.0 => BACK,
            (None, Show::Faults) => PALE_CLAY,
            _ => CLAY,
        };
        Self {
            at: corners.map(|p| projection.of(p)),
            color: lit(base, light as f32),
            light: light as f32,
            frontal: toward.z as f32,
            sides: scene.sides[triangle],
        }
    }

    /// The rows of samples that it may cover.
    fn rows(&self) -> Range<i32> {
        let [a, b, c] = self.at.map(|p| p.y);
        let low = a.min(b).min(c).clamp(-1e6, 1e6);
        let high = a.max(b).max(c).clamp(-1e6, 1e6);
        low.floor() as i32..high.ceil() as i32 + 1
    }
}

fn lit(color: Color, light: f32) -> Color {
    color.map(|channel| channel * light)
}

/// By band: the things whose rows fall into it, in order.
fn sorted_into_bands(
    bands: usize,
    count: usize,
    rows: impl Fn(usize) -> Range<i32>,
) -> Vec<Vec<u32>> {
    let mut sorted: Vec<Vec<u32>> = vec![Vec::new(); bands];
    for i in 0..count {
        let rows = rows(i);
        let first = rows.start.div_euclid(BAND as i32).max(0);
        let last = (rows.end - 1).div_euclid(BAND as i32).min(bands as i32 - 1);
        for band in first..=last {
            sorted[band as usize].push(i as u32);
        }
    }
    sorted
}

/// One band of rows.
struct Canvas {
    top: usize,
    width: usize,
    rows: usize,
    colors: Vec<Color>,
    depths: Vec<f32>,
    /// Colour, depth, and whether nothing hides it.
    marks: Vec<(Color, f32, bool)>,
}

impl Canvas {
    fn new(top: usize, width: usize, rows: usize) -> Self {
        Self {
            top,
            width,
            rows,
            colors: vec![PAPER; width * rows],
            depths: vec![f32::NEG_INFINITY; width * rows],
            marks: vec![(PAPER, f32::NEG_INFINITY, false); width * rows],
        }
    }

    /// The samples of the band between two heights.
    fn down(&self, low: f64, high: f64) -> Range<usize> {
        let from = (low - 0.5).ceil().max(self.top as f64) as usize;
        let upto = (high - 0.5).floor() + 1.0;
        let upto = upto.clamp(0.0, (self.top + self.rows) as f64) as usize;
        from..upto.max(from)
    }

    fn across(&self, low: f64, high: f64) -> Range<usize> {
        let from = (low - 0.5).ceil().max(0.0) as usize;
        let upto = ((high - 0.5).floor() + 1.0).clamp(0.0, self.width as f64) as usize;
        from..upto.max(from)
    }

    /// Visits the samples that a triangle covers: index, depth, and shares of its corners.
    #[inline]
    fn each(&self, flat: &Flat, mut visit: impl FnMut(usize, f32, [f64; 3])) {
        let [a, b, c] = flat.at;
        let rows = self.down(a.y.min(b.y).min(c.y), a.y.max(b.y).max(c.y));
        if rows.is_empty() {
            return;
        }
        let columns = self.across(a.x.min(b.x).min(c.x), a.x.max(b.x).max(c.x));
        let (u, v) = ((b - a).truncate(), (c - a).truncate());
        let area = u.perp_dot(v);
        if area == 0.0 {
            return;
        }
        for y in rows {
            let row = (y - self.top) * self.width;
            for x in columns.clone() {
                let p = DVec2::new(x as f64 + 0.5, y as f64 + 0.5) - a.truncate();
                let (s, t) = (p.perp_dot(v) / area, u.perp_dot(p) / area);
                if s >= 0.0 && t >= 0.0 && s + t <= 1.0 {
                    let depth = a.z + s * (b.z - a.z) + t * (c.z - a.z);
                    visit(row + x, depth as f32, [1.0 - s - t, s, t]);
                }
            }
        }
    }

    fn face(&mut self, flat: &Flat, skin: Option<&Skin>, wire: bool) {
        let mut colors = std::mem::take(&mut self.colors);
        let mut depths = std::mem::take(&mut self.depths);
        let heights = if wire { heights(flat) } else { [0.0; 3] };
        self.each(flat, |at, depth, shares| {
            if depth > depths[at] {
                depths[at] = depth;
                let base = skin.map_or(flat.color, |skin| lit(skin.at(shares), flat.light));
                colors[at] = match wire {
                    true => mixed(base, INK, wire_ink(flat.sides, heights, shares)),
                    false => base,
                };
            }
        });
        self.colors = colors;
        self.depths = depths;
    }

    /// Adds up how much of the model lies behind each sample: more where faces are seen from
    /// the side, so that outlines show, those of buried parts too.
    fn glass(&mut self, flat: &Flat) {
        let mut colors = std::mem::take(&mut self.colors);
        let edge = 1.0 - flat.frontal;
        let thickness = 0.07 + 0.75 * edge * edge * edge;
        self.each(flat, |at, _, _| {
            if colors[at] == PAPER {
                colors[at] = [0.0; 3];
            }
            colors[at][0] += thickness;
        });
        self.colors = colors;
    }

    fn resolve_glass(&mut self) {
        for color in self.colors.iter_mut().filter(|color| **color != PAPER) {
            *color = mixed(PAPER, INK, 1.0 - (-color[0]).exp());
        }
    }

    fn put_mark(&mut self, at: usize, depth: f32, color: Color) {
        let seen = depth >= self.depths[at];
        let mark = &mut self.marks[at];
        if (seen, depth) > (mark.2, mark.1) {
            *mark = (color, depth, seen);
        }
    }

    fn mark(&mut self, flat: &Flat) {
        let mut found = Vec::new();
        self.each(flat, |at, depth, _| found.push((at, depth)));
        found
            .into_iter()
            .for_each(|(at, depth)| self.put_mark(at, depth, flat.color));
    }

    fn line(&mut self, [a, b]: [DVec3; 2], color: Color) {
        let rows = self.down(a.y.min(b.y) - LINE, a.y.max(b.y) + LINE);
        let columns = self.across(a.x.min(b.x) - LINE, a.x.max(b.x) + LINE);
        let along = (b - a).truncate();
        let length = along.length_squared().max(f64::MIN_POSITIVE);
        for y in rows {
            for x in columns.clone() {
                let p = DVec2::new(x as f64 + 0.5, y as f64 + 0.5) - a.truncate();
                let share = (p.dot(along) / length).clamp(0.0, 1.0);
                if p.distance_squared(along * share) <= LINE * LINE {
                    let at = (y - self.top) * self.width + x;
                    self.put_mark(at, (a.z + (b.z - a.z) * share) as f32, color);
                }
            }
        }
    }

    fn point(&mut self, at: DVec3, color: Color) {
        for y in self.down(at.y - POINT, at.y + POINT) {
            for x in self.across(at.x - POINT, at.x + POINT) {
                let off = DVec2::new(x as f64 + 0.5, y as f64 + 0.5).distance(at.truncate());
                if off <= POINT {
                    // A rim of paper sets it off from what is behind it.
                    let color = if off > POINT - 2.5 { PAPER } else { color };
                    self.put_mark((y - self.top) * self.width + x, at.z as f32, color);
                }
            }
        }
    }

    /// The mean of a pixel's samples.
    fn pixel(&self, x: usize, y: usize) -> Color {
        let mut sum = [0.0f32; 3];
        for dy in 0..SAMPLES {
            for dx in 0..SAMPLES {
                let at = (y * SAMPLES + dy) * self.width + x * SAMPLES + dx;
                let color = match self.marks[at] {
                    (_, f32::NEG_INFINITY, _) => self.colors[at],
                    (mark, _, true) => mark,
                    (mark, _, false) => mixed(self.colors[at], mark, GHOST),
                };
                (0..3).for_each(|i| sum[i] += color[i]);
            }
        }
        sum.map(|channel| channel / (SAMPLES * SAMPLES) as f32)
    }
}

/// A triangle's heights over its sides opposite the corners, in samples.
fn heights(flat: &Flat) -> [f64; 3] {
    let [a, b, c] = flat.at.map(|p| p.truncate());
    let twice = (b - a).perp_dot(c - a).abs();
    [b.distance(c), c.distance(a), a.distance(b)].map(|side| twice / side.max(f64::MIN_POSITIVE))
}

/// How much ink an edge leaves at a sample. Where faces are hardly larger than lines are
/// wide, lines fade.
fn wire_ink(sides: u8, heights: [f64; 3], shares: [f64; 3]) -> f32 {
    let smallest = heights.into_iter().fold(f64::INFINITY, f64::min);
    let strength = (smallest / 10.0).clamp(0.12, 0.85);
    // The side opposite corner `i` begins at the corner after it.
    let on_line = (0..3).any(|i| sides >> ((i + 1) % 3) & 1 == 1 && shares[i] * heights[i] < 0.9);
    if on_line { strength as f32 } else { 0.0 }
}
