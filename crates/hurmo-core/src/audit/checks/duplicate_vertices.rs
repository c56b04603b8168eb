//! Duplicate vertices: several at one place.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};

pub(super) const CHECK: Check = Check {
    name: "duplicate-vertices",
    counts: "vertices that a weld of equal positions would remove",
    harm: "the surface only looks joined: it splits when smoothed, sculpted or reduced",
    cure: "`hurmo mend` welds them",
    levels: Levels {
        general: Level::Warn,
        sculpt: Level::Warn,
        engine: Level::Block,
        print: Level::Warn,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let first = &survey.first_at_place;
    let bad = survey.mesh.vertex_ids().filter(|&v| first[v.index()] != v);
    Found::from_all(bad, limit, |v| Place::vertex(survey, v))
}
