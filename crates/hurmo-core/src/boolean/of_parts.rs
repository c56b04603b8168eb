//! A model's own parts as solids: each by itself, hollows with the part that they lie in.

use crate::audit::MeshAnalysis;
use crate::mesh::{FaceId, Model, PartId};
use crate::spatial::{Enclosing, TriangleHierarchy};

/// The winding number from which on a place is inside.
const INSIDE: f64 = 0.9;

/// For each part, the one whose solid it bounds: itself; of a hollow, the smallest part round it.
pub fn solid_of_parts(model: &Model) -> Vec<PartId> {
    let analysis = MeshAnalysis::of(model);
    let (mesh, measures) = (analysis.mesh, &analysis.part_measures);
    let mut faces: Vec<Vec<FaceId>> = vec![Vec::new(); measures.len()];
    for face in mesh.face_ids().filter(|&face| !analysis.has_no_area(face)) {
        if let Some(part) = analysis.parts.of_face(mesh, face) {
            faces[part.index()].push(face);
        }
    }
    let patches = &analysis.patches;
    let is_hollow: Vec<bool> = faces
        .iter()
        .map(|faces| {
            let mut patch = faces.iter().map(|face| patches.of_face[face.index()]);
            !faces.is_empty() && patch.all(|patch| patches.hollow[patch as usize])
        })
        .collect();
    let mut by_size: Vec<usize> = (0..measures.len()).filter(|&p| !is_hollow[p]).collect();
    let size = |part: usize| measures[part].bounds.diagonal();
    by_size.sort_by(|&a, &b| size(a).total_cmp(&size(b)).then(a.cmp(&b)));
    let round = |hollow: usize| {
        let place = mesh.position(mesh.face(*faces[hollow].first()?).first().copied()?);
        let mut round = by_size.iter().copied();
        round.find(|&outer| {
            measures[outer].bounds.holds(&measures[hollow].bounds) && {
                let hierarchy = TriangleHierarchy::of(mesh, &faces[outer], |_| false);
                Enclosing::of(&hierarchy).times(place) > INSIDE
            }
        })
    };
    (0..measures.len())
        .map(|part| match is_hollow[part] {
            true => PartId::new(round(part).unwrap_or(part)),
            false => PartId::new(part),
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{Mesh, VertexId};
    use crate::shapes;
    use glam::DVec3;

    #[test]
    fn a_hollow_belongs_to_the_part_round_it() {
        let mut mesh = Mesh::default();
        let mut put = |cube: Mesh, turned: bool| {
            let base = mesh.vertex_count() as u32;
            for &p in cube.positions() {
                mesh.push_vertex(p);
            }
            for (_, corners) in cube.faces() {
                let mut corners: Vec<_> = corners.iter().map(|v| VertexId(v.0 + base)).collect();
                if turned {
                    corners.reverse();
                }
                mesh.push_face(corners);
            }
        };
        let cube =
            |low: f64, high: f64, cuts| shapes::cuboid(DVec3::splat(low), DVec3::splat(high), cuts);
        // By falling face count: P1 beside, P2 round all, P3 within it, P4 a hollow in P3.
        put(cube(20.0, 21.0, 5), false);
        put(cube(0.0, 10.0, 4), false);
        put(cube(2.0, 8.0, 3), false);
        put(cube(4.0, 6.0, 2), true);
        let solid = solid_of_parts(&Model::from(mesh));
        assert_eq!(solid, [0, 1, 2, 2].map(PartId::new));
    }
}
