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

use super::thin_triangles::{Done, Thin, one_round};
use super::{Cure, MendError, MendOptions, Step};
use crate::audit::{is_zero_area, least_area};
use crate::mesh::{FaceId, Mesh, Model, Rebuild, VertexId, repeats_a_vertex};
use crate::parallel::{any, counted};

pub(super) const CURE: Cure = Cure {
    clears: &["zero-area-faces"],
    safe: true,
    drops: false,
    apply,
};

/// A needle's short side is at most this share of its long one.
const NEEDLE: f64 = 1e-6;

/// This many rounds are made, however little they do.
const ROUNDS: usize = 10;

fn apply(model: &mut Model, _options: &MendOptions) -> Result<Step, MendError> {
    let mut done = Done::default();
    let mut left = 0;
    let diagonal = diagonal(&model.mesh);
    let thin = Thin {
        is_bad: &|mesh, face| is_zero_area(mesh, face, diagonal),
        needle: NEEDLE,
        careful: false,
        tiny: least_area(diagonal).sqrt(),
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

pub(super) fn diagonal(mesh: &Mesh) -> f64 {
    crate::measure::bounds(mesh).map_or(0.0, |bounds| bounds.diagonal())
}

/// Takes repeated corners out of faces, and faces without three corners out of the model.
pub(super) fn unrepeat(model: &mut Model, done: &mut Done) {
    let mesh = &model.mesh;
    let is_collapsed = |face: usize| mesh.is_collapsed(FaceId::new(face));
    if !any(mesh.face_count(), 4096, is_collapsed) {
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
    let count = counted(model.mesh.face_count(), 4096, |face| {
        usize::from(affected(FaceId::new(face)))
    });
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::mend::{MendOptions, mend};
    use crate::shapes;
    use glam::DVec3;
    use proptest::prelude::*;

    /// A cube with a triangle of some millionths of its size in a face, and points put into that or its
    /// pieces: which piece, and where in it, by barycentric coordinates.
    fn cluster(points: &[(usize, [f64; 3])]) -> Mesh {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
        let mut positions = cube.positions().to_vec();
        let mut triangles: Vec<[usize; 3]> = Vec::new();
        for (_, face) in cube.faces() {
            let corners: Vec<usize> = face.iter().map(|v| v.index()).collect();
            for i in 1..corners.len() - 1 {
                triangles.push([corners[0], corners[i], corners[i + 1]]);
            }
        }
        // A small triangle round a place, and the first one there in three.
        let middle: DVec3 = triangles[0].iter().map(|&v| positions[v]).sum::<DVec3>() / 3.0;
        let [a, b, c] = triangles[0];
        let small = [a, b, c].map(|v| {
            positions.push(middle + (positions[v] - middle).normalize() * 2e-6);
            positions.len() - 1
        });
        let [p, q, r] = small;
        triangles[0] = small;
        triangles.extend([
            [a, b, q],
            [a, q, p],
            [b, c, r],
            [b, r, q],
            [c, a, p],
            [c, p, r],
        ]);
        let mut near = vec![0];
        for &(which, shares) in points {
            let chosen = near[which % near.len()];
            let [a, b, c] = triangles[chosen];
            let sum: f64 = shares.iter().sum();
            let corners = [a, b, c].map(|v| positions[v]);
            let mixed = (0..3).map(|i| corners[i] * (shares[i] / sum)).sum();
            positions.push(mixed);
            let new = positions.len() - 1;
            triangles[chosen] = [a, b, new];
            near.extend([triangles.len(), triangles.len() + 1]);
            triangles.extend([[b, c, new], [c, a, new]]);
        }
        let triangles: Vec<_> = triangles.iter().map(|t| t.map(VertexId::new)).collect();
        Mesh::from_triangles(positions, &triangles).unwrap()
    }

    proptest! {
        /// Crowds of faces hardly larger than nothing: all go, closed stays closed, nothing moves further
        /// than they are large, and there is nothing to do a second time.
        #[test]
        fn crowds_of_tiny_faces_go(
            points in prop::collection::vec(
                (0usize..100, prop::array::uniform3(prop_oneof![Just(0.0), 0.1..1.0f64])),
                1..12,
            ),
        ) {
            let points: Vec<_> = points
                .into_iter()
                .filter(|(_, shares)| shares.iter().filter(|share| **share > 0.0).count() > 1)
                .collect();
            let model = Model::from(cluster(&points));
            let options = MendOptions {
                clear: vec!["zero-area-faces".into()],
                ..MendOptions::default()
            };
            let once = mend(&model, &options, &()).unwrap().model;
            let report = audit(&once, &audit::AuditOptions::default(), &()).unwrap();
            for check in ["zero-area-faces", "open-edges", "nonmanifold-edges", "lamina-faces"] {
                prop_assert_eq!(report.count(check), 0, "{}", check);
            }
            let volume = |model: &Model| {
                let mesh = &model.mesh;
                let terms = mesh.face_ids();
                let terms = terms.map(|face| crate::measure::signed_volume_term(mesh, face, DVec3::ZERO));
                terms.sum::<f64>() / 6.0
            };
            prop_assert!((volume(&once) - 1.0).abs() < 1e-5);
            let twice = mend(&once, &options, &()).unwrap();
            prop_assert!(twice.changes.is_empty(), "{:?}", twice.changes);
        }
    }
}
