//! Each part as a group of its own.

use crate::mesh::{Model, Tag};
use crate::topology::Parts;
use std::collections::BTreeMap;

/// Puts the faces of each part into a group by the part's name, in place of the groups that they are in.
/// Objects and materials stay. Returns how many groups there are then.
pub fn group_by_part(model: &mut Model) -> usize {
    let parts = Parts::of(&model.mesh);
    let tags = &mut model.attributes.tags;
    let mut table: Vec<Tag> = Vec::new();
    let mut number: BTreeMap<(Option<u32>, usize), u32> = BTreeMap::new();
    let of_face = model.mesh.face_ids().map(|face| {
        let old = tags.of_face.get(face.index()).copied();
        let part = parts.of_face(&model.mesh, face);
        let key = (old, part.map_or(usize::MAX, |part| part.index()));
        *number.entry(key).or_insert_with(|| {
            let old = old.and_then(|old| tags.table.get(old as usize));
            table.push(Tag {
                group: part.map(|part| part.to_string()),
                ..old.cloned().unwrap_or_default()
            });
            table.len() as u32 - 1
        })
    });
    tags.of_face = of_face.collect();
    tags.table = table;
    parts.len()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::parts::{By, joined, pieces};
    use crate::shapes;

    #[test]
    fn parts_become_groups_and_materials_stay() {
        let model = |material: &str| {
            let mut model = Model::from(shapes::sphere(1.0, 1));
            model.attributes.tags.table = vec![Tag {
                group: Some("both".into()),
                material: Some(material.into()),
                ..Tag::default()
            }];
            model.attributes.tags.of_face = vec![0; model.mesh.face_count()];
            model
        };
        let (brass, tar) = (model("brass"), model("tar"));
        let list = [("a".to_string(), &brass), ("b".to_string(), &tar)];
        let mut both = joined(&list).model;
        assert_eq!(group_by_part(&mut both), 2);
        let names = |by: By| -> Vec<String> {
            let pieces = pieces(&both, by).into_iter();
            pieces.filter_map(|piece| piece.name).collect()
        };
        assert_eq!(names(By::Group), ["P1", "P2"]);
        assert_eq!(names(By::Material), ["brass", "tar"]);
        let plain = &mut Model::from(shapes::grid(2, 2, 1.0, 1.0));
        assert_eq!(group_by_part(plain), 1);
        assert_eq!(plain.attributes.tags.used().count(), 1);
    }
}
