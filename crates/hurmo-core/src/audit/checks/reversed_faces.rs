//! Reversed faces: what must turn.

use crate::audit::Level::Block;
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};

pub(super) const CHECK: Check = Check {
    name: "reversed-faces",
    counts: "faces that must turn for every patch to be consistent and every closed one to face outward; walls of hollows face inward",
    harm: "seen from outside they vanish or shade black; a printer takes them for a hollow",
    remedy: Remedy::Mend,
    drawing: r"
      ^     ^
    *---*-----*-----*
              |
              v   this face looks into the solid",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let reversed = &analysis.patches.reversed;
    let bad = analysis.mesh.face_ids().filter(|f| reversed[f.index()]);
    Ok(Found::faces(analysis, search.limit, bad))
}
