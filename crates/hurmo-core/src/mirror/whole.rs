//! A half and its image, joined along the plane.

use super::Mirror;
use crate::attribute_transfer::Carried;
use crate::mesh::{CornerLayer, Mesh, Model, Unusable, VertexId};
use crate::parallel::{mapped, mapped_of};

/// Makes a whole of a half (all triangles), joined where it lies on the plane if `is_joined`.
/// Groups, materials and colours of the image are those that `original` has there.
pub fn whole(half: &Model, mirror: &Mirror, is_joined: bool, original: &Model) -> Model {
    let mesh = &half.mesh;
    let mut positions = mesh.positions().to_vec();
    let mut twin: Vec<VertexId> = Vec::with_capacity(positions.len());
    for v in mesh.vertex_ids() {
        let at = mesh.position(v);
        if is_joined && mirror.holds(at) {
            twin.push(v);
        } else {
            twin.push(VertexId::new(positions.len()));
            positions.push(mirror.image(at));
        }
    }
    let mut corners = mesh.corners().to_vec();
    let mut starts = mesh.starts().to_vec();
    for (_, face) in mesh.faces() {
        corners.extend(backwards(face).map(|v| twin[v.index()]));
        starts.push(corners.len() as u32);
    }
    let mesh = Mesh::from_parts(positions, corners, starts).expect("twice the faces of a mesh");
    let mut model = Model {
        mesh,
        attributes: half.attributes.clone(),
        lines: Vec::new(),
        unit: half.unit,
        up: half.up,
        unusable: Unusable::default(),
    };
    for uvs in model.attributes.uv_sets_mut() {
        double(uvs, half, |uv| uv);
    }
    if let Some(normals) = &mut model.attributes.normals {
        double(normals, half, |normal| mirror.turned(normal));
    }
    let sides_differ = half.attributes.colors.is_some() || !half.attributes.tags.is_empty();
    if sides_differ {
        let behind = Carried::by(original);
        let faces = half.mesh.face_count();
        if let Some(colors) = &mut model.attributes.colors {
            let new = &model.mesh.positions()[half.mesh.vertex_count()..];
            colors.extend(mapped_of(new, 256, |&at| behind.color(at)));
        }
        let tags = &mut model.attributes.tags;
        if !tags.is_empty() {
            let (mesh, own) = (&model.mesh, tags.of_face.clone());
            tags.of_face.extend(mapped(faces, 256, |face| {
                let middle = mesh.face_middle(crate::FaceId::new(faces + face));
                behind.tag(middle).unwrap_or(own[face])
            }));
        }
    }
    model
}

/// A face's corners, so that its image faces the same way; the first stays first.
fn backwards<T: Copy>(face: &[T]) -> impl Iterator<Item = T> {
    let rest = face.iter().skip(1).rev();
    face.iter().take(1).chain(rest).copied()
}

/// Adds the values of the image.
fn double<T: Copy>(layer: &mut CornerLayer<T>, half: &Model, image: impl Fn(T) -> T) {
    let first = layer.values.len() as u32;
    let values: Vec<T> = layer.values.iter().map(|&value| image(value)).collect();
    layer.values.extend(values);
    let own = layer.index.clone();
    for face in half.mesh.face_ids() {
        let images = backwards(&own[half.mesh.face_range(face)]);
        layer.index.extend(images.map(|value| match value {
            crate::mesh::NO_VALUE => value,
            value => value + first,
        }));
    }
}
