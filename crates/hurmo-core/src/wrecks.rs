//! Models with faults, for tests that try what happens to them.

use crate::mesh::{CornerLayer, Mesh, Model, VertexId};
use crate::shapes;
use glam::DVec3;

/// A clean shape of some thousand triangles.
pub fn shape(kind: usize) -> Mesh {
    let profile = [
        (0.2, 0.0),
        (1.0, 0.0),
        (1.0, 0.5),
        (0.4, 1.0),
        (0.4, 2.0),
        (0.9, 2.2),
    ];
    let profile = profile.map(|(radius, z)| glam::DVec2::new(radius, z));
    match kind {
        0 => shapes::sphere(1.0, 3),
        1 => shapes::torus(1.0, 0.3, 48, 24),
        2 => shapes::cuboid(DVec3::ZERO, DVec3::new(1.0, 2.0, 0.3), 12),
        3 => shapes::bumpy_sphere(2_000),
        4 => shapes::grid(30, 30, 1.0, 1.0),
        _ => shapes::lathe(&profile, 60, true),
    }
}

/// Two shapes in one model, and faults: faces gone, turned, doubled; vertices made one.
pub fn spoilt(
    kinds: [usize; 2],
    apart: f64,
    faults: &[(usize, usize)],
    joined: &[(usize, usize)],
) -> Model {
    let mut all = Mesh::from_parts(vec![], vec![], vec![0]).unwrap();
    for (k, kind) in kinds.into_iter().enumerate() {
        let one = shape(kind);
        let base = all.vertex_count() as u32;
        for p in one.positions() {
            all.push_vertex(*p + DVec3::new(apart, 0.1, 0.2) * k as f64);
        }
        for (_, face) in one.faces() {
            all.push_face(face.iter().map(|v| VertexId(v.0 + base)));
        }
    }
    let mut to: Vec<u32> = (0..all.vertex_count() as u32).collect();
    for &(one, two) in joined {
        to[one % all.vertex_count()] = (two % all.vertex_count()) as u32;
    }
    let mut mesh = Mesh::from_parts(all.positions().to_vec(), vec![], vec![0]).unwrap();
    for (face, vertices) in all.faces() {
        let corners: Vec<VertexId> = vertices.iter().map(|v| VertexId(to[v.index()])).collect();
        let fault = faults
            .iter()
            .find(|(at, _)| at % all.face_count() == face.index());
        match fault.map(|fault| fault.1) {
            Some(0) => {}
            Some(1) => {
                mesh.push_face(corners.into_iter().rev());
            }
            Some(_) => {
                mesh.push_face(corners.iter().copied());
                mesh.push_face(corners);
            }
            None => {
                mesh.push_face(corners);
            }
        }
    }
    Model::from(mesh)
}

/// The model with UVs that are x and y of each vertex.
pub fn with_flat_uvs(mut model: Model) -> Model {
    model.attributes.uvs = Some(CornerLayer {
        values: model
            .mesh
            .positions()
            .iter()
            .map(|p| p.truncate())
            .collect(),
        index: model.mesh.corners().iter().map(|v| v.0).collect(),
    });
    model
}
