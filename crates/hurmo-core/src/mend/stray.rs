//! Stray vertices: those that no face uses go, unless a line element needs them.

use super::{Cure, MendError, MendOptions, Step};
use crate::mesh::Model;

pub(super) const CURE: Cure = Cure {
    clears: &["stray-vertices"],
    safe: true,
    drops: false,
    apply,
};

fn apply(model: &mut Model, _options: &MendOptions) -> Result<Step, MendError> {
    let mut step = Step::did(
        "stray {vertex|vertices} dropped",
        model.drop_unused_vertices(),
    );
    let used = model.mesh.used_vertices();
    let left = used.iter().filter(|used| !**used).count();
    step.left = (left > 0).then_some((
        left,
        "{vertex|vertices} in no face left: line elements use them",
    ));
    Ok(step)
}
