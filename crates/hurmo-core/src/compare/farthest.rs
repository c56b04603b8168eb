//! The point of one surface that lies farthest from another, by branch and bound (as in Tang, Lee
//! & Kim 2009).
//!
//! The distance to one triangle is convex, so that over a piece of a face it is nowhere more than
//! at the piece's corners; and the distance to a surface is no more than that to any triangle of
//! it. That, and how far a piece reaches from its corners, bounds it from above. Pieces that may
//! hold a point farther than the farthest known are cut in four, those that may hold the farthest
//! first, until none is left or the bound lies close above what is known.
//! Cost: a query a corner, and up to [`PATIENCE`] more.

use crate::mesh::Mesh;
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

/// The farthest point of a surface; `own` are its triangles, `other` those of the tree. What lies
/// within `within` need not be known closer.
pub(super) fn farthest(
    from: &Mesh,
    own: &[[DVec3; 3]],
    other: &[[DVec3; 3]],
    tree: &TriangleTree,
    within: Option<f64>,
) -> Farthest {
    let ground = Ground {
        triangles: other,
        tree,
    };
    let used = from.used_vertices();
    let vertices: Vec<Option<Corner>> = from
        .positions()
        .par_iter()
        .with_min_len(256)
        .zip(used)
        .map(|(&at, used)| used.then(|| ground.corner(at, None)))
        .collect();
    let farther = |a: Corner, b: Corner| if b.distance > a.distance { b } else { a };
    let known = vertices.iter().flatten().copied().reduce(farther);
    let mut known = known.expect("a surface has corners");
    let far_enough = |known: f64| (known * (1.0 + CLOSE)).max(within.unwrap_or(0.0));
    let faces: Vec<_> = from
        .faces()
        .flat_map(|(_, face)| (2..face.len()).map(move |i| [face[0], face[i - 1], face[i]]))
        .collect();
    debug_assert_eq!(faces.len(), own.len());
    let limit = far_enough(known.distance);
    let pieces: Vec<Piece> = faces
        .par_iter()
        .with_min_len(1024)
        .filter_map(|face| {
            let corners = face.map(|v| vertices[v.index()].expect("used by a face"));
            let piece = ground.piece(corners);
            (piece.at_most > limit).then_some(piece)
        })
        .collect();
    let mut heap = BinaryHeap::from(pieces);
    let mut left = PATIENCE;
    let mut at_most = far_enough(known.distance);
    while let Some(piece) = heap.pop() {
        at_most = far_enough(known.distance);
        if piece.at_most <= at_most {
            break;
        }
        if left == 0 {
            at_most = piece.at_most;
            break;
        }
        left -= 1;
        let [a, b, c] = piece.corners;
        let [ab, bc, ca] = [(a, b), (b, c), (c, a)]
            .map(|(p, q)| ground.corner((p.at + q.at) / 2.0, Some(p.triangle)));
        known = [ab, bc, ca].into_iter().fold(known, farther);
        let limit = far_enough(known.distance);
        for corners in [[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]] {
            let part = ground.piece(corners);
            if part.at_most > limit {
                heap.push(part);
            }
        }
        at_most = limit;
    }
    // What is only known to lie within the limit may be known to lie nearer still.
    Farthest {
        distance: known.distance,
        at_most: at_most.max(known.distance),
        at: known.at,
        nearest: known.nearest,
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
