//! Pieces of a model: its parts, groups or materials, with all that belongs to them.

use crate::mesh::{FaceId, Model, PartId, Rebuild};
use crate::topology::Parts;
use std::collections::BTreeMap;

/// What a model is taken apart by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum By {
    /// What hangs together.
    Part,
    /// Objects and groups.
    Group,
    /// Materials.
    Material,
}

/// A named piece of a model.
#[derive(Clone, Debug, PartialEq)]
pub struct Piece {
    /// The part's, group's or material's name; `None` for faces that have none.
    pub name: Option<String>,
    /// Its faces, in the model's order.
    pub faces: Vec<FaceId>,
}

/// The pieces of a model: parts by name, groups and materials in order of their first faces.
pub fn pieces(model: &Model, by: By) -> Vec<Piece> {
    let mesh = &model.mesh;
    match by {
        By::Part => {
            let parts = Parts::of(mesh);
            let mut pieces: Vec<Piece> = (0..parts.len())
                .map(|part| Piece {
                    name: Some(PartId::new(part).to_string()),
                    faces: Vec::new(),
                })
                .collect();
            for face in mesh.face_ids() {
                if let Some(part) = parts.of_face(mesh, face) {
                    pieces[part.index()].faces.push(face);
                }
            }
            pieces
        }
        By::Group | By::Material => {
            let mut pieces: Vec<Piece> = Vec::new();
            let mut number: BTreeMap<Option<String>, usize> = BTreeMap::new();
            for face in mesh.face_ids() {
                let tag = model.attributes.tags.of(face);
                let name = tag.and_then(|tag| match by {
                    By::Material => tag.material.clone(),
                    _ => tag.group.clone().or_else(|| tag.object.clone()),
                });
                let at = *number.entry(name.clone()).or_insert_with(|| {
                    pieces.push(Piece {
                        name,
                        faces: Vec::new(),
                    });
                    pieces.len() - 1
                });
                pieces[at].faces.push(face);
            }
            pieces
        }
    }
}

/// A model of some faces only, and the vertices that they use.
pub fn only(model: &Model, faces: &[FaceId]) -> Model {
    let mut rebuild = Rebuild::new(model);
    faces.iter().for_each(|&face| rebuild.keep(face));
    let mut piece = rebuild.finish();
    piece.lines.clear();
    piece.drop_unused_vertices();
    piece
}

/// The model without some parts. What belongs to no part (stray vertices and edges) stays,
/// except edges that end at a vertex of a part that goes.
pub fn without(model: &Model, goes: impl Fn(PartId) -> bool) -> Model {
    let parts = Parts::of(&model.mesh);
    let (rest, _) = model.without_faces(|face| parts.of_face(&model.mesh, face).is_some_and(&goes));
    rest
}
