//! The border of a surface: edges, by place, that triangles don't run through as often one way as
//! the other, and caps that close it.
//!
//! With its caps a surface winds round a point a whole number of times, whatever it is like
//! otherwise.

use super::Soup;
use crate::mesh::{Mesh, VertexId};
use crate::topology::UnionFind;
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

/// Edges by their ends, the lower first, and how much more often they are run up than down; none
/// as often both ways, or of no length.
#[derive(Clone, Debug, Default)]
pub struct Border(Vec<([VertexId; 2], i32)>);

impl Border {
    /// The border that is left of runs from end to end, each so many times.
    pub fn of_runs(runs: impl IntoIterator<Item = ([VertexId; 2], i32)>) -> Self {
        let mut sums: FxHashMap<[VertexId; 2], i32> = FxHashMap::default();
        for (ends, times) in runs {
            let (ends, times) = upward(ends, times);
            *sums.entry(ends).or_default() += times;
        }
        let mut left: Vec<_> = sums.into_iter().filter(is_left).collect();
        left.sort_unstable();
        Self(left)
    }

    /// The border of triangles, when vertices stand at these places.
    pub fn of(soup: &Soup<'_>, place: &[VertexId]) -> Self {
        let mut runs: Vec<([VertexId; 2], i32)> = (0..soup.len())
            .into_par_iter()
            .with_min_len(1024)
            .flat_map_iter(|t| {
                let [a, b, c] = soup.vertices(t).map(|v| place[v.index()]);
                [[a, b], [b, c], [c, a]].map(|ends| upward(ends, 1))
            })
            .collect();
        runs.par_sort_unstable();
        let edges = runs.chunk_by(|one, two| one.0 == two.0);
        let sums = edges.map(|edge| (edge[0].0, edge.iter().map(|run| run.1).sum()));
        Self(sums.filter(is_left).collect())
    }

    /// How many edges.
    pub fn len(&self) -> usize {
        self.0.len()
    }

    /// Whether there is none, and the surface closed.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// Triangles that close it: over each chain of edges a fan from its middle.
    pub fn caps(&self, positions: &[DVec3]) -> Mesh {
        let mut mesh = Mesh::default();
        let mut number: FxHashMap<VertexId, VertexId> = FxHashMap::default();
        let mut named = |vertex: VertexId, mesh: &mut Mesh| {
            *number
                .entry(vertex)
                .or_insert_with(|| mesh.push_vertex(positions[vertex.index()]))
        };
        let ends: Vec<[VertexId; 2]> = self
            .0
            .iter()
            .map(|(ends, _)| ends.map(|vertex| named(vertex, &mut mesh)))
            .collect();
        let mut chains = UnionFind::new(mesh.vertex_count());
        for [a, b] in &ends {
            chains.join(a.0, b.0);
        }
        let mut sums: FxHashMap<u32, (DVec3, f64)> = FxHashMap::default();
        for vertex in 0..mesh.vertex_count() as u32 {
            let (sum, count) = sums.entry(chains.find(vertex)).or_default();
            *sum += mesh.position(VertexId(vertex));
            *count += 1.0;
        }
        let mut middles: FxHashMap<u32, VertexId> = FxHashMap::default();
        for ([a, b], (_, net)) in ends.into_iter().zip(&self.0) {
            let chain = chains.find(a.0);
            let middle = *middles.entry(chain).or_insert_with(|| {
                let (sum, count) = sums[&chain];
                mesh.push_vertex(sum / count)
            });
            let corners = match *net > 0 {
                true => [b, a, middle],
                false => [a, b, middle],
            };
            for _ in 0..net.unsigned_abs() {
                mesh.push_face(corners);
            }
        }
        mesh
    }
}

fn upward([from, to]: [VertexId; 2], times: i32) -> ([VertexId; 2], i32) {
    match from < to {
        true => ([from, to], times),
        false => ([to, from], -times),
    }
}

fn is_left(&([from, to], times): &([VertexId; 2], i32)) -> bool {
    times != 0 && from != to
}
