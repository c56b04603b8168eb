//! Lamina faces: faces on the same vertices.

use crate::audit::Level::Block;
use crate::audit::{Check, Found, Levels, Needs, NotRun, Search, Survey};
use crate::mesh::{EdgeId, FaceId, Mesh, VertexId};
use crate::topology::Edges;
use rayon::prelude::*;
use rustc_hash::FxHashMap;
use smallvec::SmallVec;

pub(super) const CHECK: Check = Check {
    name: "lamina-faces",
    counts: "faces beyond the first on the same vertices",
    harm: "two skins in one place flicker, double the cost, and make every edge of theirs non-manifold",
    cure: "`hurmo mend` keeps the first",
    drawing: r"
    *=======*
    !       !    two faces over the
    !       !    same four vertices
    *=======*",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(survey: &Survey<'_>, search: &Search) -> Result<Found, NotRun> {
    let doubled = match is_plain(survey) {
        true => doubled_triangles(survey.mesh, &survey.edges),
        false => doubles(survey.mesh),
    };
    let goes = doubled.into_iter().map(|[double, _]| double);
    Ok(Found::faces(survey, search.limit, goes))
}

/// Whether every face is a triangle of three vertices.
fn is_plain(survey: &Survey<'_>) -> bool {
    let corners = survey.mesh.corners().len();
    survey.mesh.is_all_triangles() && survey.edges.side_count() == corners
}

/// The same as [`doubles`] of nothing but triangles: two on the same vertices are on the same edge.
fn doubled_triangles(mesh: &Mesh, edges: &Edges) -> Vec<[FaceId; 2]> {
    let on_edge = |edge: EdgeId| {
        let [_, high] = edges.ends(edge);
        let sides = edges.sides(edge);
        // Each triangle at one of its edges only: that of its two lowest vertices.
        let third = |face: FaceId| mesh.face(face).iter().copied().max().filter(|&v| v > high);
        let thirds = sides.iter().map(move |side| (side.face, third(side.face)));
        let mut doubled: SmallVec<[[FaceId; 2]; 2]> = SmallVec::new();
        for (i, (face, own)) in thirds
            .clone()
            .enumerate()
            .filter(|(_, (_, own))| own.is_some())
        {
            let first = thirds.clone().take(i).find(|(_, other)| *other == own);
            doubled.extend(first.map(|(first, _)| [face, first]));
        }
        doubled
    };
    let all = (0..edges.len()).into_par_iter().with_min_len(4096);
    let mut doubled: Vec<[FaceId; 2]> = all.map(EdgeId::new).flat_map_iter(on_edge).collect();
    doubled.sort_unstable();
    doubled
}

/// The faces beyond the first on the same set of vertices, by rising index, each with that first.
///
/// Faces are put in buckets by their lowest vertex, and within a bucket sorted by a hash of
/// their vertices as a set; only where hashes meet are the sets themselves compared.
pub(crate) fn doubles(mesh: &Mesh) -> Vec<[FaceId; 2]> {
    let lowest = |face: &[VertexId]| face.iter().min().map_or(0, |v| v.index());
    let mut starts = vec![0u32; mesh.vertex_count() + 2];
    for (_, vertices) in mesh.faces() {
        starts[lowest(vertices) + 1] += 1;
    }
    for i in 1..starts.len() {
        starts[i] += starts[i - 1];
    }
    let mut keyed = vec![(0u32, FaceId(0)); mesh.face_count()];
    let mut next = starts.clone();
    let mut scratch = Vec::new();
    for (face, vertices) in mesh.faces() {
        let slot = &mut next[lowest(vertices)];
        sorted_set(vertices, &mut scratch);
        keyed[*slot as usize] = (key(&scratch), face);
        *slot += 1;
    }
    let mut doubled = Vec::new();
    for bucket in starts.windows(2) {
        let bucket = &mut keyed[bucket[0] as usize..bucket[1] as usize];
        if bucket.len() < 2 {
            continue;
        }
        bucket.sort_unstable();
        for same_key in bucket
            .chunk_by(|a, b| a.0 == b.0)
            .filter(|run| run.len() > 1)
        {
            let mut first: FxHashMap<Vec<VertexId>, FaceId> = FxHashMap::default();
            for &(_, face) in same_key {
                sorted_set(mesh.face(face), &mut scratch);
                let first = *first.entry(scratch.clone()).or_insert(face);
                if first != face {
                    doubled.push([face, first]);
                }
            }
        }
    }
    doubled.sort_unstable();
    doubled
}

fn sorted_set(vertices: &[VertexId], out: &mut Vec<VertexId>) {
    out.clear();
    out.extend_from_slice(vertices);
    out.sort_unstable();
    out.dedup();
}

fn key(set: &[VertexId]) -> u32 {
    use std::hash::Hasher;
    let mut hasher = rustc_hash::FxHasher::default();
    set.iter().for_each(|vertex| hasher.write_u32(vertex.0));
    let hash = hasher.finish();
    (hash ^ hash >> 32) as u32
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Both ways find the same among triangles, of which many are doubled, turned or not.
        #[test]
        fn doubled_triangles_are_those_on_the_same_vertices(
            triangles in prop::collection::vec([0u32..6, 0u32..6, 0u32..6], 0..40),
        ) {
            let mut mesh = crate::shapes::sphere(1.0, 1);
            mesh = Mesh::from_parts(mesh.positions().to_vec(), vec![], vec![0]).unwrap();
            for [a, b, c] in triangles {
                if a != b && b != c && c != a {
                    mesh.push_face([a, b, c].map(VertexId));
                }
            }
            let found = doubled_triangles(&mesh, &Edges::of(&mesh));
            prop_assert_eq!(found, doubles(&mesh));
        }
    }
}
