//! Pieces of one model, each as an object of its own.

use super::joined;
use crate::mesh::{Model, Tag};
use std::sync::Arc;

/// Puts pieces of a model together, each an object by its name. Groups, materials and textures stay;
/// the model's nodes do not, since pieces go across them.
pub fn as_objects(pieces: Vec<(String, Model)>) -> Model {
    let scene = pieces
        .first()
        .and_then(|(_, piece)| piece.attributes.scene.clone());
    let named: Vec<(String, Model)> = pieces
        .into_iter()
        .map(|(name, mut piece)| {
            piece.attributes.scene = None;
            for tag in &mut piece.attributes.tags.table {
                *tag = Tag {
                    object: Some(name.clone()),
                    node: None,
                    ..tag.clone()
                };
            }
            (name, piece)
        })
        .collect();
    let list: Vec<(String, &Model)> = named.iter().map(|(name, m)| (name.clone(), m)).collect();
    let mut all = joined(&list).model;
    all.attributes.scene = scene.map(|scene| {
        let mut scene = Arc::unwrap_or_clone(scene);
        scene.nodes.clear();
        scene.roots.clear();
        Arc::new(scene)
    });
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::FaceTags;
    use crate::shapes;
    use glam::DVec3;

    #[test]
    fn each_piece_is_an_object_with_its_groups() {
        let piece = |group: Option<&str>| {
            let mut model = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1));
            if let Some(group) = group {
                model.attributes.tags = FaceTags {
                    table: vec![Tag {
                        group: Some(group.into()),
                        object: Some("all".into()),
                        ..Tag::default()
                    }],
                    of_face: vec![0; model.mesh.face_count()],
                };
            }
            model
        };
        let made = as_objects(vec![
            ("low".into(), piece(Some("skin"))),
            ("high".into(), piece(None)),
        ]);
        let faces = made.mesh.face_count() / 2;
        for face in made.mesh.face_ids() {
            let tag = made.attributes.tags.of(face).unwrap();
            let is_low = face.index() < faces;
            assert_eq!(
                tag.object.as_deref(),
                Some(if is_low { "low" } else { "high" })
            );
            assert_eq!(tag.group.as_deref(), is_low.then_some("skin"));
        }
    }
}
