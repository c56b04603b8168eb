//! Edges between vertices at one place, collapsed where that leaves the surface as it is.

use super::{Along, LinkedMesh, Marks, may_collapse};
use crate::mesh::{Mesh, VertexId};

/// Collapses edges without length that the link condition allows, but for those with an end that is held. By
/// vertex, the one that it became; `None` if nothing was collapsed.
pub(crate) fn collapse_zero_length(
    linked: &mut LinkedMesh,
    is_held: impl Fn(u32) -> bool,
) -> Option<Vec<u32>> {
    let sides = (0..linked.places() as u32).filter_map(|t| linked.triangle(t));
    let sides = sides.flat_map(|[a, b, c]| [[a, b], [b, c], [c, a]]);
    let free = |&[a, b]: &[u32; 2]| !is_held(a) && !is_held(b);
    let at = |v: u32| linked.positions[v as usize];
    let pairs = sides.filter(|&[a, b]| a < b && at(a) == at(b)).filter(free);
    let pairs: Vec<[u32; 2]> = pairs.collect();
    collapse(linked, pairs)
}

/// The same for the faces of a mesh, which stays as it is.
pub(crate) fn joined_along_zero_length(mesh: &Mesh) -> Option<Vec<VertexId>> {
    let place = |v: VertexId| mesh.position(v);
    let sides = |face: &[VertexId]| {
        let next = face.iter().cycle().skip(1);
        let both = face.iter().zip(next);
        both.filter(|(a, b)| place(**a) == place(**b) && a != b)
            .map(|(a, b)| [a.0.min(b.0), a.0.max(b.0)])
            .collect::<Vec<_>>()
    };
    let mut pairs: Vec<[u32; 2]> = mesh.faces().flat_map(|(_, face)| sides(face)).collect();
    if pairs.is_empty() {
        return None;
    }
    pairs.sort_unstable();
    pairs.dedup();
    let fan = |face: &[VertexId]| {
        let pairs = face.windows(2).skip(1).map(|pair| [pair[0], pair[1]]);
        let first = face.first().copied();
        let triangles = pairs.filter_map(|[b, c]| Some([first?, b, c]));
        triangles.collect::<Vec<_>>()
    };
    let fans: Vec<[VertexId; 3]> = mesh.faces().flat_map(|(_, face)| fan(face)).collect();
    let mut linked = LinkedMesh::new(mesh.positions().to_vec(), &fans);
    let joined = collapse(&mut linked, pairs)?;
    Some(joined.into_iter().map(VertexId).collect())
}

/// Collapses these edges, again and again, as one may allow another. Of those that become one, the lowest stays.
fn collapse(linked: &mut LinkedMesh, mut pairs: Vec<[u32; 2]>) -> Option<Vec<u32>> {
    let mut marks = Marks::new(linked.positions.len());
    let mut joined: Vec<u32> = (0..linked.positions.len() as u32).collect();
    let begin = pairs.len();
    loop {
        let before = pairs.len();
        pairs.retain(|pair| {
            let [a, b] = pair.map(|v| last(&joined, v));
            let [keep, gone] = [a.min(b), a.max(b)];
            if keep != gone {
                if !is_spare(linked, &mut marks, keep, gone) {
                    return true;
                }
                linked.collapse(keep, gone);
                joined[gone as usize] = keep;
            }
            false
        });
        if pairs.len() == before {
            break;
        }
    }
    let all = 0..linked.positions.len() as u32;
    (pairs.len() < begin).then(|| all.map(|v| last(&joined, v)).collect())
}

/// What a vertex became in the end.
fn last(joined: &[u32], mut vertex: u32) -> u32 {
    while joined[vertex as usize] != vertex {
        vertex = joined[vertex as usize];
    }
    vertex
}

/// Whether an edge may go: inside a surface, or along its rim.
fn is_spare(linked: &LinkedMesh, marks: &mut Marks, keep: u32, gone: u32) -> bool {
    let along = match linked.on_edge(keep, gone).count() {
        1 => Along::Border,
        2 if [keep, gone].iter().all(|&v| is_on_rim(linked, v)) => return false,
        _ => Along::Sheet,
    };
    may_collapse(linked, marks, keep, gone, along)
}

fn is_on_rim(linked: &LinkedMesh, vertex: u32) -> bool {
    let mut beside = linked
        .around(vertex)
        .flat_map(|(_, [_, next, previous])| [next, previous]);
    beside.any(|other| linked.on_edge(vertex, other).nth(1).is_none())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;
    use crate::topology::{Edges, Parts};
    use glam::DVec3;
    use proptest::prelude::*;

    /// Positions rounded to a lattice, as a file with few digits has them.
    fn rounded(mesh: &Mesh, step: f64) -> Mesh {
        let positions = mesh.positions().iter();
        let positions: Vec<DVec3> = positions.map(|p| (*p / step).round() * step).collect();
        Mesh::from_parts(positions, mesh.corners().to_vec(), mesh.starts().to_vec()).unwrap()
    }

    /// With joined vertices, without what that leaves of faces.
    fn joined(mesh: &Mesh, to: &[VertexId]) -> Mesh {
        let mut out = Mesh::from_parts(mesh.positions().to_vec(), vec![], vec![0]).unwrap();
        for (_, face) in mesh.faces() {
            let mut corners: Vec<VertexId> = face.iter().map(|v| to[v.index()]).collect();
            corners.dedup();
            while corners.len() > 1 && corners.first() == corners.last() {
                corners.pop();
            }
            if corners.len() > 2 {
                out.push_face(corners);
            }
        }
        out
    }

    proptest! {
        /// Whatever lies at one place: a closed surface stays one, of the same parts and genus, no vertex moves,
        /// and of a wavy surface nothing is left that could be joined.
        #[test]
        fn closed_stays_closed_and_of_the_same_kind(step in 0.001..0.4f64, ring in any::<bool>()) {
            let whole = match ring {
                true => shapes::torus(1.0, 0.4, 48, 24),
                false => shapes::sphere(1.0, 4),
            };
            let coarse = rounded(&whole, step);
            let Some(to) = joined_along_zero_length(&coarse) else {
                return Ok(());
            };
            prop_assert!((0..to.len()).all(|v| coarse.position(to[v]) == coarse.positions()[v]));
            let after = joined(&coarse, &to);
            let edges = Edges::of(&after);
            prop_assert!(edges.ids().all(|edge| edges.sides(edge).len() == 2));
            let mut used: Vec<VertexId> = after.corners().to_vec();
            used.sort_unstable();
            used.dedup();
            let euler = used.len() as i64 - edges.ids().count() as i64 + after.face_count() as i64;
            prop_assert_eq!(euler, if ring { 0 } else { 2 });
            prop_assert_eq!(Parts::of(&after).len(), 1);
        }
    }

    #[test]
    fn a_rim_and_a_polygon_lose_a_side_and_a_bridge_stays() {
        // A strip of two squares, of which the middle edge is a point; then one whose outer edge is.
        let at = |x: f64, y: f64| DVec3::new(x, y, 0.0);
        let [a, b, c] = [at(0.0, 0.0), at(1.0, 0.0), at(2.0, 0.0)];
        let [d, e] = [at(0.0, 1.0), at(2.0, 1.0)];
        let square = |positions: Vec<DVec3>| {
            let corners = [0, 1, 4, 3, 1, 2, 5, 4].map(VertexId).to_vec();
            Mesh::from_parts(positions, corners, vec![0, 4, 8]).unwrap()
        };
        let bridge = square(vec![a, b, c, d, b, e]);
        assert!(joined_along_zero_length(&bridge).is_none());
        let outer = square(vec![a, b, e, d, at(1.0, 1.0), e]);
        let to = joined_along_zero_length(&outer).unwrap();
        assert_eq!(to[5], VertexId(2));
        assert_eq!(joined(&outer, &to).corners().len(), 7);
    }
}
