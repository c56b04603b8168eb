//! Unusable vertices: with a coordinate that is no number, or one too large to reckon with.

use crate::audit::Level::Block;
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};

pub(super) const CHECK: Check = Check {
    name: "unusable-vertices",
    counts: "vertices with a coordinate that is no number, or beyond 1e100",
    harm: "faces on them are nowhere; programs refuse the file, or crash",
    remedy: Remedy::Mend,
    drawing: r"
    *-----*
    |     | ` .
    |     |     ` .      a corner at (nan, 2, 0)
    *-----* - - - - ?",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let bad = analysis.model.unusable.vertices.iter().copied();
    Ok(Found::vertices(analysis, search.limit, bad))
}
