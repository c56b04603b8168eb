//! Stray vertices: in no face.

use crate::audit::Level::{Block, Note, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};

pub(super) const CHECK: Check = Check {
    name: "stray-vertices",
    counts: "vertices in no face",
    harm: "they enlarge bounds and files, and confuse centring and snapping",
    remedy: Remedy::Mend,
    drawing: r"
    *-----*
    |     |        o    a vertex that
    |     |             no face uses
    *-----*",
    levels: Levels::new(Note, Warn, Block, Warn),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let used = analysis.mesh.used_vertices();
    let unusable = &analysis.model.unusable;
    let bad = analysis.mesh.vertex_ids();
    let bad = bad.filter(|&v| !used[v.index()] && !unusable.has(v));
    Ok(Found::vertices(analysis, search.limit, bad))
}
