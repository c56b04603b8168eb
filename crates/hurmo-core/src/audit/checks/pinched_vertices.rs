//! Pinched vertices: sheets that meet only at a point.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};

pub(super) const CHECK: Check = Check {
    name: "pinched-vertices",
    counts: "vertices whose faces form more than one fan",
    harm: "sheets that hang together at a point only: they tear when moved, smoothed or printed",
    cure: "`hurmo mend --clear pinched-vertices` gives each sheet its own vertex",
    levels: Levels {
        general: Level::Warn,
        sculpt: Level::Warn,
        engine: Level::Note,
        print: Level::Warn,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let fans = &survey.fans;
    let bad = survey.mesh.vertex_ids().filter(|&v| fans.is_pinched(v));
    Found::from_all(bad, limit, |v| Place::vertex(survey, v))
}
