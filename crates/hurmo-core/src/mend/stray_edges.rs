//! Stray edges: line elements go when that is asked for.

use super::{Cure, MendError, MendOptions, Step};
use crate::mesh::Model;

pub(super) const CURE: Cure = Cure {
    clears: &["stray-edges"],
    safe: false,
    drops: false,
    apply,
};

fn apply(model: &mut Model, _options: &MendOptions) -> Result<Step, MendError> {
    let lines = std::mem::take(&mut model.lines);
    Ok(Step::did("line {element|elements} dropped", lines.len()))
}
