//! Taking rows of ragged faces off the border of some rims before they are closed.
//!
//! Pieces that come loose and are smaller than what is trimmed are ragged, too, and go.

use crate::mesh::{FaceId, Mesh, Model};
use crate::topology::{Parts, Rim};

/// A model without some rows of faces.
pub(super) struct Trimmed {
    pub model: Model,
    /// How many faces went.
    pub faces: usize,
    /// For every vertex, the rim (by place in what was trimmed) whose rows it was on.
    pub of_rim: Vec<Option<usize>>,
}

/// Takes `rows` rows of faces, those with a corner on the border, off each of some rims.
pub(super) fn trimmed(model: &Model, rims: &[&Rim], rows: usize) -> Trimmed {
    let mesh = &model.mesh;
    let mut of_rim: Vec<Option<usize>> = vec![None; mesh.vertex_count()];
    for (i, rim) in rims.iter().enumerate() {
        for vertex in &rim.vertices {
            of_rim[vertex.index()] = Some(i);
        }
    }
    let mut gone = vec![false; mesh.face_count()];
    for _ in 0..rows {
        let row: Vec<(FaceId, usize)> = mesh
            .faces()
            .filter(|(face, _)| !gone[face.index()])
            .filter_map(|(face, corners)| {
                let rim = corners.iter().find_map(|v| of_rim[v.index()])?;
                Some((face, rim))
            })
            .collect();
        for (face, rim) in row {
            gone[face.index()] = true;
            for vertex in mesh.face(face) {
                of_rim[vertex.index()].get_or_insert(rim);
            }
        }
    }
    drop_loose_pieces(mesh, &of_rim, &mut gone);
    without_faces(model, &gone, of_rim)
}

/// A model without some faces, and the vertices that only they used.
pub(super) fn without_faces(
    model: &Model,
    gone: &[bool],
    mut of_rim: Vec<Option<usize>>,
) -> Trimmed {
    let (left, vertex_goes) = model.without_faces(|face| gone[face.index()]);
    let mut goes = vertex_goes.iter();
    of_rim.retain(|_| !*goes.next().expect("one for each vertex"));
    Trimmed {
        model: left,
        faces: gone.iter().filter(|&&gone| gone).count(),
        of_rim,
    }
}

fn drop_loose_pieces(mesh: &Mesh, of_rim: &[Option<usize>], gone: &mut [bool]) {
    let limit = gone.iter().filter(|&&gone| gone).count();
    let mut left = Mesh::from_parts(mesh.positions().to_vec(), vec![], vec![0])
        .expect("positions of a mesh are finite");
    let kept: Vec<FaceId> = mesh.face_ids().filter(|f| !gone[f.index()]).collect();
    for &face in &kept {
        left.push_face(mesh.face(face).iter().copied());
    }
    let parts = Parts::of(&left);
    let mut touched = vec![false; parts.len()];
    for (face, corners) in left.faces() {
        if let Some(part) = parts.of_face(&left, face) {
            touched[part.index()] |= corners.iter().any(|v| of_rim[v.index()].is_some());
        }
    }
    let largest = parts.list().iter().map(|part| part.faces).max();
    for (new, old) in left.face_ids().zip(kept) {
        if let Some(part) = parts.of_face(&left, new) {
            let faces = parts.list()[part.index()].faces;
            gone[old.index()] = touched[part.index()] && faces < limit && Some(faces) < largest;
        }
    }
}
