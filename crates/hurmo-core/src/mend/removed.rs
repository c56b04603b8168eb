//! Which groups and materials dropped faces belonged to.

use crate::mesh::{FaceId, Model, Tag};

/// Faces that were dropped from one group.
#[derive(Clone, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
pub struct Removed {
    /// Names of the object, group and material, as far as there are any.
    pub from: Vec<String>,
    /// How many faces.
    pub faces: usize,
}

/// How many of the faces that go are in which group; nothing for a model without groups.
pub(super) fn by_group(model: &Model, goes: impl Fn(FaceId) -> bool) -> Vec<Removed> {
    let tags = &model.attributes.tags;
    let mut counts = vec![0; tags.table.len()];
    for (face, &tag) in model.mesh.face_ids().zip(&tags.of_face) {
        counts[tag as usize] += usize::from(goes(face));
    }
    let mut removed = Vec::new();
    for (tag, faces) in tags.table.iter().zip(counts) {
        let from = names(tag);
        if faces > 0 && !from.is_empty() {
            add(&mut removed, Removed { from, faces });
        }
    }
    removed
}

/// Adds to a list in which every group stands once.
pub(super) fn add(list: &mut Vec<Removed>, more: Removed) {
    match list.iter_mut().find(|removed| removed.from == more.from) {
        Some(removed) => removed.faces += more.faces,
        None => list.push(more),
    }
}

fn names(tag: &Tag) -> Vec<String> {
    let names = [&tag.object, &tag.group, &tag.material];
    names.into_iter().flatten().cloned().collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mend::{MendOptions, mend};
    use crate::mesh::{FaceTags, Rebuild};
    use crate::shapes;
    use glam::DVec3;

    #[test]
    fn doubled_faces_are_told_by_group() {
        let mut model = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2));
        let faces = model.mesh.face_count();
        let named = |name: &str| Tag {
            group: Some(name.into()),
            ..Tag::default()
        };
        model.attributes.tags = FaceTags {
            table: vec![named("low"), Tag::default(), named("high")],
            of_face: (0..faces).map(|face| u32::from(face > 3) * 2).collect(),
        };
        let mut rebuild = Rebuild::new(&model);
        for face in model.mesh.face_ids().chain([1, 2, 7].map(FaceId)) {
            rebuild.keep(face);
        }
        let outcome = mend(&rebuild.finish(), &MendOptions::default(), &()).unwrap();
        let removed = |from: &str, faces| Removed {
            from: vec![from.into()],
            faces,
        };
        assert_eq!(outcome.removed, [removed("low", 2), removed("high", 1)]);
        assert_eq!(outcome.model.mesh.face_count(), faces);
    }
}
