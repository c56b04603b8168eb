//! Unusable vertices: the faces on them go; they themselves are stray then.

use super::{Cure, MendError, MendOptions, Step};
use crate::mesh::Model;

pub(super) const CURE: Cure = Cure {
    clears: &["unusable-vertices"],
    safe: true,
    drops: false,
    apply,
};

fn apply(model: &mut Model, _options: &MendOptions) -> Result<Step, MendError> {
    let unusable = std::mem::take(&mut model.unusable);
    if unusable.is_empty() {
        return Ok(Step::default());
    }
    let goes = |face| unusable.faces.binary_search(&face).is_ok();
    (*model, _) = model.without_faces(goes);
    let mut step = Step::did(
        "{vertex|vertices} without usable coordinates set aside",
        unusable.vertices.len(),
    );
    step.done
        .push(("{face|faces} on them dropped", unusable.faces.len()));
    Ok(step)
}
