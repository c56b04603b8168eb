//! Stray edges: line elements in no face.

use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::mesh::VertexId;

pub(super) const CHECK: Check = Check {
    name: "stray-edges",
    counts: "distinct edges of line elements that lie in no face",
    harm: "left over from drawing: they vanish or turn to needles in other programs, and no weld or fill gets rid of them",
    remedy: Remedy::MendByName,
    drawing: r"
    *-----*
    |     |=======o    an edge that
    |     |            borders no face
    *-----*",
    levels: Levels::new(Note, Warn, Warn, Warn),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let mut segments: Vec<[VertexId; 2]> = analysis
        .model
        .lines
        .iter()
        .flat_map(|line| {
            line.windows(2)
                .map(|pair| [pair[0].min(pair[1]), pair[0].max(pair[1])])
        })
        .filter(|[a, b]| analysis.edges.between(*a, *b).is_none())
        .collect();
    segments.sort_unstable();
    segments.dedup();
    Ok(Found::edges(analysis, search.limit, segments.into_iter()))
}
