//! Misoriented edges: neighbours that face opposite ways.

use crate::audit::Level::Block;
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};

pub(super) const CHECK: Check = Check {
    name: "misoriented-edges",
    counts: "edges whose two faces run them the same way",
    harm: "one of the two faces shows its back: dark shading, holes in engines, wrong solids in print",
    remedy: Remedy::Mend,
    drawing: r"
    *---->o---->*      front | back
    |     !     |      both faces run the
    |     v     |      middle edge downward
    *<----o<----*",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let edges = &analysis.edges;
    let bad = edges.ids().filter(|&e| edges.is_misoriented(e));
    let bad = bad.map(|e| edges.ends(e));
    Ok(Found::edges(analysis, search.limit, bad))
}
