//! Reversed faces: what must turn.

use crate::audit::Level::Block;
use crate::audit::{Check, Found, Levels, Needs, NotRun, Search, Survey};

pub(super) const CHECK: Check = Check {
    name: "reversed-faces",
    counts: "faces that must turn for every patch to be consistent and every closed one to face outward; walls of hollows face inward",
    harm: "seen from outside they vanish or shade black; a printer takes them for a hollow",
    cure: "`hurmo mend` turns them",
    drawing: r"
      ^     ^
    *---*-----*-----*
              |
              v   this face looks into the solid",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(survey: &Survey<'_>, search: &Search) -> Result<Found, NotRun> {
    let reversed = &survey.patches.reversed;
    let bad = survey.mesh.face_ids().filter(|f| reversed[f.index()]);
    Ok(Found::faces(survey, search.limit, bad))
}
