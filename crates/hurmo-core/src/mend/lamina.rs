//! Lamina faces: of faces on the same vertices, the first stays.

use super::removed::by_group;
use super::{Cure, MendError, Options, Step};
use crate::audit::doubles;
use crate::mesh::{FaceId, Model, Rebuild};

pub(super) const CURE: Cure = Cure {
    clears: &["lamina-faces"],
    safe: true,
    drops: false,
    apply,
};

fn apply(model: &mut Model, _options: &Options) -> Result<Step, MendError> {
    let doubled = doubles(&model.mesh);
    let tags = &model.attributes.tags;
    let differ = doubled
        .iter()
        .filter(|[goes, stays]| tags.of(*goes) != tags.of(*stays))
        .count();
    let goes = |face: FaceId| {
        doubled
            .binary_search_by_key(&face, |[goes, _]| *goes)
            .is_ok()
    };
    let removed = by_group(model, goes);
    if !doubled.is_empty() {
        let mut rebuild = Rebuild::new(model);
        for face in model.mesh.face_ids().filter(|&face| !goes(face)) {
            rebuild.keep(face);
        }
        *model = rebuild.finish();
    }
    let mut step = Step::did("lamina {face|faces} dropped", doubled.len());
    step.done.push((
        "of those of another group or material than the face that stays, the first in the file",
        differ,
    ));
    step.removed = removed;
    Ok(step)
}
