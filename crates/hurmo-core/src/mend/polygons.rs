//! Concave and bent polygons, cut into quads and triangles; others stay as they are.

use super::{Cure, Step};
use crate::audit::{MeshAnalysis, is_bent, is_concave};
use crate::mesh::{FaceId, Model};
use crate::triangulate::{self, Pieces};

pub(super) const CONCAVE: Cure = Cure {
    clears: &["concave-faces"],
    safe: false,
    drops: false,
    apply: |model, _| Ok(cut(model, is_concave)),
};

pub(super) const NON_PLANAR: Cure = Cure {
    clears: &["non-planar-faces"],
    safe: false,
    drops: false,
    apply: |model, _| Ok(cut(model, is_bent)),
};

fn cut(model: &mut Model, bad: fn(&MeshAnalysis<'_>, FaceId) -> bool) -> Step {
    let analysis = MeshAnalysis::of(model);
    let is_bad: Vec<bool> = analysis
        .mesh
        .faces()
        .map(|(f, corners)| corners.len() >= 4 && !analysis.has_no_area(f) && bad(&analysis, f))
        .collect();
    let (cut, count) = triangulate::some(model, Pieces::Quads, |face| is_bad[face.index()]);
    if count > 0 {
        *model = cut;
    }
    Step::did("{polygon|polygons} cut up", count)
}
