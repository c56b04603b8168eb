//! Lamina faces: faces on the same vertices.

use crate::audit::Level::Block;
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::mesh::{FaceId, Mesh, VertexId};
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
    let doubled = doubles(analysis.mesh);
    let goes = doubled.into_iter().map(|[double, _]| double);
    Ok(Found::faces(analysis, search.limit, goes))
}

/// The faces beyond the first on the same set of vertices, by rising index, each with that first.
/// Faces that repeat a vertex, or have fewer than three, are faces without area and nothing else.
///
/// Faces are put in buckets by their lowest vertex, and within a bucket sorted by a hash of
/// their vertices as a set; only where hashes meet are the sets themselves compared.
pub(crate) fn doubles(mesh: &Mesh) -> Vec<[FaceId; 2]> {
    let lowest = |face: &[VertexId]| face.iter().min().map_or(0, |v| v.index());
    let mut starts = vec![0u32; mesh.vertex_count() + 2];
    let faces = || mesh.faces().filter(|(face, _)| !mesh.is_collapsed(*face));
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
