//! Cracks: pairs of open edges that lie on each other. They are reduced as one, so that no gap opens
//! between their sides and none comes to cross the other, and are as open afterwards as before.
//!
//! ```text
//! open edges in pairs ─▶ their ends are one vertex of the linked mesh ─▶ a line on which wedges part
//!                         ─▶ reduced ─▶ each side of the line has vertices of its own again
//! ```
//!
//! A wedge keeps for good which vertex of the model its corners were at: what a vertex of the linked mesh
//! takes in along the line takes its sides (see [`Wedges::merge`](super::wedges::Wedges::merge)).
//! Cost: nothing but a weld where no two vertices are at one place; else an edge table.

use crate::mesh::{Mesh, Model, Rebuild, VertexId};
use crate::spatial::exact_weld;
use crate::topology::{Edges, UnionFind};
use rustc_hash::{FxHashMap, FxHashSet};

/// Which vertices on cracks are one.
pub(super) struct Cracks {
    first: Vec<VertexId>,
}

impl Cracks {
    /// Those of a mesh, if there are any.
    pub fn of(mesh: &Mesh) -> Option<Self> {
        let place = exact_weld(mesh.positions());
        if mesh.vertex_ids().all(|v| place[v.index()] == v) {
            return None;
        }
        let mut sets = UnionFind::new(mesh.vertex_count());
        for [one, two] in pairs(mesh, &place).into_iter().flatten() {
            sets.join(one.0, two.0);
        }
        let ids = mesh.vertex_ids();
        let mut first: Vec<VertexId> = ids.map(|v| VertexId(sets.find(v.0))).collect();
        leave_what_folds(mesh, &mut first);
        let any = mesh.vertex_ids().any(|v| first[v.index()] != v);
        any.then_some(Self { first })
    }

    /// The vertex of the linked mesh that a vertex of the model is.
    pub fn first(&self, vertex: VertexId) -> VertexId {
        self.first[vertex.index()]
    }
}

/// The ends that become one, for each two open edges that lie on each other, run opposite ways, and
/// have no third there.
fn pairs(mesh: &Mesh, place: &[VertexId]) -> Vec<[[VertexId; 2]; 2]> {
    let edges = Edges::of(mesh);
    let mut open: Vec<([VertexId; 2], bool, [VertexId; 2])> = edges
        .ids()
        .filter(|&edge| edges.sides(edge).len() == 1)
        .filter_map(|edge| {
            let side = edges.sides(edge)[0];
            let [low, high] = edges.ends(edge);
            let ends = if side.runs_up() {
                [low, high]
            } else {
                [high, low]
            };
            // By place, in an order that both of a pair have.
            let [a, b] = ends.map(|v| place[v.index()]);
            let is_up = a < b;
            let (key, ends) = match is_up {
                true => ([a, b], ends),
                false => ([b, a], [ends[1], ends[0]]),
            };
            (a != b).then_some((key, is_up, ends))
        })
        .collect();
    open.sort_unstable();
    let groups = open.chunk_by(|one, two| one.0 == two.0);
    groups
        .filter_map(|group| match group {
            [(_, up, one), (_, other_up, two)] if up != other_up => {
                Some([[one[0], two[0]], [one[1], two[1]]])
            }
            _ => None,
        })
        .collect()
}

/// Leaves apart what would give a face one vertex twice.
fn leave_what_folds(mesh: &Mesh, first: &mut [VertexId]) {
    let mut folds: FxHashSet<VertexId> = FxHashSet::default();
    for (_, corners) in mesh.faces() {
        for (i, a) in corners.iter().enumerate() {
            let (one, others) = (first[a.index()], &corners[i + 1..]);
            let is_one = |b: &&VertexId| *b != a && first[b.index()] == one;
            if others.iter().any(|b| is_one(&b)) {
                folds.insert(one);
            }
        }
    }
    if folds.is_empty() {
        return;
    }
    for (vertex, first) in first.iter_mut().enumerate() {
        if folds.contains(first) {
            *first = VertexId::new(vertex);
        }
    }
}

/// The model with each vertex parted by the sides that its corners are on.
pub(super) fn reopened(model: &Model, side_of_corner: &[u32]) -> Model {
    let mesh = &model.mesh;
    let mut rebuild = Rebuild::new(model);
    let mut first: Vec<Option<u32>> = vec![None; mesh.vertex_count()];
    let mut more: FxHashMap<(VertexId, u32), VertexId> = FxHashMap::default();
    let corners = mesh.corners().iter().zip(side_of_corner);
    let vertices: Vec<VertexId> = corners
        .map(
            |(&vertex, &side)| match *first[vertex.index()].get_or_insert(side) {
                own if own == side => vertex,
                _ => *more
                    .entry((vertex, side))
                    .or_insert_with(|| rebuild.new_vertex(mesh.position(vertex), vertex)),
            },
        )
        .collect();
    for face in mesh.face_ids() {
        let corners = mesh.face_range(face);
        rebuild.moved_piece(face, corners.map(|corner| (corner, vertices[corner])));
    }
    rebuild.finish()
}
