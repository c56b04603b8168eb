//! Non-manifold edges: three or more faces on one edge.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};

pub(super) const CHECK: Check = Check {
    name: "nonmanifold-edges",
    counts: "edges in three or more face sides",
    harm: "no inside and outside there; subdivision, unwrapping and slicing fail",
    cure: "`hurmo mend` takes the sheets apart",
    levels: Levels {
        general: Level::Block,
        sculpt: Level::Block,
        engine: Level::Warn,
        print: Level::Block,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let edges = &survey.edges;
    let bad = edges.ids().filter(|&e| edges.sides(e).len() >= 3);
    Found::from_all(bad, limit, |e| Place::edge(survey, edges.ends(e)))
}
