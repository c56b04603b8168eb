//! N-gons, and on request all polygons, into triangles.

use super::{Cure, MendError, Options, Step};
use crate::mesh::Model;
use crate::triangulate::{self, Which};

pub(super) const CURE: Cure = Cure {
    clears: &["ngons"],
    safe: false,
    drops: false,
    apply,
};

fn apply(model: &mut Model, options: &Options) -> Result<Step, MendError> {
    let which = options.triangulate.unwrap_or(Which::Ngons);
    let (cut, count) = triangulate::model(model, which);
    if count > 0 {
        *model = cut;
    }
    Ok(Step::did("polygons cut into triangles", count))
}
