//! Putting surfaces into a model.

use super::border::Border;
use super::patch::Patch;
use super::values;
use crate::mesh::{FaceId, Mesh, Model, Rebuild, VertexId};

/// A model with the faces of some patches after its own, in order.
pub(super) fn woven<'p>(
    model: &Model,
    patches: impl Iterator<Item = (&'p Border, &'p Patch)>,
) -> Model {
    let mut rebuild = Rebuild::new(model);
    model.mesh.face_ids().for_each(|face| rebuild.keep(face));
    for (border, patch) in patches {
        weave(model, &mut rebuild, border, patch);
    }
    rebuild.finish()
}

/// The same, but the bare mesh.
pub(super) fn woven_bare<'p>(
    mesh: &Mesh,
    patches: impl Iterator<Item = (&'p Border, &'p Patch)>,
) -> Mesh {
    let mut mesh = mesh.clone();
    for (border, patch) in patches {
        let mut vertices = border.vertices.clone();
        let new = patch.points.iter().skip(patch.border);
        vertices.extend(new.map(|&point| mesh.push_vertex(point)));
        for face in patch.faces() {
            mesh.push_face(face.iter().map(|&i| vertices[i as usize]));
        }
    }
    mesh
}

fn weave(model: &Model, rebuild: &mut Rebuild<'_>, border: &Border, patch: &Patch) {
    let uvs = values::uvs(model, border, patch);
    let colors = values::colors(model, border, patch);
    let mut vertices: Vec<VertexId> = border.vertices.clone();
    for (i, point) in patch.points.iter().enumerate().skip(patch.border) {
        let like = border.vertices[patch.like[i] as usize];
        let color = colors.as_ref().map(|colors| colors[i]);
        vertices.push(rebuild.colored_vertex(*point, like, color));
    }
    let has_uvs = uvs.iter().any(Option::is_some);
    let sources: Option<Vec<usize>> = has_uvs.then(|| {
        let of_place = |i: usize| uvs.iter().map(move |set| set.as_ref().map(|set| set[i]));
        let places = 0..patch.points.len();
        places.map(|i| rebuild.with_uvs(of_place(i))).collect()
    });
    for face in patch.faces() {
        let like = like_beside(border, patch, face);
        let corners = face.iter().map(|&i| vertices[i as usize]);
        match &sources {
            Some(sources) => {
                let sources = face.iter().map(|&i| sources[i as usize]);
                rebuild.moved_piece(like, sources.zip(corners));
            }
            None => rebuild.new_face(like, &corners.collect::<Vec<_>>()),
        }
    }
}

/// The face of the model whose group and material a new face takes: that along its side of the
/// rim, if it has one.
fn like_beside(border: &Border, patch: &Patch, face: &[u32]) -> FaceId {
    let count = patch.border as u32;
    let along = (0..face.len()).find(|&k| {
        let (a, b) = (face[k], face[(k + 1) % face.len()]);
        a < count && b < count && (a + 1) % count == b
    });
    let place = along.map_or(patch.like[face[0] as usize], |k| face[k]);
    border.faces[place as usize]
}
