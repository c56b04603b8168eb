//! Concave faces: polygons with a reflex corner.

use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, Needs, NotRun, Search, Survey};
use crate::measure::vector_area;
use crate::mesh::FaceId;
use glam::DVec3;

pub(super) const CHECK: Check = Check {
    name: "concave-faces",
    counts: "polygons of four or more sides with a corner that turns inward",
    harm: "another program may cut them across the outside: the face folds over itself",
    cure: "`hurmo mend --clear concave-faces`",
    drawing: r"
    *-----------*
     \    o    /     the corner o
      \  / \  /      points inward
       \/   \/
       *     *",
    levels: Levels::new(Note, Warn, Warn, Note),
    needs: Needs::Connectivity,
    find,
};

fn find(survey: &Survey<'_>, search: &Search) -> Result<Found, NotRun> {
    let bad = survey.mesh.faces().filter(|(face, corners)| {
        corners.len() >= 4 && !survey.has_no_area(*face) && is_concave(survey, *face)
    });
    Ok(Found::faces(survey, search.limit, bad.map(|(f, _)| f)))
}

/// Whether a corner turns against the polygon, by more than rounding could.
pub(crate) fn is_concave(survey: &Survey<'_>, face: FaceId) -> bool {
    let normal = vector_area(survey.mesh, face).normalize_or_zero();
    let points: Vec<DVec3> = survey.mesh.face_points(face).collect();
    let count = points.len();
    (0..count).any(|i| {
        let (before, here, after) = (points[i], points[(i + 1) % count], points[(i + 2) % count]);
        let (a, b) = (here - before, after - here);
        a.cross(b).dot(normal) < -1e-6 * a.length() * b.length()
    })
}
