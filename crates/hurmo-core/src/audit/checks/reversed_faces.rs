//! Reversed faces: what must turn.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};

pub(super) const CHECK: Check = Check {
    name: "reversed-faces",
    counts: "faces that must turn for every patch to be consistent and every closed one to face outward",
    harm: "seen from outside they vanish or shade black; a printer takes them for a hollow",
    cure: "`hurmo mend` turns them",
    levels: Levels {
        general: Level::Block,
        sculpt: Level::Block,
        engine: Level::Block,
        print: Level::Block,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let reversed = &survey.patches.reversed;
    let bad = survey.mesh.face_ids().filter(|f| reversed[f.index()]);
    Found::from_all(bad, limit, |f| Place::face(survey, f))
}
