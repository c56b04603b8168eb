//! Non-planar faces: polygons that are not flat.

use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, Needs, NotRun, Search, Survey};
use crate::measure::vector_area;
use crate::mesh::FaceId;

/// How far off its plane a corner may be, as a share of the longest edge.
const BENT: f64 = 0.01;

pub(super) const CHECK: Check = Check {
    name: "non-planar-faces",
    counts: "polygons with a corner further off their best plane than 1% of their longest edge",
    harm: "each program cuts them another way: the surface changes with the program, and shading breaks along the cut",
    cure: "`hurmo mend --clear non-planar-faces`",
    drawing: r"
    *-------*
    |       |      three corners in a plane,
    |    .--o      the fourth lifted out of it
    *---'   ",
    levels: Levels::new(Note, Note, Warn, Note),
    needs: Needs::Connectivity,
    find,
};

fn find(survey: &Survey<'_>, search: &Search) -> Result<Found, NotRun> {
    let bad = survey.mesh.faces().filter(|(face, corners)| {
        corners.len() >= 4 && !survey.has_no_area(*face) && is_bent(survey, *face)
    });
    Ok(Found::faces(survey, search.limit, bad.map(|(f, _)| f)))
}

/// The best plane is taken across the polygon's vector area, halfway between the corners that
/// lie furthest off on either side.
pub(crate) fn is_bent(survey: &Survey<'_>, face: FaceId) -> bool {
    let normal = vector_area(survey.mesh, face).normalize_or_zero();
    let mut points = survey.mesh.face_points(face);
    let Some(first) = points.next() else {
        return false;
    };
    let (mut low, mut high, mut longest, mut last) = (0.0f64, 0.0f64, 0.0f64, first);
    for point in points.chain([first]) {
        let off = (point - first).dot(normal);
        (low, high) = (low.min(off), high.max(off));
        longest = longest.max(last.distance(point));
        last = point;
    }
    (high - low) / 2.0 > BENT * longest
}
