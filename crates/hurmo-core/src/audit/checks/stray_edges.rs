//! Stray edges: line elements in no face.

use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, Needs, NotRun, Search, Survey};
use crate::mesh::VertexId;

pub(super) const CHECK: Check = Check {
    name: "stray-edges",
    counts: "distinct edges of line elements that lie in no face",
    harm: "left over from drawing: they vanish or turn to needles in other programs, and no weld or fill gets rid of them",
    cure: "`hurmo mend --clear stray-edges` drops line elements",
    drawing: r"
    *-----*
    |     |=======o    an edge that
    |     |            borders no face
    *-----*",
    levels: Levels::new(Note, Warn, Warn, Warn),
    needs: Needs::Connectivity,
    find,
};

fn find(survey: &Survey<'_>, search: &Search) -> Result<Found, NotRun> {
    let mut segments: Vec<[VertexId; 2]> = survey
        .model
        .lines
        .iter()
        .flat_map(|line| {
            line.windows(2)
                .map(|pair| [pair[0].min(pair[1]), pair[0].max(pair[1])])
        })
        .filter(|[a, b]| survey.edges.between(*a, *b).is_none())
        .collect();
    segments.sort_unstable();
    segments.dedup();
    Ok(Found::edges(survey, search.limit, segments.into_iter()))
}
