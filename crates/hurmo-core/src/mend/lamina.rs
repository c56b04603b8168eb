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
    if !doubled.is_empty() {
        let mut rebuild = Rebuild::new(model);
        let mut gone = doubled.iter().copied().peekable();
        for face in model.mesh.face_ids() {
            if gone.next_if_eq(&face).is_none() {
                rebuild.keep(face);
            }
        }
        *model = rebuild.finish();
    }
    Ok(Step::did("lamina faces dropped", doubled.len()))
}
