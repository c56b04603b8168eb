//! Stray vertices: in no face.

use crate::audit::Level::{Block, Note, Warn};
use crate::audit::{Check, Found, Levels, Needs, NotRun, Search, Survey};

pub(super) const CHECK: Check = Check {
    name: "stray-vertices",
    counts: "vertices in no face",
    harm: "they enlarge bounds and files, and confuse centring and snapping",
    cure: "`hurmo mend` drops them",
    drawing: r"
    *-----*
    |     |        o    a vertex that
    |     |             no face uses
    *-----*",
    levels: Levels::new(Note, Warn, Block, Warn),
    needs: Needs::Connectivity,
    find,
};

fn find(survey: &Survey<'_>, search: &Search) -> Result<Found, NotRun> {
    let used = survey.mesh.used_vertices();
    let unusable = &survey.model.unusable;
    let bad = survey.mesh.vertex_ids();
    let bad = bad.filter(|&v| !used[v.index()] && !unusable.has(v));
    Ok(Found::vertices(survey, search.limit, bad))
}
