//! Open edges: the borders of holes and sheets.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};
use crate::mesh::RimId;

pub(super) const CHECK: Check = Check {
    name: "open-edges",
    counts: "edges in exactly one face side",
    harm: "a printer can't tell inside from outside; smoothing and booleans tear here",
    cure: "`hurmo fill`, or a weld when the rim is a seam",
    levels: Levels {
        general: Level::Warn,
        sculpt: Level::Block,
        engine: Level::Note,
        print: Level::Block,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let edges = &survey.edges;
    let count = edges.ids().filter(|&e| edges.sides(e).len() == 1).count();
    let rims = (0..survey.rims.closed.len()).map(RimId::new);
    Found {
        count,
        places: rims
            .take(limit)
            .map(|rim| Place::rim(survey, rim))
            .collect(),
    }
}
