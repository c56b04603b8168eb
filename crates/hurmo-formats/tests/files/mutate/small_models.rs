//! What files and fuzz seeds begin with.

use glam::DVec3;
use hurmo_core::mesh::Tag;
use hurmo_core::parts::joined;
use hurmo_core::shading::{Shading, normals};
use hurmo_core::{FaceId, Model, shapes};

/// Small models with all that files hold: groups, materials, UVs, normals, colours, rims, n-gons, two parts.
pub fn models() -> Vec<Model> {
    let mut plain = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1));
    plain.attributes.normals = Some(normals(&plain.mesh, Shading::Flat));
    plain.attributes.colors = Some(vec![[0.5, 0.25, 1.0, 1.0]; plain.mesh.vertex_count()]);
    let (mut torn, _) = Model::from(shapes::sphere(1.0, 1)).without_faces(|f| f == FaceId::new(4));
    torn.attributes.tags.table = vec![Tag {
        object: Some("buoy".into()),
        group: Some("rope".into()),
        material: Some("tar".into()),
        ..Tag::default()
    }];
    torn.attributes.tags.of_face = vec![0; torn.mesh.face_count()];
    let both = joined(&[("one".into(), &plain), ("two".into(), &torn)]).model;
    vec![plain, torn, both]
}
