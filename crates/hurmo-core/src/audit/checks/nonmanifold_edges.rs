//! Non-manifold edges: three or more faces on one edge.

use crate::audit::Level::{Block, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};

pub(super) const CHECK: Check = Check {
    name: "nonmanifold-edges",
    counts: "edges in three or more face sides",
    harm: "no inside and outside there; subdivision, unwrapping and slicing fail",
    remedy: Remedy::Mend,
    drawing: r"
         *-------*
         |       |
    *----o-------*
    |    !  third face stands on the
    |    !  edge that two share already
    *----o-------*",
    levels: Levels::new(Block, Block, Warn, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let edges = &analysis.edges;
    let bad = edges.ids().filter(|&e| edges.sides(e).len() >= 3);
    let bad = bad.map(|e| edges.ends(e));
    Ok(Found::edges(analysis, search.limit, bad))
}
