//! Stray vertices: in no face.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};

pub(super) const CHECK: Check = Check {
    name: "stray-vertices",
    counts: "vertices in no face",
    harm: "they enlarge bounds and files, and confuse centring and snapping",
    cure: "`hurmo mend` drops them",
    levels: Levels {
        general: Level::Note,
        sculpt: Level::Warn,
        engine: Level::Block,
        print: Level::Warn,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let used = survey.mesh.used_vertices();
    let bad = survey.mesh.vertex_ids().filter(|v| !used[v.index()]);
    Found::from_all(bad, limit, |v| Place::vertex(survey, v))
}
