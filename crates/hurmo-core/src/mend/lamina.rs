//! Lamina faces: of faces on the same vertices, the first stays.

use super::{Cure, MendError, Options, Step};
use crate::audit::doubles;
use crate::mesh::{Model, Rebuild};

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
    if !doubled.is_empty() {
        let mut rebuild = Rebuild::new(model);
        let mut gone = doubled.iter().map(|[goes, _]| *goes).peekable();
        for face in model.mesh.face_ids() {
            if gone.next_if_eq(&face).is_none() {
                rebuild.keep(face);
            }
        }
        *model = rebuild.finish();
    }
    let mut step = Step::did("lamina faces dropped", doubled.len());
    step.done.push((
        "of those of another group or material than the face that stays, the first in the file",
        differ,
    ));
    Ok(step)
}
