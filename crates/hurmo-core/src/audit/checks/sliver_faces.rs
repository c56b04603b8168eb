//! Sliver faces: needles and caps.

use super::zero_area_faces::{is_zero_area, least_area};
use crate::audit::Level::{Note, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::mesh::{FaceId, Mesh};
use crate::parallel::chosen;
use glam::DVec3;

pub(super) const CHECK: Check = Check {
    name: "sliver-faces",
    counts: "triangles (polygons fan-split) whose longest edge is over 50 times the height on it",
    harm: "normals there are noise: dark streaks, bad simulation, failing booleans",
    remedy: Remedy::MendByName,
    drawing: r"
    *---------------------------*
      `---.                .---'     a hundred times
           `-----------*--'          as long as high",
    levels: Levels::new(Note, Warn, Note, Note),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let ratio = search.brief.thresholds.sliver_ratio;
    let bad: Vec<FaceId> = chosen(analysis.mesh.face_count(), 1, |i| {
        let face = FaceId::new(i);
        is_sliver(analysis.mesh, face, analysis.diagonal, ratio).then_some(face)
    });
    Ok(Found::faces(analysis, search.limit, bad.into_iter()))
}

/// Whether one of a face's triangles is that many times as long as high.
pub(crate) fn is_sliver(mesh: &Mesh, face: FaceId, diagonal: f64, ratio: f64) -> bool {
    let least = least_area(diagonal);
    let mut points = mesh.face_points(face);
    let (Some(first), Some(mut last)) = (points.next(), points.next()) else {
        return false;
    };
    points.any(|point| {
        let triangle = [first, std::mem::replace(&mut last, point), point];
        flatness(triangle, least) > ratio
    }) && !is_zero_area(mesh, face, diagonal)
}

/// How many times its height the longest edge is; 0 of a triangle of hardly any area.
fn flatness([a, b, c]: [DVec3; 3], least_area: f64) -> f64 {
    let twice = (b - a).cross(c - a).length();
    let longest = a
        .distance_squared(b)
        .max(b.distance_squared(c))
        .max(c.distance_squared(a));
    if twice > 2.0 * least_area {
        longest / twice
    } else {
        0.0
    }
}
