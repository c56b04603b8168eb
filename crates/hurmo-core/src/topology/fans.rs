//! Fans: the groups of faces round a vertex that share edges there.
//!
//! A vertex with one fan is an ordinary or a border vertex; with more it is pinched. Every
//! corner is a member of a disjoint set; each edge joins the corners of its faces at both of
//! its ends. Cost: near-linear in corners.

use super::{Edges, UnionFind};
use crate::mesh::{Mesh, VertexId};

/// Which corners are in one fan.
pub struct Fans {
    sets: UnionFind,
    /// How many fans each vertex has.
    pub count: Vec<u32>,
}

impl Fans {
    /// The lowest corner of the fan that a corner is in.
    pub fn root(&mut self, corner: usize) -> usize {
        self.sets.find(corner as u32) as usize
    }

    /// Whether a vertex has more than one fan.
    pub fn is_pinched(&self, vertex: VertexId) -> bool {
        self.count[vertex.index()] > 1
    }
}

/// Finds the fans of every vertex. Faces that repeat a vertex are left out.
pub fn fans(mesh: &Mesh, edges: &Edges) -> Fans {
    let mut sets = UnionFind::new(mesh.corners().len());
    for edge in edges.ids() {
        let sides = edges.sides(edge);
        for pair in sides.windows(2) {
            join_across(mesh, &mut sets, pair[0], pair[1]);
        }
    }
    counted(mesh, edges, sets)
}

/// Joins the corners of two sides of one edge, at both ends.
pub(crate) fn join_across(mesh: &Mesh, sets: &mut UnionFind, a: super::Side, b: super::Side) {
    let (a_from, a_to) = (a.corner(), mesh.next_corner(a.face, a.corner()));
    let (b_from, b_to) = (b.corner(), mesh.next_corner(b.face, b.corner()));
    if mesh.corners()[a_from] == mesh.corners()[b_from] {
        sets.join(a_from as u32, b_from as u32);
        sets.join(a_to as u32, b_to as u32);
    } else {
        sets.join(a_from as u32, b_to as u32);
        sets.join(a_to as u32, b_from as u32);
    }
}

/// Counts the sets round every vertex.
pub(crate) fn counted(mesh: &Mesh, edges: &Edges, mut sets: UnionFind) -> Fans {
    let mut count = vec![0u32; mesh.vertex_count()];
    for (corner, vertex) in mesh.corners().iter().enumerate() {
        if edges.at_corner(corner).is_some() && sets.find(corner as u32) as usize == corner {
            count[vertex.index()] += 1;
        }
    }
    Fans { sets, count }
}
