//! Overhangs: what would print in mid-air.

use crate::audit::Level::{Note, Off};
use crate::audit::{Check, Elements, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::measure::vector_area;
use crate::mesh::FaceId;
use crate::units::Axis;

/// How far over the lowest point a face still rests on the bed, as a share of the diagonal.
const ON_BED: f64 = 1e-5;

pub(super) const CHECK: Check = Check {
    name: "overhangs",
    counts: "faces that look down more steeply than an angle (45° unless stated) from the build direction, and don't rest on the bed",
    harm: "printed in mid-air: they sag, or need supports that scar them",
    remedy: Remedy::ByHand,
    drawing: r"
    *-----------*
    |    ____   |
    |   |  ^ overhang
    |   |
    *---*         bed
    =====",
    levels: Levels::new(Off, Off, Off, Note),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let up = search.brief.handoff.up.or(analysis.model.up);
    let up = up.unwrap_or(Axis::Z).unit_vector();
    let steepest = search.brief.thresholds.overhang_angle.to_radians().sin();
    let mesh = analysis.mesh;
    let Some(bounds) = &analysis.bounds else {
        return Ok(Found::default());
    };
    let bed = bounds.min.dot(up) + ON_BED * analysis.diagonal;
    let bad: Vec<FaceId> = mesh
        .face_ids()
        .filter(|&face| {
            let area = analysis.areas[face.index()];
            if analysis.has_no_area(face) {
                return false;
            }
            let turned = if analysis.patches.reversed[face.index()] {
                -1.0
            } else {
                1.0
            };
            let rise = turned * vector_area(mesh, face).dot(up) / area;
            rise < -steepest - 1e-9 && mesh.face_points(face).any(|p| p.dot(up) > bed)
        })
        .collect();
    let area: f64 = bad.iter().map(|f| analysis.areas[f.index()]).sum();
    let mut found = Found::faces(analysis, search.limit, bad.into_iter());
    for place in &mut found.places {
        if let Elements::Faces(faces) = &place.elements {
            place.value = Some(faces.iter().map(|f| analysis.areas[f.index()]).sum());
        }
    }
    Ok(found.measured("square units face down", area))
}
