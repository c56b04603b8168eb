//! Lamina faces: faces on the same vertices.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};
use crate::mesh::{FaceId, Mesh, VertexId};
use rayon::prelude::*;
use rustc_hash::FxHashMap;

pub(super) const CHECK: Check = Check {
    name: "lamina-faces",
    counts: "faces beyond the first on the same vertices",
    harm: "two skins in one place flicker, double the cost, and make every edge of theirs non-manifold",
    cure: "`hurmo mend` keeps the first",
    levels: Levels {
        general: Level::Block,
        sculpt: Level::Block,
        engine: Level::Block,
        print: Level::Block,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let doubled = doubles(survey.mesh);
    Found::from_all(doubled.into_iter(), limit, |f| Place::face(survey, f))
}

/// The faces beyond the first on the same set of vertices, by rising index.
///
/// Every face gets a key, the hash of its vertices as a sorted set; only where keys meet are
/// the sets themselves compared.
pub(crate) fn doubles(mesh: &Mesh) -> Vec<FaceId> {
    let mut scratch = Vec::new();
    let mut keyed: Vec<(u64, FaceId)> = mesh
        .faces()
        .map(|(face, vertices)| {
            sorted_set(vertices, &mut scratch);
            (key(&scratch), face)
        })
        .collect();
    keyed.par_sort_unstable();
    let mut doubled = Vec::new();
    for same_key in keyed
        .chunk_by(|a, b| a.0 == b.0)
        .filter(|run| run.len() > 1)
    {
        let mut first: FxHashMap<Vec<VertexId>, FaceId> = FxHashMap::default();
        for &(_, face) in same_key {
            sorted_set(mesh.face(face), &mut scratch);
            if *first.entry(scratch.clone()).or_insert(face) != face {
                doubled.push(face);
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

fn key(set: &[VertexId]) -> u64 {
    use std::hash::Hasher;
    let mut hasher = rustc_hash::FxHasher::default();
    set.iter().for_each(|vertex| hasher.write_u32(vertex.0));
    hasher.finish()
}
