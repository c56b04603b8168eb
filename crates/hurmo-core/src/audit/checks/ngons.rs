//! N-gons: faces of five or more sides.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};

pub(super) const CHECK: Check = Check {
    name: "ngons",
    counts: "faces of five or more sides",
    harm: "each program cuts them its own way; they shade and subdivide unevenly",
    cure: "`hurmo mend --triangulate`",
    levels: Levels {
        general: Level::Note,
        sculpt: Level::Block,
        engine: Level::Warn,
        print: Level::Note,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let bad = survey.mesh.faces().filter(|(_, face)| face.len() >= 5);
    Found::from_all(bad, limit, |(f, _)| Place::face(survey, f))
}
