//! Where cells lie: what of the surface stands for each.

use super::cells::Cells;
use super::lines::{Lines, along};
use crate::quads::surface::{NONE, Surface, next, previous};
use crate::topology::UnionFind;
use glam::{DVec2, DVec3};
use rustc_hash::FxHashMap;

/// Where a cell lies.
#[derive(Clone, Copy, Debug)]
pub struct Cell {
    /// Its whole-numbered place, or the middle of its sides.
    pub at: DVec3,
    /// A triangle near it.
    pub triangle: u32,
    /// On what it must stay.
    pub on: On,
}

/// What a vertex must stay on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum On {
    /// The surface.
    Surface,
    /// A feature line.
    Line,
    /// Its place: lines meet, end or turn there.
    Corner,
}

/// What is known of where cells lie.
pub(super) struct Places {
    known: FxHashMap<u32, (Rank, Cell)>,
    /// Where feature lines pass from cell to cell.
    pub passages: Vec<Passage>,
    /// Half-edges of feature lines from a corner to another one in the same cell.
    pub short_lines: Vec<u32>,
}

/// Where a feature line passes from a cell to the next one.
pub(super) struct Passage {
    /// The cells, the lower first.
    pub cells: [u32; 2],
    pub at: DVec3,
    pub half_edge: u32,
}

/// How well a place stands for its cell: pinches before corners before lines before whole numbers before anything
/// else; the second number is how far it is off the whole number.
type Rank = (u8, f64);

impl Places {
    pub fn of(lines: &Lines<'_>, cells: &Cells, sets: &mut UnionFind) -> Self {
        let (surface, map) = (lines.surface, lines.map);
        let mut places = Self {
            known: FxHashMap::default(),
            passages: Vec::new(),
            short_lines: Vec::new(),
        };
        let corners = corners(surface);
        let mut passages = Vec::new();
        let mut short_lines = Vec::new();
        for half_edge in 0..surface.half_edge_count() {
            let (t, v) = (half_edge / 3, surface.from(half_edge));
            let z = map.corners[half_edge as usize];
            let mut add = |key: [i32; 2], rank: u8, off: f64, at: DVec3, on: On| {
                let root = cells.of((t, key)).map(|own| sets.find(own));
                if let Some(root) = root {
                    let cell = Cell {
                        at,
                        triangle: t,
                        on,
                    };
                    places.add(root, (rank, off), cell);
                }
                root
            };
            let off = |z: DVec2, key: [i32; 2]| {
                (z - DVec2::new(f64::from(key[0]), f64::from(key[1]))).length_squared()
            };
            let here = surface.positions[v as usize];
            let own = lines.place(half_edge);
            match (surface.is_pinch[v as usize], corners[v as usize]) {
                (true, _) => add(own, 0, off(z, own), here, On::Corner),
                (_, true) => add(own, 1, off(z, own), here, On::Corner),
                _ => add(own, 4, off(z, own), here, On::Surface),
            };
            let list = lines.on(half_edge);
            let [from, to] = [z, map.corners[next(half_edge) as usize]];
            let ends = [v, surface.to(half_edge)].map(|v| surface.positions[v as usize]);
            let is_lower = surface.across[half_edge as usize] > half_edge;
            if !is_lower {
                continue;
            }
            let is_feature = surface.is_feature[half_edge as usize];
            if is_feature
                && list.is_empty()
                && corners[v as usize]
                && corners[surface.to(half_edge) as usize]
            {
                short_lines.push(half_edge);
            }
            // Each stretch of a side, at its place nearest to the whole number.
            let stretch = |i: usize| {
                [
                    i.checked_sub(1).map_or(0.0, |i| list[i].along),
                    list.get(i).map_or(1.0, |c| c.along),
                ]
            };
            let mut before: Option<u32> = None;
            for (i, key) in along(own, list).enumerate() {
                let [low, high] = stretch(i);
                let whole = DVec2::new(f64::from(key[0]), f64::from(key[1]));
                let way = to - from;
                let best = (whole - from).dot(way) / way.length_squared().max(1e-300);
                let share = best.clamp(low.min(high), high.max(low));
                let at = ends[0].lerp(ends[1], share);
                let off = off(from + way * share, key);
                if !is_feature {
                    add(key, 4, off, at, On::Surface);
                    continue;
                }
                let root = add(key, 2, off, at, On::Line);
                if let Some((a, b)) = before.zip(root) {
                    passages.push(Passage {
                        cells: [a.min(b), a.max(b)],
                        at: ends[0].lerp(ends[1], low),
                        half_edge,
                    });
                }
                before = root;
            }
        }
        places.passages = passages;
        places.short_lines = short_lines;
        places.add_whole(lines, cells, sets);
        places
    }

    /// The whole-numbered places inside triangles.
    fn add_whole(&mut self, lines: &Lines<'_>, cells: &Cells, sets: &mut UnionFind) {
        let (surface, map) = (lines.surface, lines.map);
        for t in 0..surface.triangles.len() as u32 {
            let z = &map.corners[3 * t as usize..][..3];
            let area = (z[1] - z[0]).perp_dot(z[2] - z[0]);
            if area.is_nan() || area <= 0.0 {
                continue;
            }
            let low = z[0].min(z[1]).min(z[2]).ceil();
            let high = z[0].max(z[1]).max(z[2]).floor();
            for x in low.x as i64..=high.x as i64 {
                for y in low.y as i64..=high.y as i64 {
                    let place = DVec2::new(x as f64, y as f64);
                    let share = |i: usize| {
                        let [a, b] = [z[(i + 1) % 3], z[(i + 2) % 3]];
                        (b - a).perp_dot(place - a) / area
                    };
                    let shares = [share(0), share(1), share(2)];
                    if shares.iter().any(|&share| share < -1e-9) {
                        continue;
                    }
                    let corners =
                        surface.triangles[t as usize].map(|v| surface.positions[v as usize]);
                    let at = (0..3).map(|i| corners[i] * shares[i]).sum();
                    if let Some(own) = cells.of((t, [x as i32, y as i32])) {
                        let on = On::Surface;
                        self.add(
                            sets.find(own),
                            (3, 0.0),
                            Cell {
                                at,
                                triangle: t,
                                on,
                            },
                        );
                    }
                }
            }
        }
    }

    fn add(&mut self, root: u32, rank: Rank, cell: Cell) {
        let known = self.known.entry(root).or_insert((rank, cell));
        if rank < known.0 {
            *known = (rank, cell);
        }
    }

    /// Of a cell that touches no side there is nothing known but this: it is where its triangle is.
    pub fn cell(&self, root: u32) -> Cell {
        self.known.get(&root).map_or(
            Cell {
                at: DVec3::NAN,
                triangle: 0,
                on: On::Surface,
            },
            |known| known.1,
        )
    }
}

/// By vertex: whether feature lines meet, end, or turn sharply there, or other fans of the surface begin.
fn corners(surface: &Surface) -> Vec<bool> {
    let corner = |v: u32| {
        let mut lines: Vec<DVec3> = Vec::new();
        for half_edge in surface.around(v) {
            let along = surface.along(half_edge);
            if surface.is_feature[half_edge as usize] {
                lines.push(along);
            }
            let into = previous(half_edge);
            if surface.across[into as usize] == NONE {
                lines.push(-surface.along(into));
            }
        }
        match lines[..] {
            _ if surface.is_pinch[v as usize] => true,
            [] => false,
            [one, other] => one.angle_between(other) < SHARP.to_radians(),
            _ => true,
        }
    };
    (0..surface.positions.len() as u32).map(corner).collect()
}

/// A line that turns so far that less than this angle (degrees) is left has a corner.
const SHARP: f64 = 120.0;
