//! Misoriented edges: neighbours that face opposite ways.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};

pub(super) const CHECK: Check = Check {
    name: "misoriented-edges",
    counts: "edges whose two faces run them the same way",
    harm: "one of the two faces shows its back: dark shading, holes in engines, wrong solids in print",
    cure: "`hurmo mend` turns the fewest faces",
    levels: Levels {
        general: Level::Block,
        sculpt: Level::Block,
        engine: Level::Block,
        print: Level::Block,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let edges = &survey.edges;
    let bad = edges.ids().filter(|&e| edges.is_misoriented(e));
    Found::from_all(bad, limit, |e| Place::edge(survey, edges.ends(e)))
}
