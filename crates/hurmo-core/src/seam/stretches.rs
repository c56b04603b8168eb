//! Which vertices move when a seam is rounded.
//!
//! From the seam outward over edges (Dijkstra 1959), as far as the fillet reaches by the bend at the nearest
//! vertex of the seam. Vertices at open edges, or where more than two faces meet, stay.

use super::bends::Bends;
use super::line::Seam;
use crate::mesh::{Mesh, VertexId};
use crate::spatial::to_segment;
use crate::topology::{Edges, FacesAt, UnionFind};
use rustc_hash::{FxHashMap, FxHashSet};
use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// A fillet reaches at most this many times its radius, however sharply faces meet.
pub(super) const FURTHEST: f64 = 2.0;
/// The tangent of half the least bend that is rounded, of some ten degrees.
const LEAST: f64 = 0.09;

/// A vertex that may move.
pub(super) struct Free {
    pub vertex: VertexId,
    /// The vertex of the seam that is next to it.
    pub seam: VertexId,
    /// Its stretch.
    pub stretch: u32,
}

/// Stretches of a seam whose fillets don't touch each other.
pub(super) struct Stretches {
    /// The vertices that may move, in rising order.
    pub free: Vec<Free>,
    /// How many stretches there are.
    pub count: usize,
    /// Lines that bend too little to be rounded.
    pub flat: usize,
}

impl Stretches {
    /// What moves when a seam gets a radius.
    pub fn of(mesh: &Mesh, edges: &Edges, seam: &Seam, bends: &Bends, radius: f64) -> Self {
        let next = reached(mesh, edges, seam, bends, radius);
        let mut sets = UnionFind::new(mesh.vertex_count());
        for &[a, b] in &seam.edges {
            sets.join(a.0, b.0);
        }
        let lines: FxHashSet<u32> = seam.edges.iter().map(|[a, _]| sets.find(a.0)).collect();
        let rounded: FxHashSet<u32> = next.values().map(|v| sets.find(v.0)).collect();
        // Those that have a face in common are moved together.
        for (_, corners) in mesh.faces() {
            let reached = corners.iter().filter_map(|v| Some([*v, *next.get(v)?]));
            let mut reached = reached.flatten();
            if let Some(first) = reached.next() {
                for other in reached {
                    sets.join(first.0, other.0);
                }
            }
        }
        let mut reached: Vec<(VertexId, VertexId)> = next.into_iter().collect();
        reached.sort_unstable();
        let mut numbers: FxHashMap<u32, u32> = FxHashMap::default();
        let free = reached.into_iter().map(|(vertex, seam)| {
            let new = numbers.len() as u32;
            Free {
                vertex,
                seam,
                stretch: *numbers.entry(sets.find(vertex.0)).or_insert(new),
            }
        });
        Self {
            free: free.collect(),
            count: numbers.len(),
            flat: lines.difference(&rounded).count(),
        }
    }
}

/// The vertices that a fillet reaches, each with the vertex of the seam that is next to it.
fn reached(
    mesh: &Mesh,
    edges: &Edges,
    seam: &Seam,
    bends: &Bends,
    radius: f64,
) -> FxHashMap<VertexId, VertexId> {
    let mut stays = vec![false; mesh.vertex_count()];
    for edge in edges.ids().filter(|&edge| edges.sides(edge).len() != 2) {
        for vertex in edges.ends(edge) {
            stays[vertex.index()] = true;
        }
    }
    let beside = seam.beside();
    let reach = |v: VertexId| match bends.tangents[&v].abs() {
        tangent if tangent < LEAST => 0.0,
        tangent => radius * tangent.min(FURTHEST),
    };
    // How far a vertex is from the edges of the seam at one of its vertices.
    let off = |vertex: VertexId, seam: VertexId| {
        let [place, here] = [vertex, seam].map(|v| mesh.position(v));
        let edges = beside[&seam]
            .iter()
            .map(|&other| [here, mesh.position(other)]);
        let squares = edges.map(|edge| to_segment(place, edge));
        squares.fold(f64::INFINITY, f64::min).sqrt()
    };
    let mut best: FxHashMap<VertexId, (f64, VertexId)> = FxHashMap::default();
    let mut todo = BinaryHeap::new();
    for &vertex in beside.keys() {
        if !stays[vertex.index()] && reach(vertex) > 0.0 {
            best.insert(vertex, (0.0, vertex));
            todo.push(Reverse((0.0f64.to_bits(), vertex, vertex)));
        }
    }
    let faces_at = FacesAt::of(mesh);
    while let Some(Reverse((way, vertex, seam))) = todo.pop() {
        let way = f64::from_bits(way);
        if best[&vertex] != (way, seam) {
            continue;
        }
        let corners = faces_at
            .of_vertex(vertex)
            .iter()
            .flat_map(|&face| mesh.face(face));
        for &other in corners {
            let step = mesh.position(vertex).distance(mesh.position(other));
            // What stays next to it lies about where the fillet ends: half an edge beyond.
            if stays[other.index()] || off(other, seam) + step / 2.0 > reach(seam) {
                continue;
            }
            let there = way + step;
            let known = best.get(&other).copied();
            if known.is_none_or(|(known, from)| (there, seam) < (known, from)) {
                best.insert(other, (there, seam));
                todo.push(Reverse((there.to_bits(), other, seam)));
            }
        }
    }
    best.into_iter().map(|(v, (_, seam))| (v, seam)).collect()
}
