//! Which solid faces come from, once some of them were cleared.

use hurmo_core::topology::Edges;
use hurmo_core::{FaceId, Mesh};

/// This many faces may be dropped between two that stay.
const AHEAD: usize = 256;

/// Of each face of `to` the solid that it comes from, by what is known of the faces of `from`, of which most
/// are there still, in their order. Of a face that was changed, the solid of most faces beside it.
pub(super) fn carried(of_face: &[u32], from: &Mesh, to: &Mesh) -> Vec<u32> {
    let mut next = 0;
    let mut same = |face: FaceId| {
        let mut ahead = (next..from.face_count()).take(AHEAD).map(FaceId::new);
        let same = ahead.find(|&other| from.face_points(other).eq(to.face_points(face)))?;
        next = same.index() + 1;
        Some(of_face[same.index()])
    };
    let known: Vec<Option<u32>> = to.face_ids().map(&mut same).collect();
    let edges = Edges::of(to);
    let beside = |face: FaceId| {
        let corners = to.face_range(face);
        let around = corners.filter_map(|corner| edges.at_corner(corner));
        let sides = around.flat_map(|edge| edges.sides(edge));
        let mut solids: Vec<u32> = sides.filter_map(|side| known[side.face.index()]).collect();
        solids.sort_unstable();
        let most = solids.chunk_by(|a, b| a == b).max_by_key(|same| same.len());
        most.map_or(0, |same| same[0])
    };
    let each = to.face_ids().zip(&known);
    each.map(|(face, known)| known.unwrap_or_else(|| beside(face)))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use hurmo_core::{Model, shapes};

    /// A face gone, a corner moved: the others are found, the changed ones are as those beside them.
    #[test]
    fn faces_keep_their_solid() {
        let sphere = shapes::sphere(1.0, 2);
        let north = |mesh: &Mesh, face: FaceId| u32::from(mesh.face_middle(face).z > 0.0);
        let of_face: Vec<u32> = (sphere.face_ids()).map(|f| north(&sphere, f)).collect();
        let (mut less, _) = Model::from(sphere.clone()).without_faces(|f| f.index() % 50 == 7);
        let top = (less.mesh.positions().iter().enumerate())
            .max_by(|a, b| a.1.z.total_cmp(&b.1.z))
            .map(|(i, _)| i)
            .unwrap();
        let lift = |v: hurmo_core::VertexId, at| match v.index() == top {
            true => at + glam::DVec3::Z * 0.25,
            false => at,
        };
        less.mesh.move_vertices(lift).unwrap();
        let carried = carried(&of_face, &sphere, &less.mesh);
        let wanted: Vec<u32> = (less.mesh.face_ids())
            .map(|f| north(&less.mesh, f))
            .collect();
        assert_eq!(carried, wanted);
    }
}
