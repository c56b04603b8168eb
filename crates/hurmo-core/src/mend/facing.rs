//! Facing: every patch consistent, closed ones outward, open ones as most of their faces.

use super::{Cure, MendError, Options, Step};
use crate::mesh::{Model, Rebuild};
use crate::topology::{Edges, Patches};

pub(super) const CURE: Cure = Cure {
    clears: &["misoriented-edges", "reversed-faces"],
    safe: true,
    drops: false,
    apply,
};

fn apply(model: &mut Model, _options: &Options) -> Result<Step, MendError> {
    let patches = Patches::of(&model.mesh, &Edges::of(&model.mesh));
    let count = patches.reversed_count();
    if count > 0 {
        let mut rebuild = Rebuild::new(model);
        for face in model.mesh.face_ids() {
            match patches.reversed[face.index()] {
                true => rebuild.turned(face),
                false => rebuild.keep(face),
            }
        }
        *model = rebuild.finish();
    }
    let one_sided = patches.one_sided.iter().filter(|&&twisted| twisted).count();
    let mut step = Step::did("faces turned", count);
    step.left = (one_sided > 0).then_some((
        one_sided,
        "patches left inconsistent: they are one-sided, like a twisted band",
    ));
    Ok(step)
}
