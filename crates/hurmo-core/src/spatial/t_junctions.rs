//! T-junctions: open vertices that lie on open edges of other faces.
//!
//! In: a mesh, and at which vertex each of its vertices is thought to be (itself, or the one
//! that a weld would make of it). Out: by open edge, the vertices on it in order. Cost:
//! near-linear in open edges.

use super::{BoxTree, overlap, rounded_outward};
use crate::mesh::{EdgeId, Mesh, VertexId};
use crate::topology::Edges;
use glam::DVec3;
use rustc_hash::FxHashMap;
use std::collections::BTreeMap;

/// How far off an edge a vertex may lie, as a share of the largest coordinate.
const ROUNDING: f64 = 1e-6;

/// Where a vertex lies in more boxes of edges, each edge is boxed in this many pieces.
const MANY: usize = 256;
const PIECES: usize = 32;

/// The open vertices on open edges.
pub(crate) struct TJunctions {
    /// By open edge, the vertices on it: how far along from its first end, and which.
    pub on: BTreeMap<EdgeId, Vec<(f64, VertexId)>>,
    /// The ends of every open edge, lower vertex first.
    ends: FxHashMap<EdgeId, [VertexId; 2]>,
}

impl TJunctions {
    /// How far off an edge single precision can put a vertex that lies on it.
    pub fn rounding(mesh: &Mesh) -> f64 {
        let sizes = mesh.positions().iter().map(|p| p.abs().max_element());
        ROUNDING * sizes.fold(0.0, f64::max)
    }

    /// The open vertices that lie on open edges, other than on those of their own faces.
    pub fn of(
        mesh: &Mesh,
        edges: &Edges,
        place: impl Fn(VertexId) -> VertexId,
        tolerance: f64,
    ) -> Self {
        let open: Vec<EdgeId> = edges
            .ids()
            .filter(|&edge| edges.sides(edge).len() == 1)
            .collect();
        // One face has no edge of another's to lie on.
        let face_of = |edge: &EdgeId| edges.sides(*edge)[0].face;
        let is_one_face = open.iter().all(|edge| face_of(edge) == face_of(&open[0]));
        let ends: Vec<[VertexId; 2]> = open
            .iter()
            .map(|&edge| {
                let [a, b] = edges.ends(edge).map(&place);
                [a.min(b), a.max(b)]
            })
            .collect();
        let points = |i: usize| ends[i].map(|v| mesh.position(v));
        let mut vertices: Vec<VertexId> = ends.iter().flatten().copied().collect();
        vertices.sort_unstable();
        vertices.dedup();
        if is_one_face {
            vertices.clear();
        }
        let boxed = |pieces: usize| {
            BoxTree::new(open.len() * pieces, |item| {
                let [a, b] = points(item / pieces);
                let at = |piece: usize| a.lerp(b, piece as f64 / pieces as f64);
                let [a, b] = [at(item % pieces), at(item % pieces + 1)];
                [a.min(b) - tolerance, a.max(b) + tolerance]
            })
        };
        // Where edges run far across each other, each is boxed in pieces.
        let (mut tree, mut pieces) = (boxed(1), 1);
        if boxes_round_a_vertex(mesh, &tree, &vertices) > MANY {
            (tree, pieces) = (boxed(PIECES), PIECES);
        }
        let mut on: BTreeMap<EdgeId, Vec<(f64, VertexId)>> = BTreeMap::new();
        for vertex in vertices {
            let here = mesh.position(vertex);
            let bounds = rounded_outward([here, here]);
            tree.visit(
                |node| overlap(node, bounds),
                |spot| {
                    let i = tree.order()[spot] as usize / pieces;
                    let Some(along) = along_within(points(i), here, tolerance) else {
                        return;
                    };
                    let face = edges.sides(open[i])[0].face;
                    if mesh.face(face).iter().all(|&v| place(v) != vertex) {
                        let list = on.entry(open[i]).or_default();
                        // It may lie in the boxes of two pieces.
                        if list.last().is_none_or(|&(_, last)| last != vertex) {
                            list.push((along, vertex));
                        }
                    }
                },
            );
        }
        for list in on.values_mut() {
            list.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
        }
        Self {
            on,
            ends: open.into_iter().zip(ends).collect(),
        }
    }

    /// What an open edge becomes when it is split at the vertices on it: the ends of each
    /// piece, lower vertex first.
    pub fn pieces(&self, edge: EdgeId) -> impl Iterator<Item = [VertexId; 2]> {
        let [low, high] = self.ends[&edge];
        let splits = self.on.get(&edge).map_or(&[][..], Vec::as_slice);
        let stops: Vec<VertexId> = [low]
            .into_iter()
            .chain(splits.iter().map(|&(_, v)| v))
            .chain([high])
            .collect();
        (1..stops.len()).map(move |i| {
            let (a, b) = (stops[i - 1], stops[i]);
            [a.min(b), a.max(b)]
        })
    }

    /// How many sides each piece of these open edges would have.
    pub fn sides_of_pieces(&self, open: &[EdgeId]) -> FxHashMap<[VertexId; 2], u32> {
        let mut sides: FxHashMap<[VertexId; 2], u32> = FxHashMap::default();
        for &edge in open {
            for piece in self.pieces(edge) {
                *sides.entry(piece).or_default() += 1;
            }
        }
        sides
    }
}

/// How many boxes a vertex lies in, from a few.
fn boxes_round_a_vertex(mesh: &Mesh, tree: &BoxTree, vertices: &[VertexId]) -> usize {
    const SAMPLES: usize = 32;
    let (mut found, mut asked) = (0, 0);
    for &vertex in vertices
        .iter()
        .step_by(vertices.len().div_ceil(SAMPLES).max(1))
    {
        let bounds = rounded_outward([mesh.position(vertex); 2]);
        tree.visit(|node| overlap(node, bounds), |_| found += 1);
        asked += 1;
    }
    found / asked.max(1)
}

/// How far along an edge a point lies that is on it, and on neither end.
fn along_within([a, b]: [DVec3; 2], point: DVec3, tolerance: f64) -> Option<f64> {
    let edge = b - a;
    let length = edge.length();
    let along = (point - a).dot(edge) / length;
    let off = (point - a - edge * (along / length)).length();
    (off <= tolerance && along > tolerance && along < length - tolerance).then_some(along / length)
}
