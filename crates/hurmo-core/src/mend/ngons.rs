//! N-gons into quads and triangles; on request n-gons, or all polygons, into triangles.

use super::{Cure, MendError, MendOptions, Step};
use crate::mesh::Model;
use crate::triangulate::{self, Pieces};

pub(super) const CURE: Cure = Cure {
    clears: &["ngons"],
    safe: false,
    drops: false,
    apply,
};

fn apply(model: &mut Model, options: &MendOptions) -> Result<Step, MendError> {
    let ((cut, count), what) = match options.triangulate {
        Some(which) => (
            triangulate::model(model, which),
            "{polygon|polygons} cut into triangles",
        ),
        None => (
            triangulate::some(model, Pieces::Quads, |face| model.mesh.face(face).len() > 4),
            "{n-gon|n-gons} cut into quads and triangles",
        ),
    };
    if count > 0 {
        *model = cut;
    }
    Ok(Step::did(what, count))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::mend::{MendOptions, mend};
    use crate::shapes;
    use crate::triangulate::Which;
    use glam::DVec2;

    #[test]
    fn caps_become_quads_unless_triangles_are_asked_for() {
        let profile = [DVec2::new(1.0, 0.0), DVec2::new(1.0, 2.0)];
        let drum = Model::from(shapes::lathe(&profile, 24, true));
        let volume = crate::measure::volume(&drum.mesh);
        let clear = vec!["ngons".to_string()];
        for (triangulate, cut) in [(None, 11), (Some(Which::Ngons), 22)] {
            let options = MendOptions {
                clear: clear.clone(),
                triangulate,
                ..MendOptions::default()
            };
            let mended = mend(&drum, &options, &()).unwrap().model;
            let after = audit(&mended, &audit::AuditOptions::default(), &()).unwrap();
            assert_eq!(after.mesh.faces, 24 + 2 * cut);
            assert!((after.mesh.volume - volume).abs() < 1e-12);
            for check in [
                "ngons",
                "concave-faces",
                "non-planar-faces",
                "zero-area-faces",
            ] {
                assert_eq!(after.count(check), 0, "{check}");
            }
            assert!(after.mesh.watertight);
        }
    }
}
