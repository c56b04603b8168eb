//! Points that are left out: where the four segments at a point all run from cell to cell, the
//! vertices of the four cells round its edge can be joined without it, so that smooth places have a
//! vertex for each cell alone.
//!
//! ```text
//!  a4 ──── a3        a4 ──── a3
//!   │ ╲  ╱ │          │    ╱ │
//!   │  p   │    ─▶    │  ╱   │       of the two ways, the one along a sharp edge
//!   │ ╱  ╲ │          │╱     │
//!  a1 ──── a2        a1 ──── a2
//! ```
//!
//! That nothing crosses afterwards: the box of the four cells is convex, so that the new triangles
//! stay in it; and each of the cells has one loop only. Seen along one direction, all triangles of
//! these cells, before and after, look the same way; so they lie side by side, and the new ones
//! cover just what the old ones did.

use super::surface_extraction::{FLAT, Lay, Loops};
use crate::parallel::{chosen, mapped_of};
use crate::spatial::closest_on_triangle;
use crate::triangulate::quality;
use glam::DVec3;

/// A point may lie off the triangles that stand in for it by this share of the cell; where the skin
/// is rounded off, by more.
const OFF: f64 = 0.05;
const OFF_ROUNDED: f64 = 0.5;
/// Both ways to join four are as near the surface when they differ by less than this share of it.
const SAME: f64 = 0.01;
/// How much triangles look along the direction that all must look along: cosine.
const ALONG: f64 = 0.1;

/// What stands in for a point.
#[derive(Clone, Copy)]
pub struct Instead {
    /// The point.
    pub point: u32,
    /// Two triangles over the vertices of cells.
    pub triangles: [[u32; 3]; 2],
    /// The loops of the four cells, and the direction that all must look along.
    fans: [u32; 4],
    along: DVec3,
}

/// The points that are left out.
pub struct LeftOut {
    all: Vec<Instead>,
    /// For every point, where it stands in `all`.
    of_point: Vec<u32>,
}

const STAYS: u32 = u32::MAX;

impl LeftOut {
    /// Finds them, and lays all segments.
    pub fn of(cell_loops: &mut Loops<'_>) -> Self {
        let count = cell_loops.crossed.points.len();
        let at_point = segments_at(cell_loops);
        let found: Vec<Instead> = chosen(count, 256, |point| {
            instead(cell_loops, point as u32, &at_point[point])
        });
        let mut left_out = Self {
            all: found,
            of_point: Vec::new(),
        };
        left_out.number(count);
        let laid: Vec<Lay> = mapped_of(&cell_loops.segments, 256, |segment| {
            let ends = segment.sides[0].ends;
            match ends.iter().any(|&end| left_out.is_left_out(end)) {
                true => Lay::Turned,
                false => cell_loops.lay_evenly(segment),
            }
        });
        for (segment, lay) in cell_loops.segments.iter_mut().zip(laid) {
            segment.lay = lay;
        }
        // Once all is laid, it must still look along.
        let facing = Facing::of(cell_loops, &left_out);
        let keeps: Vec<bool> = mapped_of(&left_out.all, 256, |instead| {
            left_out.looks_along(cell_loops, &facing, instead)
        });
        let mut keeps = keeps.into_iter();
        left_out.all.retain(|_| keeps.next() == Some(true));
        left_out.number(count);
        left_out
    }

    fn number(&mut self, count: usize) {
        self.of_point = vec![STAYS; count];
        for (number, instead) in self.all.iter().enumerate() {
            self.of_point[instead.point as usize] = number as u32;
        }
    }

    /// Whether a point is left out; the vertex of a cell never is.
    pub fn is_left_out(&self, name: u32) -> bool {
        self.of_point
            .get(name as usize)
            .is_some_and(|&number| number != STAYS)
    }

    /// All of them.
    pub fn all(&self) -> &[Instead] {
        &self.all
    }

    /// The triangles that stand in for points.
    pub fn instead(&self) -> Vec<[[u32; 3]; 2]> {
        self.all.iter().map(|instead| instead.triangles).collect()
    }

    /// Whether all triangles of the four cells, as they are and as they are to be, look along.
    fn looks_along(&self, cell_loops: &Loops<'_>, facing: &Facing, instead: &Instead) -> bool {
        let along = |normals: &[DVec3; 2]| normals.iter().all(|&n| is_along(n, instead.along));
        let of_segment = |&segment: &u32| {
            along(&facing.of_segments[segment as usize]) && {
                let old = cell_loops.triangles(&cell_loops.segments[segment as usize]);
                let number = |t: [u32; 3]| self.of_point.get(t[0] as usize).copied();
                let mut left_out = old.into_iter().filter_map(number).filter(|&n| n != STAYS);
                left_out.all(|number| along(&facing.instead[number as usize]))
            }
        };
        let mut fans = instead.fans.iter();
        fans.all(|&fan| cell_loops.segments_of(fan).iter().all(of_segment))
    }
}

/// Which way triangles face, once all segments are laid.
struct Facing {
    /// Those of each segment.
    of_segments: Vec<[DVec3; 2]>,
    /// Those that stand in for each point.
    instead: Vec<[DVec3; 2]>,
}

impl Facing {
    fn of(cell_loops: &Loops<'_>, left_out: &LeftOut) -> Self {
        let facing = |triangles: [[u32; 3]; 2]| triangles.map(|t| normal(cell_loops, t));
        let (segments, instead) = (&cell_loops.segments, &left_out.all);
        Self {
            of_segments: mapped_of(segments, 1024, |s| facing(cell_loops.triangles(s))),
            instead: mapped_of(instead, 1024, |instead| facing(instead.triangles)),
        }
    }
}

/// The four segments at each point.
fn segments_at(cell_loops: &Loops<'_>) -> Vec<[u32; 4]> {
    let mut at_point = vec![[STAYS; 4]; cell_loops.crossed.points.len()];
    for (number, segment) in cell_loops.segments.iter().enumerate() {
        for end in segment.sides[0].ends {
            let free = at_point[end as usize]
                .iter_mut()
                .find(|slot| **slot == STAYS);
            if let Some(slot) = free {
                *slot = number as u32;
            }
        }
    }
    at_point
}

/// What can stand in for a point.
fn instead(cell_loops: &Loops<'_>, point: u32, at_point: &[u32; 4]) -> Option<Instead> {
    let fans = ring(cell_loops, point, at_point)?;
    let names = fans.map(|fan| cell_loops.apex_name(fan));
    let [a, b, c, d] = names;
    let places = names.map(|name| cell_loops.at(name));
    let along = (places[2] - places[0])
        .cross(places[3] - places[1])
        .normalize_or_zero();
    let cell = cell_loops.crossed.grid.cell;
    let own = cell_loops.points[point as usize];
    let of = |triangle: [u32; 3]| triangle.map(|name| cell_loops.at(name));
    // By how much the middle of a diagonal lies off the planes of the surface all round.
    let off = |from: u32, to: u32| {
        let middle = (cell_loops.at(from) + cell_loops.at(to)) / 2.0;
        let ends = fans.iter().flat_map(|&fan| cell_loops.segments_of(fan));
        let (mut sum, mut count) = (0.0, 0.0);
        for &segment in ends {
            let end = cell_loops.segments[segment as usize].sides[0].ends[0];
            let plane = &cell_loops.crossed.points[end as usize];
            sum += plane.normal.dot(middle - plane.at).abs();
            count += 1.0;
        }
        sum / count
    };
    let ways = [
        (off(a, c), [[a, b, c], [a, c, d]]),
        (off(b, d), [[b, c, d], [b, d, a]]),
    ];
    let even = |pair: [[u32; 3]; 2]| quality(of(pair[0])).min(quality(of(pair[1])));
    let is_rounded = cell_loops.crossed.is_rounded;
    let is_smooth = fans.iter().all(|&fan| cell_loops.is_smooth[fan as usize]);
    let first = match is_smooth || (ways[0].0 - ways[1].0).abs() <= SAME * cell {
        true => even(ways[0].1) >= even(ways[1].1),
        false => ways[0].0 < ways[1].0,
    };
    let triangles = ways[usize::from(!first)].1;
    // Along a sharp edge, three of them may lie on one line.
    if even(triangles) < FLAT {
        return None;
    }
    let nearest = triangles
        .map(|t| closest_on_triangle(own, of(t)).distance(own))
        .into_iter()
        .fold(f64::INFINITY, f64::min);
    let looks_along = triangles
        .iter()
        .all(|&t| is_along(normal(cell_loops, t), along));
    let most = if is_rounded { OFF_ROUNDED } else { OFF };
    (nearest <= most * cell && looks_along).then_some(Instead {
        point,
        triangles,
        fans,
        along,
    })
}

/// The loops of the cells round a point, as they are seen from outside, if all its segments are
/// turned or may be.
fn ring(cell_loops: &Loops<'_>, point: u32, at_point: &[u32; 4]) -> Option<[u32; 4]> {
    let mut steps = [[0u32; 2]; 4];
    for (step, &segment) in steps.iter_mut().zip(at_point) {
        let segment = cell_loops.segments.get(segment as usize)?;
        if segment.lay == Lay::Straight {
            return None;
        }
        let [one, two] = segment.sides.map(|side| side.fan);
        // What has left its cell is not in the box of the four.
        if cell_loops.outside_vertices.is_loose(one) || cell_loops.outside_vertices.is_loose(two) {
            return None;
        }
        *step = match segment.sides[0].ends[0] == point {
            true => [two, one],
            false => [one, two],
        };
    }
    let mut ring = [steps[0][0]; 4];
    for i in 1..4 {
        ring[i] = steps.iter().find(|step| step[0] == ring[i - 1])?[1];
    }
    let closes = steps.iter().any(|step| *step == [ring[3], ring[0]]);
    closes.then_some(ring)
}

/// Which way a triangle faces; none where it has no area.
fn normal(cell_loops: &Loops<'_>, triangle: [u32; 3]) -> DVec3 {
    let [a, b, c] = triangle.map(|name| cell_loops.at(name));
    let across = (b - a).cross(c - a);
    let cell = cell_loops.crossed.grid.cell;
    match across.length() < 1e-9 * cell * cell {
        true => DVec3::ZERO,
        false => across.normalize(),
    }
}

/// Whether a normal looks along a direction; none does.
fn is_along(normal: DVec3, along: DVec3) -> bool {
    normal == DVec3::ZERO || normal.dot(along) > ALONG
}
