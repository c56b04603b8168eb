//! Non-planar faces: polygons that are not flat.

use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::geometry::off_plane;
use crate::mesh::FaceId;

/// How far off its plane a corner may be, as a share of the longest edge.
const BENT: f64 = 0.01;

pub(super) const CHECK: Check = Check {
    name: "non-planar-faces",
    counts: "polygons with a corner further off their best plane than 1% of their longest edge",
    harm: "each program cuts them another way: the surface changes with the program, and shading breaks along the cut",
    remedy: Remedy::MendByName,
    drawing: r"
    *-------*
    |       |      three corners in a plane,
    |    .--o      the fourth lifted out of it
    *---'   ",
    levels: Levels::new(Note, Note, Warn, Note),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let bad = analysis.mesh.faces().filter(|(face, corners)| {
        corners.len() >= 4 && !analysis.has_no_area(*face) && is_bent(analysis, *face)
    });
    Ok(Found::faces(analysis, search.limit, bad.map(|(f, _)| f)))
}

pub(crate) fn is_bent(analysis: &MeshAnalysis<'_>, face: FaceId) -> bool {
    off_plane(analysis.mesh.face_points(face)) > BENT
}
