//! The point of one surface that lies farthest from another, by branch and bound (as in Tang, Lee
//! & Kim 2009).
//!
//! The distance to one triangle is convex, so that over a piece of a face it is nowhere more than
//! at the piece's corners; and the distance to a surface is no more than that to any triangle of
//! it. That, and how far a piece reaches from its corners, bounds it from above. Pieces that may
//! hold a point farther than the farthest known are cut in four, those that may hold the farthest
//! first, until none is left or the bound lies close above what is known.
//! Where only a limit matters, each face is looked at by itself, and cut until it keeps within.
//! Cost: a query a corner, and up to [`PATIENCE`] more, or [`PIECES`] a face.

use crate::measure::fan_triangles;
use crate::mesh::{Mesh, VertexId};
use crate::spatial::{TriangleTree, closest_on_triangle};
use glam::DVec3;
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::Serialize;
use std::cmp::Ordering;
use std::collections::BinaryHeap;

/// How close the bound must come, as a share of what is known.
const CLOSE: f64 = 0.01;
/// How many pieces are cut at most.
const PATIENCE: usize = 200_000;
/// How many pieces of a face are looked at, at most, to prove that it keeps within a limit.
const PIECES: u32 = 50_000;

/// The farthest point found.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Farthest {
    /// How far it lies from the other surface.
    pub distance: f64,
    /// How far any point can lie from it: proved.
    pub at_most: f64,
    /// Where it is.
    #[schemars(with = "[f64; 3]")]
    pub at: DVec3,
    /// What is nearest to it on the other surface.
    #[schemars(with = "[f64; 3]")]
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
struct Ground<'a> {
    triangles: &'a [[DVec3; 3]],
    tree: &'a TriangleTree,
}

/// A surface of which the farthest point is looked for.
pub(super) struct Search<'a> {
    ground: Ground<'a>,
    /// Its triangles, by vertices.
    faces: Vec<[VertexId; 3]>,
    /// By vertex, if a face uses it.
    vertices: Vec<Option<Corner>>,
}

impl<'a> Search<'a> {
    /// From a surface to that of a tree, of which `triangles` are the corners. `None` without
    /// any face.
    pub fn new(from: &Mesh, triangles: &'a [[DVec3; 3]], tree: &'a TriangleTree) -> Option<Self> {
        let ground = Ground { triangles, tree };
        if triangles.is_empty() || from.face_count() == 0 {
            return None;
        }
        let used = from.used_vertices();
        let vertices = from
            .positions()
            .par_iter()
            .with_min_len(256)
            .zip(used)
            .map(|(&at, used)| used.then(|| ground.corner(at, None)))
            .collect();
        Some(Self {
            faces: fan_triangles(from),
            ground,
            vertices,
        })
    }

    fn corners(&self, face: &[VertexId; 3]) -> [Corner; 3] {
        face.map(|v| self.vertices[v.index()].expect("used by a face"))
    }

    /// Whether it is proved that no point lies further off than a limit.
    pub fn stays_within(&self, limit: f64) -> bool {
        self.faces.par_iter().with_min_len(64).all(|face| {
            let corners = self.corners(face);
            self.ground.holds(corners, limit, &mut PIECES.clone())
        })
    }

    /// The farthest point, and a bound close above it.
    pub fn farthest(&self) -> Farthest {
        let farther = |a: Corner, b: Corner| if b.distance > a.distance { b } else { a };
        let known = self.vertices.iter().flatten().copied().reduce(farther);
        let mut known = known.expect("a face has corners");
        let close = |known: Corner| known.distance * (1.0 + CLOSE);
        let limit = close(known);
        let pieces: Vec<Piece> = self
            .faces
            .par_iter()
            .with_min_len(1024)
            .filter_map(|face| {
                let piece = self.ground.piece(self.corners(face));
                (piece.at_most > limit).then_some(piece)
            })
            .collect();
        let mut heap = BinaryHeap::from(pieces);
        let mut at_most = limit;
        for left in (0..PATIENCE).rev() {
            at_most = close(known);
            let Some(piece) = heap.pop().filter(|piece| piece.at_most > at_most) else {
                break;
            };
            if left == 0 {
                at_most = piece.at_most;
                break;
            }
            let quarters = self.ground.quarters(piece.corners);
            known = quarters[3].into_iter().fold(known, farther);
            for corners in quarters {
                let part = self.ground.piece(corners);
                if part.at_most > close(known) {
                    heap.push(part);
                }
            }
        }
        Farthest {
            distance: known.distance,
            at_most,
            at: known.at,
            nearest: known.nearest,
        }
    }
}

impl Ground<'_> {
    fn corner(&self, at: DVec3, hint: Option<u32>) -> Corner {
        let found = match hint {
            Some(hint) => self.tree.closest_from(at, hint),
            None => self.tree.closest(at),
        };
        let found = found.expect("the tree is not empty");
        Corner {
            at,
            distance: found.distance_squared.sqrt(),
            nearest: found.point,
            triangle: found.triangle,
        }
    }

    /// A piece cut at the middles of its sides; the last part has all three of these.
    fn quarters(&self, [a, b, c]: [Corner; 3]) -> [[Corner; 3]; 4] {
        let [ab, bc, ca] = [(a, b), (b, c), (c, a)]
            .map(|(p, q)| self.corner((p.at + q.at) / 2.0, Some(p.triangle)));
        [[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]]
    }

    /// Whether it is proved that no point of a piece lies further off than a limit, with so many
    /// pieces of it left to look at.
    fn holds(&self, corners: [Corner; 3], limit: f64, left: &mut u32) -> bool {
        if corners.iter().any(|corner| corner.distance > limit) || *left == 0 {
            return false;
        }
        *left -= 1;
        self.piece(corners).at_most <= limit
            || self
                .quarters(corners)
                .into_iter()
                .all(|part| self.holds(part, limit, left))
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
