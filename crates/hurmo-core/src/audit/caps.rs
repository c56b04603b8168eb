//! What would close a model's surface along the edges that its faces don't run as often one way as the
//! other.

use super::MeshAnalysis;
use crate::mesh::Mesh;
use crate::spatial::Border;

/// Caps of more edges than one for this many triangles cost more than they save.
const FEW: usize = 4;

/// Triangles that close the surface, each patch turned as it should be; `None` where they would
/// be too many to be of use.
pub(super) fn caps(analysis: &MeshAnalysis<'_>) -> Option<Mesh> {
    let (mesh, edges) = (analysis.mesh, &analysis.edges);
    let counts = |face| !analysis.has_no_area(face);
    let turned = &analysis.patches.reversed;
    let border = Border::of(mesh, edges, counts, turned, &analysis.first_at_place);
    let triangles = mesh.corners().len().saturating_sub(2 * mesh.face_count());
    (border.len() <= triangles / FEW).then(|| border.graded_caps(mesh.positions()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{FaceId, Model};
    use crate::shapes;
    use glam::DVec3;
    use proptest::prelude::*;

    proptest! {
        /// Whatever is gone, doubled or turned, no edge of surface and caps together is run more
        /// often one way than the other.
        #[test]
        fn surface_and_caps_have_no_border(
            gone in prop::collection::vec(0usize..200, 0..20),
            doubled in prop::collection::vec(0usize..200, 0..5),
            turned in prop::collection::vec(0usize..200, 0..20),
        ) {
            let torus = shapes::torus(1.0, 0.4, 14, 8);
            let mut mesh = Mesh::from_parts(torus.positions().to_vec(), vec![], vec![0]).unwrap();
            for (face, corners) in torus.faces() {
                let mut corners = corners.to_vec();
                let is = |list: &[usize]| list.contains(&face.index());
                if is(&turned) {
                    corners.reverse();
                }
                let copies = usize::from(!is(&gone)) + usize::from(is(&doubled));
                for _ in 0..copies {
                    mesh.push_face(corners.iter().copied());
                }
            }
            let model = Model::from(mesh);
            let analysis = MeshAnalysis::of(&model);
            prop_assume!(model.mesh.face_count() > 0);
            let caps = caps(&analysis);
            prop_assume!(caps.is_some());
            let caps = caps.unwrap();
            let mut runs: Vec<(String, i32)> = Vec::new();
            let mut run = |mesh: &Mesh, face: FaceId, back: bool| {
                let points: Vec<DVec3> = mesh.face_points(face).collect();
                for (i, p) in points.iter().enumerate() {
                    let q = points[(i + 1) % points.len()];
                    let (p, q) = (format!("{p}"), format!("{q}"));
                    let up = (p < q) != back;
                    let key = if p < q { p + &q } else { q + &p };
                    runs.push((key, if up { 1 } else { -1 }));
                }
            };
            for face in model.mesh.face_ids() {
                run(&model.mesh, face, analysis.patches.reversed[face.index()]);
            }
            caps.face_ids().for_each(|face| run(&caps, face, false));
            runs.sort();
            for same in runs.chunk_by(|a, b| a.0 == b.0) {
                prop_assert_eq!(same.iter().map(|run| run.1).sum::<i32>(), 0);
            }
        }
    }
}
