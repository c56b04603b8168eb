//! Zero-area faces.

use crate::audit::{Check, Found, Level, Levels, Place, Survey};
use crate::measure::vector_area;
use crate::mesh::{FaceId, Mesh};

pub(super) const CHECK: Check = Check {
    name: "zero-area-faces",
    counts: "faces that repeat a vertex, or of no more area than 1e-12 of the squared diagonal",
    harm: "no normal can be worked out: black spots, broken tangents, failing booleans",
    cure: "`hurmo mend` collapses or flips them away",
    levels: Levels {
        general: Level::Block,
        sculpt: Level::Block,
        engine: Level::Block,
        print: Level::Block,
    },
    find,
};

fn find(survey: &Survey<'_>, limit: usize) -> Found {
    let bad = survey.mesh.face_ids().filter(|&f| {
        survey.areas[f.index()] <= limit_of(survey.diagonal) || survey.mesh.is_collapsed(f)
    });
    Found::from_all(bad, limit, |f| Place::face(survey, f))
}

/// Whether a face counts as having no area in a model of this diagonal.
pub(crate) fn is_zero_area(mesh: &Mesh, face: FaceId, diagonal: f64) -> bool {
    mesh.is_collapsed(face) || vector_area(mesh, face).length() <= limit_of(diagonal)
}

/// The area up to which a face has none.
fn limit_of(diagonal: f64) -> f64 {
    1e-12 * diagonal * diagonal
}
