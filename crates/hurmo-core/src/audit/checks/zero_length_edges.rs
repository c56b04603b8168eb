//! Zero-length edges.

use crate::audit::Level::Warn;
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};

pub(super) const CHECK: Check = Check {
    name: "zero-length-edges",
    counts: "distinct edges whose two ends are at one place",
    harm: "bevels, subdivision and unwrapping divide by the length: spikes, black spots, stretched textures",
    remedy: Remedy::Mend,
    drawing: r"
    *-------*
    |       |
    |      a=b    two vertices at one place,
    |       |     and an edge between them
    *-------*",
    levels: Levels::new(Warn, Warn, Warn, Warn),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let at = |v| analysis.mesh.position(v);
    let ends = analysis.edges.ids().map(|e| analysis.edges.ends(e));
    let bad = ends.filter(|&[a, b]| at(a) == at(b));
    Ok(Found::edges(analysis, search.limit, bad))
}
