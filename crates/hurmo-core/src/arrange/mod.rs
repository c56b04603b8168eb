//! Triangles cut along where they meet, so that no two cross: an exact arrangement.
//!
//! ```text
//! triangles ─▶ pairs that meet (meet) ─▶ points (constructions, points) ─▶ sheets cut up (sheet, planar)
//!           ─▶ pieces, each of one triangle or of several that lie on each other
//! ```
//!
//! No decision is made by an epsilon: points are kept as what they were made of, questions are
//! answered in balls and, where these leave them open, in whole numbers. So crossings, touching,
//! overlaps in a plane, T-junctions, and any number of surfaces through one line or point are one
//! case. Only the positions of new points are rounded, once.
//!
//! Zhou, Grinspun, Zorin & Jacobson 2016 (Mesh Arrangements for Solid Geometry); Attene 2020
//! (Indirect Predicates for Geometric Constructions); Cherchi, Pellacini, Attene & Livesu 2022
//! (Interactive and Robust Mesh Booleans).

mod ball;
mod constructions;
mod heights;
mod meet;
mod planar;
mod points;
mod residue;
mod ring;
mod sheet;
#[cfg(test)]
mod tests;
mod view;

pub(crate) use heights::Above;

use crate::parallel::{chosen, listed, mapped_of};
use crate::spatial::{Bounds32, BoxTree, overlapping_pairs, rounded_outward};
use crate::topology::UnionFind;
use ball::Ball;
use constructions::{Inputs, Made, Plane};
use glam::DVec3;
use meet::{Meeting, meeting};
use points::Points;
use rayon::prelude::*;
use ring::cross;
use sheet::{Content, CutUp, cut_up};
use smallvec::SmallVec;
use std::cmp::Ordering::Equal;
use std::sync::Mutex;

/// Triangles, cut along where they meet.
pub(crate) struct Arrangement<'a> {
    inputs: Inputs<'a>,
    points: Points,
    /// For every triangle, whether it was cut up or covered by others.
    pub is_cut: Vec<bool>,
    /// What was cut.
    pub pieces: Vec<Piece>,
}

/// A piece of a triangle, or of several.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Piece {
    pub corners: [u32; 3],
    /// Of which triangles, and whether these run the other way round.
    pub of: Vec<(u32, bool)>,
}

impl<'a> Arrangement<'a> {
    /// Arranges triangles. Vertices are at different places, no two triangles are on the same
    /// ones, and the corners of none lie on one line. Only triangles that are `open` to it are
    /// looked at; all that meet another must be.
    pub fn of(positions: &'a [DVec3], triangles: &'a [[u32; 3]], open: &[u32]) -> Self {
        let inputs = Inputs::new(positions, triangles);
        let meetings = meetings(&inputs, open);
        let mut met: Vec<u32> = listed(meetings.len(), 1, |i, met| met.extend(meetings[i].0));
        met.par_sort_unstable();
        met.dedup();
        let mut points = Points::new(&inputs, &met);
        let mut made: Vec<Made> = listed(meetings.len(), 64, |i, made| {
            let points = meetings[i].1.points().iter();
            made.extend(points.filter(|made| !matches!(made, Made::Vertex(_))));
        });
        made.par_sort_unstable();
        made.dedup();
        points.add(&inputs, &made);
        let sheets = Sheets::of(&inputs, &points, &met, &meetings);
        let cut = sheets.cut(&inputs, &points);
        let mut made: Vec<Made> = listed(cut.len(), 16, |i, made| {
            let points = cut[i].points.iter();
            made.extend(points.filter(|made| matches!(made, Made::OfPlanes(_))));
        });
        made.par_sort_unstable();
        made.dedup();
        points.add(&inputs, &made);
        let mut arrangement = Self {
            inputs,
            points,
            is_cut: vec![false; triangles.len()],
            pieces: Vec::new(),
        };
        arrangement.pieces = listed(cut.len(), 16, |i, pieces| {
            let cut = &cut[i];
            let id = |made| arrangement.points.id(made);
            let ids: Vec<u32> = cut.points.iter().map(id).collect();
            let each = cut.pieces.iter().zip(&cut.of);
            pieces.extend(each.map(|(piece, of)| Piece {
                corners: piece.map(|node| ids[node as usize]),
                of: of.clone(),
            }));
        });
        for &(triangle, _) in arrangement.pieces.iter().flat_map(|piece| &piece.of) {
            arrangement.is_cut[triangle as usize] = true;
        }
        arrangement
    }

    /// Where the points are that were made, rounded; their numbers follow those of the vertices.
    pub fn new_points(&self) -> Vec<DVec3> {
        self.points.positions()
    }

    /// How many points were made.
    pub fn new_point_count(&self) -> usize {
        self.points.count()
    }

    /// Whether the way from a point of the line in which the planes of two triangles meet to another
    /// runs along the cross product of their normals; `None` where double precision does not decide it.
    pub fn runs_along(&self, triangles: [u32; 2], [from, to]: [u32; 2]) -> Option<bool> {
        let [one, other] = triangles.map(|triangle| self.inputs.normal::<Ball>(triangle));
        let along = cross(&one, &other);
        let size = |axis: &usize| along[*axis].middle.abs();
        let axis = (0..3).max_by(|a, b| size(a).total_cmp(&size(b)))?;
        let [from, to] = [from, to].map(|id| self.points.near(&self.inputs, id)[axis]);
        match (along[axis].sign()?, (to - from).sign()?) {
            (Equal, _) | (_, Equal) => None,
            (along, way) => Some(along == way),
        }
    }

    /// What lies above a place of a piece of a triangle; `None` where there is no such place in double precision. `candidates`
    /// lists the triangles that a box may meet; `is_own` says which triangles lie on the piece.
    pub fn above(
        &self,
        candidates: &dyn Fn(Bounds32) -> Vec<u32>,
        piece: ([u32; 3], u32),
        is_own: impl Fn(u32) -> bool,
    ) -> Option<Above> {
        heights::above(&self.inputs, &self.points, candidates, piece, is_own)
    }
}

/// All pairs that meet, in order.
fn meetings(inputs: &Inputs<'_>, open: &[u32]) -> Vec<([u32; 2], Meeting)> {
    let bounds = |t: u32| {
        let [a, b, c] = inputs.corners(t);
        [a.min(b).min(c), a.max(b).max(c)]
    };
    let tree = BoxTree::new(open.len(), |i| bounds(open[i]));
    let sorted: Vec<u32> = tree.order().iter().map(|&i| open[i as usize]).collect();
    let found = Mutex::new(Vec::new());
    overlapping_pairs(
        sorted.len(),
        |i| rounded_outward(bounds(sorted[i])),
        |i, j| {
            let (a, b) = (sorted[i].min(sorted[j]), sorted[i].max(sorted[j]));
            if let Some(meeting) = meeting(inputs, a, b)
                && let Ok(mut found) = found.lock()
            {
                found.push(([a, b], meeting));
            }
        },
    );
    let mut found = found.into_inner().unwrap_or_default();
    found.par_sort_unstable_by_key(|(pair, _)| *pair);
    found
}

/// The triangles that meet others, by plane where they lie on each other, and what lies in them.
struct Sheets {
    /// The triangles, those of a sheet in a row.
    triangles: Vec<u32>,
    /// Where each sheet begins, and the end of the last.
    begins: Vec<usize>,
    /// By sheet.
    points: Vec<(u32, u32)>,
    segments: Vec<(u32, (u32, u32, Plane))>,
}

impl Sheets {
    fn of(
        inputs: &Inputs<'_>,
        ids: &Points,
        met: &[u32],
        meetings: &[([u32; 2], Meeting)],
    ) -> Self {
        let place = |t: u32| met.binary_search(&t).expect("it meets another") as u32;
        let mut flat = UnionFind::new(met.len());
        for ([a, b], meeting) in meetings {
            if *meeting == Meeting::Flat {
                flat.join(place(*a), place(*b));
            }
        }
        let mut order: Vec<(u32, u32)> = (0..met.len() as u32)
            .map(|i| (flat.find(i), met[i as usize]))
            .collect();
        order.par_sort_unstable();
        let mut sheet_of = vec![0; met.len()];
        let (mut begins, mut triangles) = (Vec::new(), Vec::new());
        for sheet in order.chunk_by(|a, b| a.0 == b.0) {
            for &(_, t) in sheet {
                sheet_of[place(t) as usize] = begins.len() as u32;
            }
            begins.push(triangles.len());
            triangles.extend(sheet.iter().map(|&(_, t)| t));
        }
        begins.push(triangles.len());
        let of_each = mapped_of(meetings, 64, |([a, b], meeting)| {
            let mut ends: SmallVec<[u32; 4]> = meeting.points().iter().map(|m| ids.id(m)).collect();
            ends.sort_unstable();
            ends.dedup();
            let sheets = [(*a, *b), (*b, *a)].map(|(own, other)| {
                let sheet = sheet_of[place(own) as usize];
                let is_side = |id: &u32| inputs.triangles[own as usize].contains(id);
                let segment = match ends[..] {
                    [from, to] if !(is_side(&from) && is_side(&to)) => {
                        Some((sheet, (from, to, Plane::Of(other))))
                    }
                    _ => None,
                };
                (sheet, segment)
            });
            (ends, sheets)
        });
        let (mut points, mut segments) = (Vec::new(), Vec::new());
        for (ends, sheets) in &of_each {
            for (sheet, segment) in sheets {
                points.extend(ends.iter().map(|&id| (*sheet, id)));
                segments.extend(*segment);
            }
        }
        points.par_sort_unstable();
        points.dedup();
        segments.par_sort_unstable();
        // Several that lie on each other are one.
        segments.dedup_by_key(|(sheet, (from, to, _))| (*sheet, *from, *to));
        Self {
            triangles,
            begins,
            points,
            segments,
        }
    }

    /// Cuts up each sheet; those of one triangle with nothing in it but its corners stay whole.
    fn cut(&self, inputs: &Inputs<'_>, ids: &Points) -> Vec<CutUp> {
        let count = self.begins.len() - 1;
        let cut = |sheet: usize| {
            let triangles = &self.triangles[self.begins[sheet]..self.begins[sheet + 1]];
            let points = of_sheet(&self.points, sheet as u32, |p| p.0);
            let segments = of_sheet(&self.segments, sheet as u32, |s| s.0);
            let is_corner = |id: u32| inputs.triangles[triangles[0] as usize].contains(&id);
            if triangles.len() == 1 && points.iter().all(|&(_, id)| is_corner(id)) {
                return None;
            }
            let content = Content {
                triangles,
                points: points.iter().map(|&(_, id)| id).collect(),
                segments: segments.iter().map(|&(_, segment)| segment).collect(),
            };
            Some(cut_up(inputs, ids, &content))
        };
        chosen(count, 1, cut)
    }
}

/// The run of a sheet in a list that is sorted by sheet.
fn of_sheet<T>(list: &[T], sheet: u32, key: impl Fn(&T) -> u32) -> &[T] {
    let begin = list.partition_point(|item| key(item) < sheet);
    let end = begin + list[begin..].partition_point(|item| key(item) == sheet);
    &list[begin..end]
}
