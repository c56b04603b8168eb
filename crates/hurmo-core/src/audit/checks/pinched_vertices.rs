//! Pinched vertices: sheets that hang together at a point.

use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};

pub(super) const CHECK: Check = Check {
    name: "pinched-vertices",
    counts: "vertices whose faces form more than one fan",
    harm: "sheets that hang together at a point only: they tear when moved, smoothed or printed",
    remedy: Remedy::MendByName,
    drawing: r"
    *-----*
     \   /
      \ /
       o     two sheets, one vertex
      / \
     /   \
    *-----*",
    levels: Levels::new(Warn, Warn, Note, Warn),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let fans = &analysis.fans;
    let bad = analysis.mesh.vertex_ids().filter(|&v| fans.is_pinched(v));
    Ok(Found::vertices(analysis, search.limit, bad))
}
