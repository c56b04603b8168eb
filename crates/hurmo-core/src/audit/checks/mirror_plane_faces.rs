//! Mirror-plane faces: buried once the model is mirrored.

use crate::audit::Level::Warn;
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::mesh::VertexId;

/// How far off the plane a vertex still lies in it, as a share of the diagonal.
const IN_PLANE: f64 = 1e-6;

pub(super) const CHECK: Check = Check {
    name: "mirror-plane-faces",
    counts: "where a mirror plane is given: faces that lie in it",
    harm: "once mirrored they are a wall inside, and the two halves never weld",
    remedy: Remedy::ByHand,
    drawing: r"
    *-------#.......*
    |       #       :    # lies in the plane: a wall
    |       #       :    inside once mirrored
    *-------#.......*",
    levels: Levels::new(Warn, Warn, Warn, Warn),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let in_plane = mirror_plane(analysis, search).ok_or(NotRun::NotAsked)?;
    let bad = analysis
        .mesh
        .faces()
        .filter(|(_, corners)| !corners.is_empty() && corners.iter().all(|&v| in_plane(v)));
    Ok(Found::faces(analysis, search.limit, bad.map(|(f, _)| f)))
}

/// Whether a vertex lies in the mirror plane; nothing when the model isn't mirrored.
pub(super) fn mirror_plane<'a>(
    analysis: &'a MeshAnalysis<'_>,
    search: &Search,
) -> Option<impl Fn(VertexId) -> bool + use<'a>> {
    let axis = search.mirror? as usize;
    let near = IN_PLANE * analysis.diagonal;
    Some(move |vertex| analysis.mesh.position(vertex)[axis].abs() <= near)
}
