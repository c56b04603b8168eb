//! The border of a surface: edges, by place, that triangles don't run through as often one way as
//! the other, and caps that close it.
//!
//! With its caps a surface winds round a point a whole number of times, whatever it is like
//! otherwise.

use crate::mesh::{EdgeId, FaceId, Mesh, VertexId};
use crate::parallel::{change_each, listed};
use crate::topology::{Edges, UnionFind};
use glam::DVec3;
use rayon::prelude::*;
use rustc_hash::FxHashMap;
use smallvec::SmallVec;

/// Edges by their ends, the lower first, and how much more often they are run up than down; none
/// as often both ways, or of no length.
#[derive(Clone, Debug, Default)]
pub struct Border(Vec<([VertexId; 2], i32)>);

impl Border {
    /// The border of some faces of a mesh, `turned` or not, when vertices stand at these places.
    pub fn of(
        mesh: &Mesh,
        edges: &Edges,
        is_one: impl Fn(FaceId) -> bool + Sync,
        turned: &[bool],
        place: &[VertexId],
    ) -> Self {
        let number = |face: FaceId| is_one(face).then_some(0);
        let sign = |face: FaceId, up: bool| if up != turned[face.index()] { 1 } else { -1 };
        let runs = runs(mesh, edges, &number, &sign, place);
        Self::of_runs(
            runs.into_iter()
                .map(|(_, ends, times)| (ends, times))
                .collect(),
        )
    }

    /// The borders of several surfaces, by the number that each face has; of faces without one, none.
    pub fn of_each(
        mesh: &Mesh,
        edges: &Edges,
        count: usize,
        number: &(dyn Fn(FaceId) -> Option<usize> + Sync),
        place: &[VertexId],
    ) -> Vec<Self> {
        let sign = |_: FaceId, up: bool| if up { 1 } else { -1 };
        let mut runs = runs(mesh, edges, number, &sign, place);
        runs.par_sort_by_key(|run| run.0);
        let mut borders = vec![Self::default(); count];
        for same in runs.chunk_by(|a, b| a.0 == b.0) {
            let own = same.iter().map(|&(_, ends, times)| (ends, times));
            borders[same[0].0] = Self::of_runs(own.collect());
        }
        borders
    }

    /// What is left of runs from end to end, each this many times.
    fn of_runs(mut runs: Vec<([VertexId; 2], i32)>) -> Self {
        change_each(&mut runs, 4096, |_, run| *run = upward(run.0, run.1));
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

    /// The ends of its edges.
    pub fn ends(&self) -> impl Iterator<Item = [VertexId; 2]> {
        self.0.iter().map(|(ends, _)| *ends)
    }

    /// Its edges, and how much more often each is run from its first end than back.
    pub fn edges(&self) -> impl Iterator<Item = ([VertexId; 2], i32)> {
        self.0.iter().copied()
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

/// Edges that the faces of one number don't run as often both ways, by place, and how much more often up
/// than down. `sign`: of a face's side, by whether it runs up.
fn runs(
    mesh: &Mesh,
    edges: &Edges,
    number: &(dyn Fn(FaceId) -> Option<usize> + Sync),
    sign: &(dyn Fn(FaceId, bool) -> i32 + Sync),
    place: &[VertexId],
) -> Vec<(usize, [VertexId; 2], i32)> {
    let there = |ends: [VertexId; 2]| ends.map(|v| place[v.index()]);
    // What cancels out where it is needs no place.
    let mut runs = listed(edges.len(), 4096, |edge, runs| {
        let edge = EdgeId::new(edge);
        let mut sums: SmallVec<[(usize, i32); 4]> = SmallVec::new();
        for side in edges.sides(edge) {
            let Some(of) = number(side.face) else {
                continue;
            };
            let times = sign(side.face, side.runs_up());
            match sums.iter_mut().find(|sum| sum.0 == of) {
                Some(sum) => sum.1 += times,
                None => sums.push((of, times)),
            }
        }
        let left = sums.into_iter().filter(|(_, times)| *times != 0);
        runs.extend(left.map(|(of, times)| (of, there(edges.ends(edge)), times)));
    });
    // Faces that repeat a vertex have no edges, and sides that may not cancel out.
    let of_collapsed = listed(mesh.face_count(), 4096, |face, runs| {
        let face = FaceId::new(face);
        if mesh.face(face).len() < 3 || !mesh.is_collapsed(face) {
            return;
        }
        let corners = mesh.face(face);
        let next = corners.iter().cycle().skip(1);
        let sides = corners.iter().zip(next).map(|(&a, &b)| [a, b]);
        runs.extend(sides.filter_map(|side| Some((number(face)?, there(side), sign(face, true)))));
    });
    runs.extend(of_collapsed);
    runs
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;
    use crate::spatial::exact_weld;
    use std::collections::BTreeMap;

    /// Against every side summed up, with faces that repeat a vertex, vertices not welded, faces
    /// that are none of them and faces turned.
    #[test]
    fn the_border_is_what_sides_leave() {
        let grid = shapes::grid(5, 4, 1.0, 1.0);
        let mut mesh = Mesh::default();
        for (face, corners) in grid.faces() {
            // Every third face has vertices of its own.
            let own = |v: &VertexId| grid.position(*v);
            let base = mesh.vertex_count() as u32;
            let count = corners.len() as u32;
            corners.iter().for_each(|v| {
                mesh.push_vertex(own(v));
            });
            match face.index() % 3 {
                0 => mesh.push_face([0, 1, 0, 2].map(|i| VertexId(base + i))),
                1 => mesh.push_face([0, 1, 1].map(|i| VertexId(base + i))),
                _ => mesh.push_face((0..count).map(|i| VertexId(base + i))),
            };
        }
        let place = exact_weld(mesh.positions());
        let turned: Vec<bool> = (0..mesh.face_count()).map(|face| face % 5 == 0).collect();
        let is_one = |face: FaceId| face.index() % 7 != 2;
        let border = Border::of(&mesh, &Edges::of(&mesh), is_one, &turned, &place);
        let mut sums: BTreeMap<[VertexId; 2], i32> = BTreeMap::new();
        for (face, corners) in mesh.faces().filter(|(face, _)| is_one(*face)) {
            for (i, v) in corners.iter().enumerate() {
                let ends = [*v, corners[(i + 1) % corners.len()]].map(|v| place[v.index()]);
                let times = if turned[face.index()] { -1 } else { 1 };
                let (ends, times) = upward(ends, times);
                *sums.entry(ends).or_default() += times;
            }
        }
        let left: Vec<_> = sums.into_iter().filter(is_left).collect();
        assert!(left.len() >= 20, "{}", left.len());
        assert_eq!(border.0, left);
    }
}
