//! The skin's triangles.
//!
//! ```text
//! loops of each cell ─▶ a fan from the cell's vertex to each segment ─▶ segments turned where the
//!     cells' vertices lie on a sharp edge, or as well ─▶ points left out that four turned segments
//!     meet at (see `edge_vertices`) ─▶ triangles
//! ```
//!
//! Every edge point is in one loop of each cell round it, and every segment in two loops, so that
//! the skin is closed and manifold whatever the model. It does not cross itself either: a fan from
//! a point inside a cell, which is convex, to a simple loop on its faces crosses nothing; of several
//! loops in a cell all but one cut off a single corner, whose plane the others lie behind, or two
//! cut off opposite edges (both tested in `case_table`), and these have their vertex in their middle. To
//! turn a segment is to bend it within the face that it runs over (the face vertex of Ju & Udeshi
//! 2006), which leaves the loop simple, as long as it is alone there and the bend stays on the
//! face. A vertex that is to lie on a sharp edge beyond its cell is held against what is near (see
//! `outside_cells`).

use super::case_table::LOOPS;
use super::crossed_cells::Crossed;
use super::crossing::Crossing;
use super::edge_vertices::LeftOut;
use super::grid::Key;
use super::outside_cells::OutsideVertices;
use super::relaxation::even_out;
use super::sharp_recovery::recover_sharp_features;
use crate::mesh::VertexId;
use crate::parallel::{listed, mapped, mapped_of};
use crate::triangulate::quality;
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::FxHashSet;
use smallvec::SmallVec;

/// Both ways to lay a segment are as near the surface when they differ by less than this, as a share
/// of the cell.
const SAME: f64 = 0.01;

/// Triangles less even than this are all but flat.
pub const FLAT: f64 = 0.01;

/// The skin.
pub struct Extracted {
    pub positions: Vec<DVec3>,
    pub triangles: Vec<[VertexId; 3]>,
    /// For every point on an edge its vertex, or that of a cell beside it where it was left out.
    pub of_point: Vec<VertexId>,
    /// For every vertex, whether an opening is closed there.
    pub closing: Vec<bool>,
    /// Where the loops' vertices begin; before them are the points.
    pub first_apex: usize,
    /// For every vertex the number of its point, or of its loop's vertex after those.
    pub names: Vec<u32>,
    /// The cells that it leads into, though their corners do not show it.
    pub beyond: FxHashSet<Key>,
}

/// The side of a segment in one cell.
#[derive(Clone, Copy)]
pub struct Side {
    /// Its ends, as the loop runs: points.
    pub ends: [u32; 2],
    /// The loop of which it is part, by number; it has a vertex in the cell.
    pub fan: u32,
    pub face: u8,
    /// The cell.
    pub cell: Key,
    /// Whether the loop is the only one in the cell.
    pub is_alone: bool,
    /// Whether another segment runs over the same face.
    pub is_doubtful: bool,
}

/// The segments of a loop, seen from its cell: as a rule four.
pub type Fan = SmallVec<[Side; 4]>;

/// How a segment is laid.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Lay {
    /// From point to point.
    Straight,
    /// From the one cell's vertex to the other's.
    Turned,
    /// From vertex to vertex, or as well the other way.
    Either,
}

/// A segment: its two sides, and how it is laid.
#[derive(Clone, Copy)]
pub struct Segment {
    pub sides: [Side; 2],
    pub lay: Lay,
}

/// What the surface is extracted from.
pub struct Loops<'a> {
    pub crossed: &'a Crossed<'a>,
    /// Where each point is.
    pub points: Vec<DVec3>,
    /// Each loop's vertex.
    pub apexes: Vec<DVec3>,
    /// Whether no sharp edge is to be kept in its cell.
    pub is_smooth: Vec<bool>,
    /// Whether planes in its cell differ, though there is no sharp edge.
    pub is_noise: Vec<bool>,
    pub segments: Vec<Segment>,
    /// The vertices that have left their cells.
    pub outside_vertices: OutsideVertices,
    /// For every loop its segments, in `of_fans` from here on to the next.
    fans: Vec<u32>,
    of_fans: Vec<u32>,
}

/// Extracts the surface.
pub fn extract_surface<'a>(crossed: &'a Crossed<'a>) -> Extracted {
    let mut cell_loops = Loops::of(crossed);
    let mut outside_vertices = OutsideVertices::of(&mut cell_loops);
    even_out(&mut cell_loops);
    loop {
        cell_loops.outside_vertices = outside_vertices;
        cell_loops.lay();
        let left_out = LeftOut::of(&mut cell_loops);
        let extracted = cell_loops.extracted(&left_out);
        outside_vertices = std::mem::take(&mut cell_loops.outside_vertices);
        if !outside_vertices.take_back(&mut cell_loops, &extracted) {
            let wished = outside_vertices.wished(&extracted);
            return recover_sharp_features(&cell_loops, wished, extracted);
        }
    }
}

impl<'a> Loops<'a> {
    fn of(crossed: &'a Crossed<'a>) -> Self {
        let fans: Vec<(DVec3, Fan)> = listed(crossed.cells.len(), 256, |i, fans| {
            let (cell, inside) = crossed.cells[i];
            let loops = &LOOPS[inside as usize];
            let alone = loops.len() == 1;
            fans.extend(loops.iter().map(|steps| crossed.fan(cell, steps, alone)));
        });
        let mut apexes = Vec::with_capacity(fans.len());
        let mut starts = vec![0];
        let mut sides = Vec::with_capacity(fans.len() * 4);
        for (number, (apex, own)) in fans.into_iter().enumerate() {
            apexes.push(apex);
            sides.extend(own.into_iter().map(|side| Side {
                fan: number as u32,
                ..side
            }));
            starts.push(sides.len() as u32);
        }
        let key = |side: &Side| {
            let [a, b] = side.ends;
            (a.min(b), a.max(b), side.fan)
        };
        let mut order: Vec<u32> = (0..sides.len() as u32).collect();
        order.par_sort_unstable_by_key(|&i| key(&sides[i as usize]));
        let mut of_fans = vec![0; sides.len()];
        for (segment, pair) in order.chunks_exact(2).enumerate() {
            pair.iter()
                .for_each(|&side| of_fans[side as usize] = segment as u32);
        }
        let segments = mapped(order.len() / 2, 256, |pair| Segment {
            sides: [0, 1].map(|side| sides[order[2 * pair + side] as usize]),
            lay: Lay::Straight,
        });
        Self {
            crossed,
            points: crossed.points.iter().map(|point| point.at).collect(),
            is_smooth: vec![false; apexes.len()],
            is_noise: vec![false; apexes.len()],
            apexes,
            segments,
            outside_vertices: OutsideVertices::default(),
            fans: starts,
            of_fans,
        }
    }

    /// Lays every segment as is best.
    fn lay(&mut self) {
        let laid: Vec<Lay> = mapped_of(&self.segments, 256, |segment| self.best(segment));
        // Of two that run over one face, both may lead from the same vertex to the same.
        let mut joined: FxHashSet<[u32; 2]> = FxHashSet::default();
        for (segment, lay) in self.segments.iter_mut().zip(laid) {
            let [one, two] = segment.sides.map(|side| side.fan);
            let again = segment.sides[0].is_doubtful
                && lay != Lay::Straight
                && !joined.insert([one.min(two), one.max(two)]);
            segment.lay = if again { Lay::Straight } else { lay };
        }
    }

    /// The cell of each loop, and whether it is alone in it.
    pub fn cells_of_fans(&self) -> Vec<(Key, bool)> {
        let mut cells = vec![(Key::default(), false); self.apexes.len()];
        for side in self.segments.iter().flat_map(|segment| segment.sides) {
            cells[side.fan as usize] = (side.cell, side.is_alone);
        }
        cells
    }

    /// The segments of a loop.
    pub fn segments_of(&self, fan: u32) -> &[u32] {
        let [from, to] = [fan, fan + 1].map(|i| self.fans[i as usize] as usize);
        &self.of_fans[from..to]
    }

    /// The points that a loop leads through.
    pub fn crossings_of(&self, fan: u32) -> Vec<Crossing> {
        let begins_at = |&segment: &u32| {
            let sides = &self.segments[segment as usize].sides;
            let own = &sides[usize::from(sides[0].fan != fan)];
            self.crossed.points[own.ends[0] as usize]
        };
        self.segments_of(fan).iter().map(begins_at).collect()
    }

    /// The number of a loop's vertex, after those of the points.
    pub fn apex_name(&self, fan: u32) -> u32 {
        self.crossed.points.len() as u32 + fan
    }

    /// Where a vertex is, a point's or a loop's.
    pub fn at(&self, name: u32) -> DVec3 {
        match (name as usize).checked_sub(self.points.len()) {
            Some(fan) => self.apexes[fan],
            None => self.points[name as usize],
        }
    }

    /// The two triangles at a segment.
    pub fn triangles(&self, segment: &Segment) -> [[u32; 3]; 2] {
        laid(segment, segment.lay, |fan| self.apex_name(fan))
    }

    /// How a segment is best laid.
    fn best(&self, segment: &Segment) -> Lay {
        let [one, two] = segment.sides;
        debug_assert_eq!(one.ends, [two.ends[1], two.ends[0]]);
        let [here, there] = segment.sides.map(|side| self.apexes[side.fan as usize]);
        let crossed = self.crossed;
        let mut sides = segment.sides.iter();
        let is_loose = sides.any(|side| self.outside_vertices.is_loose(side.fan));
        let are_alone = one.is_alone && two.is_alone && !one.is_doubtful;
        // Vertices outside their cells are looked at later.
        if !(is_loose || are_alone && crossed.stays_on_face(&one, [here, there])) {
            return Lay::Straight;
        }
        let [p, q] = one.ends.map(|p| &crossed.points[p as usize]);
        let off = |a: DVec3, b: DVec3| {
            let middle = (a + b) / 2.0;
            let to = |point: &Crossing| point.normal.dot(middle - point.at).abs();
            to(p) + to(q)
        };
        let (straight, turned) = (off(p.at, q.at), off(here, there));
        let is_smooth = |side: &Side| self.is_smooth[side.fan as usize];
        let (best, other) = match turned < straight {
            _ if segment.sides.iter().all(is_smooth) => return Lay::Either,
            _ if (straight - turned).abs() <= SAME * crossed.grid.cell => return Lay::Either,
            true => (Lay::Turned, Lay::Straight),
            false => (Lay::Straight, Lay::Turned),
        };
        // Three places on one sharp edge are no triangle; the other way is as near then.
        match self.worst(segment, best) < FLAT.min(self.worst(segment, other)) {
            true => other,
            false => best,
        }
    }

    /// How even the less even of a segment's triangles is when it is laid this way.
    fn worst(&self, segment: &Segment, lay: Lay) -> f64 {
        let pair = laid(segment, lay, |fan| self.apex_name(fan));
        let [one, two] = pair.map(|t| quality(t.map(|name| self.at(name))));
        one.min(two)
    }

    /// Lays a segment that may be laid either way so that its triangles are the more even.
    pub fn lay_evenly(&self, segment: &Segment) -> Lay {
        let worst = |lay: Lay| self.worst(segment, lay);
        match segment.lay {
            Lay::Either if worst(Lay::Straight) >= worst(Lay::Turned) => Lay::Straight,
            Lay::Either => Lay::Turned,
            lay => lay,
        }
    }

    fn extracted(&self, left_out: &LeftOut) -> Extracted {
        let points = self.crossed.points;
        let mut triangles: Vec<[u32; 3]> = listed(self.segments.len(), 256, |i, list| {
            let here = self.triangles(&self.segments[i]).into_iter();
            list.extend(here.filter(|t| !left_out.is_left_out(t[0])));
        });
        triangles.extend(left_out.instead().into_iter().flatten());
        // Vertices are the points that stay, then the loops'.
        let stays: Vec<u32> = (0..points.len() as u32)
            .filter(|&point| !left_out.is_left_out(point))
            .collect();
        let stays_count = stays.len();
        let mut names = vec![u32::MAX; points.len() + self.apexes.len()];
        let apexes = (0..self.apexes.len() as u32).map(|fan| self.apex_name(fan));
        let all: Vec<u32> = stays.into_iter().chain(apexes).collect();
        for (vertex, &name) in all.iter().enumerate() {
            names[name as usize] = vertex as u32;
        }
        let vertex = |name: u32| VertexId(names[name as usize]);
        let mut closing = vec![false; all.len()];
        for segment in &self.segments {
            let [p, q] = segment.sides[0].ends;
            let fans = segment.sides.map(|side| self.apex_name(side.fan));
            if [p, q].iter().any(|&p| points[p as usize].face.is_none()) {
                for name in [p, q].into_iter().chain(fans) {
                    if names[name as usize] != u32::MAX {
                        closing[vertex(name).index()] = true;
                    }
                }
            }
        }
        let mut of_point: Vec<VertexId> = (0..points.len() as u32).map(vertex).collect();
        for instead in left_out.all() {
            of_point[instead.point as usize] = vertex(instead.triangles[0][0]);
        }
        Extracted {
            positions: all.iter().map(|&name| self.at(name)).collect(),
            triangles: triangles.into_iter().map(|t| t.map(vertex)).collect(),
            of_point,
            closing,
            beyond: self.outside_vertices.cells(self),
            first_apex: stays_count,
            names: all,
        }
    }
}

/// The two triangles at a segment, laid this way; the first corner of each is a point where it is
/// turned.
fn laid(segment: &Segment, lay: Lay, apex: impl Fn(u32) -> u32) -> [[u32; 3]; 2] {
    let [p, q] = segment.sides[0].ends;
    let [one, two] = segment.sides.map(|side| apex(side.fan));
    match lay {
        Lay::Straight => [[p, q, one], [q, p, two]],
        Lay::Turned | Lay::Either => [[p, two, one], [q, one, two]],
    }
}
