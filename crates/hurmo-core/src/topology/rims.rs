//! Rims: the closed chains that open edges form.
//!
//! Each open edge runs the way that a face on its other side would run it. From every vertex
//! the walk takes the open edge that goes on in that way, or, where faces lie the wrong way
//! round, any unused one. When it comes back to a vertex that it has passed, the loop between
//! is cut off as a rim of its own, so that two holes that touch at a vertex are two rims.
//! What is left when a walk ends without coming back (open edges that end at a non-manifold
//! edge) is kept as a broken chain: listed, but not a rim. Cost: O(open edges · log).

use super::Edges;
use crate::mesh::{EdgeId, Mesh, VertexId};
use rustc_hash::FxHashMap;

/// A chain of open edges.
#[derive(Clone, Debug, PartialEq)]
pub struct Rim {
    /// The edges, in the order of the chain.
    pub edges: Vec<EdgeId>,
    /// The vertices: edge `i` runs from vertex `i` to vertex `i + 1` (of a rim: round to 0).
    pub vertices: Vec<VertexId>,
    /// Sum of the edges' lengths.
    pub length: f64,
}

/// All rims of a mesh, by falling length.
#[derive(Clone, Debug, Default)]
pub struct Rims {
    /// Closed chains; the index is the [`crate::mesh::RimId`].
    pub closed: Vec<Rim>,
    /// Chains that don't close.
    pub broken: Vec<Rim>,
}

impl Rims {
    /// Finds the rims.
    pub fn of(mesh: &Mesh, edges: &Edges) -> Self {
        let open: Vec<Directed> = edges
            .ids()
            .filter(|&edge| edges.sides(edge).len() == 1)
            .map(|edge| {
                let side = edges.sides(edge)[0];
                let [low, high] = edges.ends(edge);
                let (from, to) = match side.runs_up() {
                    true => (high, low),
                    false => (low, high),
                };
                Directed { edge, from, to }
            })
            .collect();
        let mut walk = Walk::over(&open);
        let mut rims = Self::default();
        for start in 0..open.len() {
            if !walk.used[start] {
                walk.go(mesh, &open, start, &mut rims);
            }
        }
        rims.closed = joined_and_sorted(rims.closed);
        rims.broken = joined_and_sorted(rims.broken);
        rims
    }
}

struct Directed {
    edge: EdgeId,
    from: VertexId,
    to: VertexId,
}

/// For every vertex on an open edge, those edges that leave it and those that reach it.
struct Walk {
    at: FxHashMap<VertexId, Vec<(bool, u32)>>,
    used: Vec<bool>,
}

impl Walk {
    fn over(open: &[Directed]) -> Self {
        let mut at: FxHashMap<VertexId, Vec<(bool, u32)>> = FxHashMap::default();
        for (i, edge) in open.iter().enumerate() {
            at.entry(edge.from).or_default().push((true, i as u32));
            at.entry(edge.to).or_default().push((false, i as u32));
        }
        // Edges that leave stand last, to be taken first.
        for list in at.values_mut() {
            list.sort_unstable_by_key(|&(leaves, i)| (leaves, std::cmp::Reverse(i)));
        }
        Self {
            at,
            used: vec![false; open.len()],
        }
    }

    /// An unused open edge at a vertex, preferably one that leaves it.
    fn next_at(&mut self, vertex: VertexId) -> Option<u32> {
        let list = self.at.get_mut(&vertex)?;
        while let Some(&(_, i)) = list.last() {
            if !self.used[i as usize] {
                return Some(i);
            }
            list.pop();
        }
        None
    }

    fn go(&mut self, mesh: &Mesh, open: &[Directed], start: usize, rims: &mut Rims) {
        let mut vertices = vec![open[start].from];
        let mut edges: Vec<EdgeId> = Vec::new();
        let mut passed: FxHashMap<VertexId, usize> = FxHashMap::default();
        passed.insert(vertices[0], 0);
        let mut here = vertices[0];
        let mut next = Some(start as u32);
        while let Some(i) = next {
            self.used[i as usize] = true;
            let step = &open[i as usize];
            here = if step.from == here {
                step.to
            } else {
                step.from
            };
            edges.push(step.edge);
            if let Some(&since) = passed.get(&here) {
                let loop_vertices: Vec<_> = vertices.drain(since..).collect();
                for vertex in &loop_vertices {
                    passed.remove(vertex);
                }
                rims.closed
                    .push(rim(mesh, edges.drain(since..).collect(), loop_vertices));
            }
            passed.insert(here, vertices.len());
            vertices.push(here);
            next = self.next_at(here);
        }
        if !edges.is_empty() {
            rims.broken.push(rim(mesh, edges, vertices));
        }
    }
}

fn rim(mesh: &Mesh, edges: Vec<EdgeId>, vertices: Vec<VertexId>) -> Rim {
    let length = (0..edges.len())
        .map(|i| {
            let to = vertices[(i + 1) % vertices.len()];
            mesh.position(vertices[i]).distance(mesh.position(to))
        })
        .sum();
    Rim {
        edges,
        vertices,
        length,
    }
}

fn joined_and_sorted(mut rims: Vec<Rim>) -> Vec<Rim> {
    let mut keyed: Vec<(VertexId, Rim)> = rims
        .drain(..)
        .map(|rim| (rim.vertices.iter().copied().min().unwrap_or_default(), rim))
        .collect();
    keyed.sort_by(|(low_a, a), (low_b, b)| b.length.total_cmp(&a.length).then(low_a.cmp(low_b)));
    keyed.into_iter().map(|(_, rim)| rim).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::FaceId;
    use crate::shapes;

    fn without(mesh: &Mesh, gone: &[usize]) -> Mesh {
        let mut out = Mesh::from_parts(mesh.positions().to_vec(), vec![], vec![0]).unwrap();
        for (face, vertices) in mesh.faces() {
            if !gone.contains(&face.index()) {
                out.push_face(vertices.iter().copied());
            }
        }
        out
    }

    #[test]
    fn a_closed_box_has_no_rim_and_an_opened_one_has_one() {
        let closed = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
        assert!(Rims::of(&closed, &Edges::of(&closed)).closed.is_empty());
        let open = without(&closed, &[0]);
        let rims = Rims::of(&open, &Edges::of(&open));
        assert_eq!(rims.closed.len(), 1);
        assert_eq!(rims.closed[0].edges.len(), 4);
        assert!((rims.closed[0].length - 2.0).abs() < 1e-12);
    }

    #[test]
    fn holes_that_touch_at_a_vertex_are_two_rims() {
        let sheet = shapes::grid(4, 4, 4.0, 4.0);
        let open = without(&sheet, &[5, 10]);
        let shared = sheet
            .face(FaceId(5))
            .iter()
            .any(|v| sheet.face(FaceId(10)).contains(v));
        assert!(shared, "faces 5 and 10 touch at the middle");
        let rims = Rims::of(&open, &Edges::of(&open));
        let sizes: Vec<_> = rims.closed.iter().map(|r| r.edges.len()).collect();
        assert_eq!(sizes, [16, 4, 4]);
        assert!(rims.broken.is_empty());
    }

    use glam::DVec3;
}
