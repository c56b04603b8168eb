//! Zero-area faces.

use crate::audit::Level::Block;
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::measure::vector_area;
use crate::mesh::{FaceId, Mesh};

pub(super) const CHECK: Check = Check {
    name: "zero-area-faces",
    counts: "faces that repeat a vertex, or of no more area than 1e-12 of the squared diagonal",
    harm: "no normal can be worked out: black spots, broken tangents, failing booleans",
    remedy: Remedy::Mend,
    drawing: r"
    *-----------*
     \         /
    a *---b---* c     a, b and c on one line:
     /         \      a face without area
    *-----------*",
    levels: Levels::new(Block, Block, Block, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let unusable = &analysis.model.unusable;
    let bad = analysis.mesh.face_ids();
    let bad = bad.filter(|&f| analysis.has_no_area(f) && !unusable.is_under(f));
    Ok(Found::faces(analysis, search.limit, bad))
}

/// Whether a face counts as having no area in a model of this diagonal.
pub(crate) fn is_zero_area(mesh: &Mesh, face: FaceId, diagonal: f64) -> bool {
    mesh.is_collapsed(face) || vector_area(mesh, face).length() <= least_area(diagonal)
}

/// The area up to which a face has none.
pub(crate) fn least_area(diagonal: f64) -> f64 {
    1e-12 * diagonal * diagonal
}
