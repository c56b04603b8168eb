//! Another surface in place of some parts.

use super::only;
use crate::attribute_transfer::Carried;
use crate::mesh::{FaceId, Model, PartId, Rebuild, VertexId};
use crate::topology::Parts;

/// The model with another surface in place of some parts. All other faces stay, with all that they
/// carry; the new ones have the group and material of the nearest of those that went, and their own
/// colours. Cost: a look-up for each new face.
pub fn replaced(model: &Model, goes: impl Fn(PartId) -> bool, by: &Model) -> Model {
    let mesh = &model.mesh;
    let parts = Parts::of(mesh);
    let is_gone = |face: &FaceId| parts.of_face(mesh, *face).is_some_and(&goes);
    let gone: Vec<FaceId> = mesh.face_ids().filter(is_gone).collect();
    let was = only(model, &gone);
    let carried = Carried::by(&was);
    let mut rebuild = Rebuild::new(model);
    let stay = mesh.face_ids().filter(|face| !is_gone(face));
    stay.for_each(|face| rebuild.keep(face));
    let nearest: Vec<Option<FaceId>> = by
        .mesh
        .face_ids()
        .map(|face| {
            let found = carried.tree().closest(by.mesh.face_middle(face))?;
            Some(gone[carried.faces()[found.triangle as usize].index()])
        })
        .collect();
    let first = gone.first().copied().unwrap_or_default();
    let like = mesh.face(first).first().copied().unwrap_or_default();
    let colors = by.attributes.colors.as_ref();
    let vertices: Vec<VertexId> = by
        .mesh
        .vertex_ids()
        .map(|v| {
            let color = colors.map(|colors| colors[v.index()]);
            rebuild.colored_vertex(by.mesh.position(v), like, color)
        })
        .collect();
    let mut corners = Vec::new();
    for ((_, face), nearest) in by.mesh.faces().zip(nearest) {
        corners.clear();
        corners.extend(face.iter().map(|v| vertices[v.index()]));
        rebuild.new_face(nearest.unwrap_or(first), &corners);
    }
    let mut made = rebuild.finish();
    made.drop_what_lost_its_faces(model);
    made
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{CornerLayer, FaceTags, Mesh, Tag};
    use crate::shapes;
    use glam::{DVec2, DVec3};

    #[test]
    fn other_parts_keep_what_they_carry() {
        let mut mesh = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
        let cube_faces = mesh.face_count();
        let ball = shapes::sphere(1.0, 2);
        let base = mesh.vertex_count() as u32;
        for p in ball.positions() {
            mesh.push_vertex(*p + 5.0 * DVec3::X);
        }
        for (_, face) in ball.faces() {
            mesh.push_face(face.iter().map(|v| VertexId(v.0 + base)));
        }
        let mut model = Model::from(mesh);
        let count = model.mesh.face_count();
        model.attributes.tags = FaceTags {
            table: ["crate", "buoy"]
                .map(|name| Tag {
                    group: Some(name.into()),
                    ..Tag::default()
                })
                .to_vec(),
            of_face: (0..count).map(|f| u32::from(f >= cube_faces)).collect(),
        };
        model.attributes.uvs = Some(CornerLayer {
            values: vec![DVec2::new(0.25, 0.5)],
            index: vec![0; model.mesh.corners().len()],
        });
        let mut finer: Mesh = shapes::sphere(1.0, 3);
        let moved = finer.positions_mut().iter_mut();
        moved.for_each(|p| *p += 5.0 * DVec3::X);
        let by = Model::from(finer);
        let made = replaced(&model, |part| part.index() == 0, &by);
        assert_eq!(made.mesh.face_count(), cube_faces + by.mesh.face_count());
        assert_eq!(
            made.mesh.vertex_count(),
            base as usize + by.mesh.vertex_count()
        );
        let tags = &made.attributes.tags;
        let group = |face: FaceId| tags.of(face).and_then(|tag| tag.group.as_deref());
        let uvs = made.attributes.uvs.as_ref().unwrap();
        for face in made.mesh.face_ids() {
            let is_old = face.index() < cube_faces;
            let corner = made.mesh.face_range(face).start;
            assert_eq!(group(face), Some(if is_old { "crate" } else { "buoy" }));
            assert_eq!(uvs.at(corner).is_some(), is_old);
        }
    }
}
