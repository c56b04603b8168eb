//! Zero-area faces: taken out without leaving a hole.
//!
//! ```text
//! repeats a vertex ─▶ the repetition goes; what has three corners left stays a face
//! polygon          ─▶ cut into triangles
//! triangle         ─▶ see `thin`
//! ```
//!
//! Ten rounds, and then as long as each leaves a hundredth fewer of such faces than any before:
//! a polygon that took a corner in may be cut up as it was. Each is linear in faces.

use super::thin::{Done, Thin, one_round};
use super::{Cure, MendError, Options, Step};
use crate::audit::is_zero_area;
use crate::mesh::{FaceId, Mesh, Model, Rebuild, VertexId, repeats_a_vertex};

pub(super) const CURE: Cure = Cure {
    clears: &["zero-area-faces"],
    safe: true,
    drops: false,
    apply,
};

/// A needle's short side is at most this share of its long one.
const NEEDLE: f64 = 1e-6;

/// So many rounds are made, however little they do.
const ROUNDS: usize = 10;

fn apply(model: &mut Model, _options: &Options) -> Result<Step, MendError> {
    let mut done = Done::default();
    let mut left = 0;
    let diagonal = diagonal(&model.mesh);
    let thin = Thin {
        is_bad: &|mesh, face| is_zero_area(mesh, face, diagonal),
        needle: NEEDLE,
        careful: false,
        names: [
            "{face|faces} without area dropped",
            "needle {face|faces} collapsed",
            "{face|faces} without area flipped into {its|their} neighbours",
        ],
    };
    let mut least = usize::MAX;
    for round in 0.. {
        unrepeat(model, &mut done);
        cut_polygons(model, &mut done);
        let bad = thin.bad(&model.mesh);
        if round >= ROUNDS && bad.len() >= least - least / 100 {
            left = bad.len();
            break;
        }
        least = least.min(bad.len());
        let changed;
        (changed, left) = one_round(model, &thin, &bad, &mut done);
        if !changed {
            break;
        }
    }
    let mut done: Vec<_> = done.into_iter().collect();
    done.sort_unstable();
    Ok(Step {
        done,
        left: (left > 0).then_some((
            left,
            "zero-area {face|faces} left: taking {it|them} out would join surfaces that are apart",
        )),
        ..Step::default()
    })
}

fn diagonal(mesh: &Mesh) -> f64 {
    crate::measure::bounds(mesh).map_or(0.0, |bounds| bounds.diagonal())
}

/// Takes repeated corners out of faces, and faces without three corners out of the model.
pub(super) fn unrepeat(model: &mut Model, done: &mut Done) {
    if !model.mesh.face_ids().any(|f| model.mesh.is_collapsed(f)) {
        return;
    }
    let (mut dropped, mut mended) = (0, 0);
    let mut rebuild = Rebuild::new(model);
    for face in model.mesh.face_ids() {
        if !model.mesh.is_collapsed(face) {
            rebuild.keep(face);
            continue;
        }
        let mut corners: Vec<usize> = model.mesh.face_range(face).collect();
        let vertex = |corner: usize| model.mesh.corners()[corner];
        corners.dedup_by_key(|corner| vertex(*corner));
        if corners.len() > 1 && vertex(corners[0]) == vertex(corners[corners.len() - 1]) {
            corners.pop();
        }
        let vertices: Vec<VertexId> = corners.iter().map(|&c| vertex(c)).collect();
        if repeats_a_vertex(&vertices) {
            dropped += 1;
        } else {
            mended += 1;
            rebuild.piece(face, corners.into_iter());
        }
    }
    *model = rebuild.finish();
    *done.entry("{face|faces} without area dropped").or_default() += dropped;
    *done
        .entry("repeated {corner|corners} taken out of faces")
        .or_default() += mended;
}

/// Cuts zero-area polygons into triangles, to be treated as such.
fn cut_polygons(model: &mut Model, done: &mut Done) {
    let diagonal = diagonal(&model.mesh);
    let affected =
        |face: FaceId| model.mesh.face(face).len() > 3 && is_zero_area(&model.mesh, face, diagonal);
    let count = model.mesh.face_ids().filter(|&f| affected(f)).count();
    if count == 0 {
        return;
    }
    let mut rebuild = Rebuild::new(model);
    for face in model.mesh.face_ids() {
        if !affected(face) {
            rebuild.keep(face);
            continue;
        }
        let points: Vec<_> = model.mesh.face_points(face).collect();
        let first = model.mesh.face_range(face).start;
        for triangle in crate::triangulate::polygon(&points) {
            rebuild.piece(face, triangle.into_iter().map(|i| first + i as usize));
        }
    }
    *model = rebuild.finish();
    *done
        .entry("{polygon|polygons} without area cut up")
        .or_default() += count;
}
