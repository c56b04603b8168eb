//! How the triangles at a vertex hang together: by its link, the graph in which its neighbours are
//! joined by the sides of its triangles that lie across from it.
//!
//! Triangles on the same vertices count once: a face that is doubled changes nothing of how sheets
//! lie, and comes along.

use super::vertex_class::VertexClass;
use crate::topology::LinkedMesh;
use smallvec::SmallVec;

/// One end of a side of the link: an edge at the vertex, as a triangle there has it.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct LinkEnd {
    /// The edge's other end.
    pub other: u32,
    /// The triangle's third vertex.
    pub third: u32,
    /// Whether the triangle runs out along it.
    pub out: bool,
}

/// What the link of a vertex is.
#[derive(Clone, Copy, PartialEq, Debug)]
pub(super) enum Links {
    /// One ring: a closed fan.
    Ring,
    /// One path: an open fan.
    Path,
    /// Fans that all run from one edge to another, on both of which they meet.
    Book,
    /// Anything else.
    Other,
}

impl Links {
    /// Of the ends of its sides.
    pub fn of(mut ends: SmallVec<[LinkEnd; 16]>) -> Self {
        ends.sort_unstable();
        let edges = || ends.chunk_by(|a, b| a.other == b.other);
        let nodes: SmallVec<[u32; 16]> = edges().map(|edge| edge[0].other).collect();
        let mut sets: SmallVec<[u32; 16]> = (0..nodes.len() as u32).collect();
        let mut pieces = nodes.len();
        // How many sides end at nodes that just two sides don't run through.
        let mut lines: SmallVec<[usize; 4]> = SmallVec::new();
        for (node, edge) in edges().enumerate() {
            let thirds = distinct_thirds(edge);
            for third in &thirds {
                let Ok(there) = nodes.binary_search(third) else {
                    continue;
                };
                let (one, two) = (root(&mut sets, node as u32), root(&mut sets, there as u32));
                if one != two {
                    sets[one as usize] = two;
                    pieces -= 1;
                }
            }
            if thirds.len() != 2 || !runs_both_ways(edge) {
                lines.push(thirds.len());
            }
        }
        match (pieces, &lines[..]) {
            (1, []) => Self::Ring,
            (1, [1, 1]) => Self::Path,
            (1, [one, two]) if one == two => Self::Book,
            _ => Self::Other,
        }
    }

    /// Of a vertex of a linked mesh.
    pub fn at(linked: &LinkedMesh, vertex: u32) -> Self {
        let ends = linked.around(vertex).flat_map(|(_, [_, x, y])| {
            [(x, y, true), (y, x, false)].map(|(other, third, out)| LinkEnd { other, third, out })
        });
        Self::of(ends.collect())
    }

    /// What a vertex is with such a link, through which no line runs that anything else draws.
    pub fn kind(self) -> VertexClass {
        match self {
            Self::Ring => VertexClass::Inside,
            Self::Path => VertexClass::Border,
            Self::Book => VertexClass::Seam,
            Self::Other => VertexClass::Meeting,
        }
    }
}

fn root(sets: &mut [u32], mut node: u32) -> u32 {
    while sets[node as usize] != node {
        sets[node as usize] = sets[sets[node as usize] as usize];
        node = sets[node as usize];
    }
    node
}

/// What lies across an edge, each once.
pub(super) fn distinct_thirds(edge: &[LinkEnd]) -> SmallVec<[u32; 4]> {
    let mut thirds: SmallVec<[u32; 4]> = edge.iter().map(|end| end.third).collect();
    thirds.sort_unstable();
    thirds.dedup();
    thirds
}

/// Whether triangles run an edge both ways.
pub(super) fn runs_both_ways(edge: &[LinkEnd]) -> bool {
    edge.iter().any(|end| end.out) && edge.iter().any(|end| !end.out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::VertexId;
    use glam::DVec3;

    fn links(triangles: &[[u32; 3]]) -> Links {
        let triangles: Vec<_> = triangles.iter().map(|t| t.map(VertexId)).collect();
        Links::at(&LinkedMesh::new(vec![DVec3::ZERO; 12], &triangles), 0)
    }

    #[test]
    fn fans_are_told_from_what_meets_at_a_vertex() {
        let ring = [[0, 1, 2], [0, 2, 3], [0, 3, 1]];
        assert_eq!(links(&ring), Links::Ring);
        assert_eq!(links(&ring[..2]), Links::Path);
        // A doubled face, either way round, changes nothing.
        for double in [[0, 1, 2], [0, 2, 1]] {
            assert_eq!(links(&[&ring[..], &[double]].concat()), Links::Ring);
        }
        // Three sheets along a line that runs through.
        let pages = [4, 5, 6].map(|page| [[0, 1, page], [0, page, 2]]).concat();
        assert_eq!(links(&pages), Links::Book);
        // The line ends here; two fans touch.
        let ends = [[0, 1, 4], [0, 1, 5], [0, 1, 6]];
        assert_eq!(links(&ends), Links::Other);
        let two = [&ring[..], &[[0, 4, 5], [0, 5, 6], [0, 6, 4]]].concat();
        assert_eq!(links(&two), Links::Other);
        // Faces that disagree on which way they face meet along a line, too.
        assert_eq!(links(&[[0, 1, 2], [0, 3, 2], [0, 3, 1]]), Links::Book);
    }
}
