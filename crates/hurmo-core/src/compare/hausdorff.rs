//! The point of one surface that lies farthest from another, by branch and bound (as in Tang, Lee
//! & Kim 2009).
//!
//! The distance to one triangle is convex, so that over a piece of a face it is nowhere more than
//! at the piece's corners; and the distance to a surface is no more than that to any triangle of
//! it. That, and how far a piece reaches from its corners, bounds it from above. Pieces that may
//! hold a point farther than the farthest known are cut, those that may hold the farthest first,
//! until none is left or the bound lies close above what is known. Sides are cut where what is
//! nearest to one end gives way to what is nearest to the other, so that the parts soon lie over
//! one triangle each, for which the bound is exact.
//! Before that, most faces are proved to keep within a bound close above the farthest point of
//! some samples, each by itself (see `keeps`); so it is where only a limit matters.
//! Cost: a query a corner, some more a face, and up to [`PATIENCE`] for those left.

use super::keeps::Keeps;
use crate::mesh::{Mesh, VertexId};
use crate::parallel::{all, chosen, listed};
use crate::spatial::{Closest, TriangleTree, closest_on_triangle};
use crate::triangulate::all_triangles;
use glam::DVec3;
use std::cmp::Ordering;
use std::collections::BinaryHeap;

/// How close the bound must come, as a share of what is known.
const CLOSE: f64 = 0.01;
/// No side is cut nearer to an end than this.
const THIN: f64 = 0.02;
/// How many pieces are cut at most, and how many at a time.
const PATIENCE: usize = 2_000_000;
const TURN: usize = 16_384;

/// The farthest point found.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct Farthest {
    /// How far it lies from the other surface.
    pub distance: f64,
    /// How far any point can lie from it: proved.
    pub at_most: f64,
    /// Where it is.
    #[cfg_attr(feature = "schemars", schemars(with = "[f64; 3]"))]
    pub at: DVec3,
    /// What is nearest to it on the other surface.
    #[cfg_attr(feature = "schemars", schemars(with = "[f64; 3]"))]
    pub nearest: DVec3,
}

/// A corner of a piece, and what is nearest to it.
#[derive(Clone, Copy)]
struct Corner {
    at: DVec3,
    distance: f64,
    nearest: DVec3,
    triangle: u32,
}

impl Corner {
    fn new(at: DVec3, found: Closest) -> Self {
        Self {
            at,
            distance: found.distance_squared.sqrt(),
            nearest: found.point,
            triangle: found.triangle,
        }
    }
}

/// A piece of a face.
struct Piece {
    at_most: f64,
    corners: [Corner; 3],
}

impl PartialEq for Piece {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other) == Ordering::Equal
    }
}

impl Eq for Piece {}

impl PartialOrd for Piece {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Piece {
    fn cmp(&self, other: &Self) -> Ordering {
        let places = |piece: &Self| piece.corners.map(|corner| corner.at.to_array());
        let [one, two] = [self, other].map(places);
        let ties = one.as_flattened().iter().zip(two.as_flattened());
        let ties = ties
            .map(|(a, b)| a.total_cmp(b))
            .find(|order| order.is_ne());
        self.at_most
            .total_cmp(&other.at_most)
            .then(ties.unwrap_or(Ordering::Equal))
    }
}

/// The surface that is measured to.
struct Surface<'a> {
    triangles: &'a [[DVec3; 3]],
    tree: &'a TriangleTree,
}

/// A surface of which the farthest point is looked for.
pub(super) struct FarthestSearch<'a> {
    reference: Surface<'a>,
    /// Its triangles, by vertices.
    faces: Vec<[VertexId; 3]>,
    /// By vertex, if a face uses it.
    vertices: Vec<Option<Corner>>,
}

impl<'a> FarthestSearch<'a> {
    /// From a surface to that of a tree, of which `triangles` are the corners. `None` without
    /// any face.
    pub fn new(from: &Mesh, triangles: &'a [[DVec3; 3]], tree: &'a TriangleTree) -> Option<Self> {
        let reference = Surface { triangles, tree };
        if triangles.is_empty() || from.face_count() == 0 {
            return None;
        }
        let found = tree.closest_to_each(from.positions());
        let corners = from.positions().iter().zip(found).zip(from.used_vertices());
        let vertices = corners
            .map(|((&at, found), used)| found.filter(|_| used).map(|found| Corner::new(at, found)))
            .collect();
        Some(Self {
            faces: all_triangles(from).0,
            reference,
            vertices,
        })
    }

    fn corners(&self, face: &[VertexId; 3]) -> [Corner; 3] {
        face.map(|v| self.vertices[v.index()].expect("used by a face"))
    }

    /// Whether it is proved that no point lies further off than a limit.
    pub fn stays_within(&self, limit: f64) -> bool {
        let keeps = self.keeps(limit);
        all(self.faces.len(), 64, |i| {
            self.face_keeps(&keeps, &self.faces[i])
        })
    }

    /// The faces for which that is not proved: the number of each, and a place on it for which it is not.
    pub fn beyond(&self, limit: f64) -> Vec<(usize, DVec3)> {
        let keeps = self.keeps(limit);
        chosen(self.faces.len(), 64, |i| {
            Some((i, self.unproved(&keeps, &self.faces[i])?))
        })
    }

    fn keeps(&self, limit: f64) -> Keeps<'_> {
        Keeps {
            triangles: self.reference.triangles,
            tree: self.reference.tree,
            limit,
        }
    }

    fn face_keeps(&self, keeps: &Keeps<'_>, face: &[VertexId; 3]) -> bool {
        self.unproved(keeps, face).is_none()
    }

    /// A place of a face that may not keep within the limit, if there is one.
    fn unproved(&self, keeps: &Keeps<'_>, face: &[VertexId; 3]) -> Option<DVec3> {
        let corners = self.corners(face);
        let limit = keeps.limit;
        let far = corners.iter().find(|corner| corner.distance > limit);
        if let Some(corner) = far {
            return Some(corner.at);
        }
        match self.reference.piece(corners).at_most <= limit {
            true => None,
            false => keeps.unproved(corners.map(|corner| corner.at), corners[0].triangle),
        }
    }

    /// The farthest point, and a bound close above it; `seen` is one that lies far off. What is
    /// proved to keep within a bound close above the farthest of these is looked at no further.
    pub fn farthest(&self, seen: Option<DVec3>) -> Farthest {
        let farther = |a: Corner, b: Corner| if b.distance > a.distance { b } else { a };
        let seen = seen.map(|at| self.reference.corner(at, None));
        let known = self.vertices.iter().flatten().copied().chain(seen);
        let mut known = known.reduce(farther).expect("a face has corners");
        let close = |known: Corner| known.distance * (1.0 + CLOSE);
        let keeps = self.keeps(close(known));
        let pieces: Vec<Piece> = chosen(self.faces.len(), 64, |i| {
            let face = &self.faces[i];
            let is_open = !self.face_keeps(&keeps, face);
            is_open.then(|| self.reference.piece(self.corners(face)))
        });
        let mut heap = BinaryHeap::from(pieces);
        let mut at_most;
        let mut left = PATIENCE;
        loop {
            at_most = close(known);
            let mut turn = Vec::new();
            while let Some(piece) = heap.peek()
                && piece.at_most > at_most
                && turn.len() < TURN
            {
                turn.extend(heap.pop());
            }
            let Some(first) = turn.first() else {
                break;
            };
            if left == 0 {
                at_most = first.at_most;
                break;
            }
            left = left.saturating_sub(turn.len());
            let parts: Vec<Piece> = listed(turn.len(), 64, |i, list| {
                let parts = self.reference.parts(turn[i].corners).into_iter();
                list.extend(parts.map(|corners| self.reference.piece(corners)));
            });
            let corners = parts.iter().flat_map(|part| part.corners);
            known = corners.fold(known, farther);
            let limit = close(known);
            heap.extend(parts.into_iter().filter(|part| part.at_most > limit));
        }
        Farthest {
            distance: known.distance,
            at_most,
            at: known.at,
            nearest: known.nearest,
        }
    }
}

impl Surface<'_> {
    fn corner(&self, at: DVec3, hint: Option<u32>) -> Corner {
        let found = match hint {
            Some(hint) => self.tree.closest_from(at, hint),
            None => self.tree.closest(at),
        };
        Corner::new(at, found.expect("the tree is not empty"))
    }

    /// A piece cut where what is nearest changes: in three if two corners have the same triangle
    /// nearest, else in four.
    fn parts(&self, corners: [Corner; 3]) -> Vec<[Corner; 3]> {
        for turn in 0..3 {
            let [a, b, c] = [0, 1, 2].map(|i| corners[(turn + i) % 3]);
            if a.triangle == b.triangle && b.triangle != c.triangle {
                let (ca, bc) = (self.change(a, c), self.change(b, c));
                return vec![[a, b, bc], [a, bc, ca], [ca, bc, c]];
            }
        }
        let [a, b, c] = corners;
        let [ab, bc, ca] = [(a, b), (b, c), (c, a)].map(|(p, q)| self.change(p, q));
        vec![[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]]
    }

    /// The point between two corners where the triangle that is nearest to one and that nearest to
    /// the other are as far away; not quite at an end.
    fn change(&self, one: Corner, two: Corner) -> Corner {
        let [near, far] = [one, two].map(|corner| self.triangles[corner.triangle as usize]);
        let at = |share: f64| one.at.lerp(two.at, share);
        let is_nearer_one = |share: f64| {
            let point = at(share);
            let to = |triangle| closest_on_triangle(point, triangle).distance_squared(point);
            to(near) < to(far)
        };
        let (mut low, mut high) = (0.0, 1.0);
        if one.triangle != two.triangle {
            for _ in 0..8 {
                let middle = (low + high) / 2.0;
                match is_nearer_one(middle) {
                    true => low = middle,
                    false => high = middle,
                }
            }
        }
        let share = f64::clamp((low + high) / 2.0, THIN, 1.0 - THIN);
        self.corner(at(share), Some(one.triangle))
    }

    /// A piece, and how far any point of it can lie from the surface.
    fn piece(&self, corners: [Corner; 3]) -> Piece {
        let mut at_most = reach(&corners);
        for (i, corner) in corners.iter().enumerate() {
            if corners[..i]
                .iter()
                .any(|other| other.triangle == corner.triangle)
            {
                continue;
            }
            let triangle = self.triangles[corner.triangle as usize];
            let to_it = corners
                .iter()
                .map(|corner| closest_on_triangle(corner.at, triangle).distance(corner.at))
                .fold(0.0, f64::max);
            at_most = at_most.min(to_it);
        }
        Piece { at_most, corners }
    }
}

/// A bound by the triangle inequality: no point of a piece is farther from its corners than the
/// half of its longest side over the cosine of 30°, its circumradius at most if it is not obtuse.
fn reach(corners: &[Corner; 3]) -> f64 {
    let [a, b, c] = corners.each_ref().map(|corner| corner.at);
    let longest = a.distance(b).max(b.distance(c)).max(c.distance(a));
    let farthest = corners
        .iter()
        .map(|corner| corner.distance)
        .fold(0.0, f64::max);
    farthest + longest / 3f64.sqrt()
}
