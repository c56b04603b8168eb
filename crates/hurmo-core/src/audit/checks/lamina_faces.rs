//! Lamina faces: faces on the same vertices.

use crate::audit::Level::Block;
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::parallel::chosen;
use crate::topology::{Edges, Side};
use rustc_hash::FxHashMap;

pub(super) const CHECK: Check = Check {
    name: "lamina-faces",
    counts: "faces beyond the first on the same vertices",
    harm: "two skins in one place flicker, double the cost, and make every edge of theirs non-manifold",
    remedy: Remedy::Mend,
    drawing: r"
    *=======*
    !       !    two faces over the
    !       !    same four vertices
    *=======*",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let doubled = doubles_by_edges(analysis.mesh, &analysis.edges);
    let goes = doubled.into_iter().map(|[double, _]| double);
    Ok(Found::faces(analysis, search.limit, goes))
}

/// The faces beyond the first on the same set of vertices, by rising index, each with that first.
/// Faces that repeat a vertex, or have fewer than three, are faces without area and nothing else.
pub(crate) fn doubles(mesh: &Mesh) -> Vec<[FaceId; 2]> {
    let faces: Vec<FaceId> = mesh.face_ids().collect();
    doubles_among(mesh, &faces)
}

/// The same by the edges of the mesh: two faces on the same three or four vertices share one.
fn doubles_by_edges(mesh: &Mesh, edges: &Edges) -> Vec<[FaceId; 2]> {
    let has_twin = |face: FaceId| {
        let vertices = mesh.face(face);
        let is_twin = |side: &Side| {
            let other = mesh.face(side.face);
            side.face != face
                && other.len() == vertices.len()
                && other.iter().all(|v| vertices.contains(v))
        };
        // Triangles have all edges in common.
        let corners = match vertices.len() {
            3 => mesh.face_range(face).take(1),
            count => mesh.face_range(face).take(count),
        };
        let mut edges_of = corners.filter_map(|corner| edges.at_corner(corner));
        vertices.len() > 4 || edges_of.any(|edge| edges.sides(edge).iter().any(is_twin))
    };
    let faces = chosen(mesh.face_count(), 4096, |face| {
        Some(FaceId::new(face)).filter(|face| has_twin(*face))
    });
    match faces.is_empty() {
        true => Vec::new(),
        false => doubles_among(mesh, &faces),
    }
}

/// The same of some faces, in rising order. They are put in buckets by their lowest vertex, and within a bucket
/// sorted by a hash of their vertices as a set; only where hashes meet are the sets themselves compared.
fn doubles_among(mesh: &Mesh, faces: &[FaceId]) -> Vec<[FaceId; 2]> {
    let lowest = |face: &[VertexId]| face.iter().min().map_or(0, |v| v.index());
    let mut starts = vec![0u32; mesh.vertex_count() + 2];
    let faces = || {
        let faces = faces.iter().filter(|face| !mesh.is_collapsed(**face));
        faces.map(|&face| (face, mesh.face(face)))
    };
    for (_, vertices) in faces() {
        starts[lowest(vertices) + 1] += 1;
    }
    for i in 1..starts.len() {
        starts[i] += starts[i - 1];
    }
    let mut keyed = vec![(0u32, FaceId(0)); starts[starts.len() - 1] as usize];
    let mut next = starts.clone();
    let mut scratch = Vec::new();
    for (face, vertices) in faces() {
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
        #![proptest_config(ProptestConfig::with_cases(256))]

        /// Faces of three to six corners over few vertices, so that many have the same.
        #[test]
        fn edges_tell_the_same_doubles(
            faces in prop::collection::vec(prop::collection::vec(0u32..7, 3..7), 1..40)
        ) {
            let mut mesh = Mesh::default();
            (0..7).for_each(|i| {
                mesh.push_vertex(glam::DVec3::new(f64::from(i), f64::from(i * i), 0.0));
            });
            for face in &faces {
                mesh.push_face(face.iter().copied().map(VertexId));
            }
            let edges = Edges::of(&mesh);
            prop_assert_eq!(doubles_by_edges(&mesh, &edges), doubles(&mesh));
        }
    }
}
