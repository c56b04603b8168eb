//! Mirror-plane faces: buried once the model is mirrored.

use crate::audit::Level::Warn;
use crate::audit::{Check, Found, Levels, Needs, NotRun, Search, Survey};
use crate::mesh::VertexId;

/// How far off the plane a vertex still lies in it, as a share of the diagonal.
const IN_PLANE: f64 = 1e-6;

pub(super) const CHECK: Check = Check {
    name: "mirror-plane-faces",
    counts: "with `--mirror`: faces that lie in the mirror plane",
    harm: "once mirrored they are a wall inside, and the two halves never weld",
    cure: "deleting them before mirroring",
    drawing: r"
    *-------#.......*
    |       #       :    # lies in the plane: a wall
    |       #       :    inside once mirrored
    *-------#.......*",
    levels: Levels::new(Warn, Warn, Warn, Warn),
    needs: Needs::Connectivity,
    find,
};

fn find(survey: &Survey<'_>, search: &Search) -> Result<Found, NotRun> {
    let in_plane = mirror_plane(survey, search).ok_or(NotRun::NotAsked)?;
    let bad = survey
        .mesh
        .faces()
        .filter(|(_, corners)| !corners.is_empty() && corners.iter().all(|&v| in_plane(v)));
    Ok(Found::faces(survey, search.limit, bad.map(|(f, _)| f)))
}

/// Whether a vertex lies in the mirror plane; nothing when the model isn't mirrored.
pub(super) fn mirror_plane<'a>(
    survey: &'a Survey<'_>,
    search: &Search,
) -> Option<impl Fn(VertexId) -> bool + use<'a>> {
    let axis = search.mirror? as usize;
    let near = IN_PLANE * survey.diagonal;
    Some(move |vertex| survey.mesh.position(vertex)[axis].abs() <= near)
}
