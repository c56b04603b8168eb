//! Facing: every patch consistent, closed ones outward, open ones as most of their faces or,
//! where these differ, so that the side that is seen is the front.

use super::visible_side::{Outside, outsides};
use super::{Cure, MendError, MendOptions, Step, one_sided};
use crate::mesh::{Model, Rebuild};
use crate::orientation::Patches;
use crate::topology::Edges;

pub(super) const CURE: Cure = Cure {
    clears: &["misoriented-edges", "reversed-faces"],
    safe: true,
    drops: false,
    apply,
};

fn apply(model: &mut Model, options: &MendOptions) -> Result<Step, MendError> {
    let mut step = Step::default();
    if options.cut_one_sided {
        let cut = one_sided::cut_open(model, options.gap);
        step.done
            .push(("{edge|edges} of one-sided patches cut open", cut));
    }
    let patches = Patches::of(&model.mesh, &Edges::of(&model.mesh));
    let back_to_front = back_to_front(model, &patches, options.turn_outward);
    let turns = |face: crate::mesh::FaceId| {
        let patch = patches.of_face[face.index()] as usize;
        patches.reversed[face.index()] ^ back_to_front[patch]
    };
    let count = model.mesh.face_ids().filter(|&face| turns(face)).count();
    if count > 0 {
        let mut rebuild = Rebuild::new(model);
        for face in model.mesh.face_ids() {
            match turns(face) {
                true => rebuild.turned(face),
                false => rebuild.keep(face),
            }
        }
        *model = rebuild.finish();
    }
    step.done.push(("{face|faces} turned", count));
    step.done.push((
        "open {patch|patches} turned so that the side that is seen is the front",
        back_to_front.iter().filter(|&&back| back).count(),
    ));
    let one_sided = patches.one_sided.iter().filter(|&&twisted| twisted).count();
    step.left = (one_sided > 0).then_some((one_sided, ONE_SIDED));
    Ok(step)
}

/// Said of patches that no turning makes consistent.
pub const ONE_SIDED: &str =
    "{patch|patches} left inconsistent: {it is|they are} one-sided, like a twisted band";

/// For every patch, whether it is open and shows its back once its faces are turned as they
/// must be: of those with faces that must turn, or of all.
fn back_to_front(model: &Model, patches: &Patches, all: bool) -> Vec<bool> {
    let mut mixed = vec![all; patches.closed.len()];
    for face in model.mesh.face_ids() {
        mixed[patches.of_face[face.index()] as usize] |= patches.reversed[face.index()];
    }
    let wanted: Vec<bool> = (0..mixed.len())
        .map(|patch| mixed[patch] && !patches.closed[patch] && !patches.one_sided[patch])
        .collect();
    outsides(&model.mesh, patches, &wanted)
        .into_iter()
        .map(|outside| outside == Outside::Back)
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::mend::mend;
    use crate::mesh::{FaceId, Mesh, VertexId};
    use crate::shapes;
    use glam::DVec2;

    /// A vase with an open mouth, some of its faces turned.
    fn vase(turned: impl Fn(FaceId) -> bool) -> Model {
        let profile: Vec<DVec2> = [(0.0, 0.0), (1.0, 0.0), (1.3, 1.0), (1.2, 2.0), (0.8, 3.0)]
            .map(|(x, y)| DVec2::new(x, y))
            .to_vec();
        let shape = shapes::lathe(&profile, 32, false);
        let mut mesh = Mesh::from_parts(shape.positions().to_vec(), vec![], vec![0]).unwrap();
        for (face, corners) in shape.faces() {
            match turned(face) {
                true => mesh.push_face(corners.iter().rev().copied()),
                false => mesh.push_face(corners.iter().copied()),
            };
        }
        Model::from(mesh)
    }

    /// How many faces of a vase face away from its axis.
    fn outward(model: &Model) -> usize {
        let mesh = &model.mesh;
        let faces = mesh.face_ids().filter(|&face| {
            let (middle, up) = (
                mesh.face_middle(face),
                crate::measure::vector_area(mesh, face),
            );
            let aside = glam::DVec3::new(middle.x, middle.y, middle.z - 1.5);
            up.dot(aside) > 0.0
        });
        faces.count()
    }

    #[test]
    fn a_vase_with_most_faces_turned_is_told_by_sight_not_by_majority() {
        let whole = vase(|_| false);
        let faces = whole.mesh.face_count();
        assert!(
            outward(&whole) == faces || outward(&whole) == 0,
            "a lathe faces one way"
        );
        let mostly_inward = outward(&whole) == faces;
        let model = vase(|face| (face.0 % 5 != 0) == mostly_inward);
        assert!(outward(&model) < faces / 2);
        let mended = mend(&model, &MendOptions::default(), &()).unwrap();
        assert_eq!(outward(&mended.model), faces);
        let again = mend(&mended.model, &MendOptions::default(), &()).unwrap();
        assert!(again.changes.is_empty());
    }

    #[test]
    fn a_vase_inside_out_is_turned_only_when_that_is_asked_for() {
        let whole = vase(|_| false);
        let faces = whole.mesh.face_count();
        let is_outward = outward(&whole) == faces;
        let inside_out = vase(|_| is_outward);
        let left = mend(&inside_out, &MendOptions::default(), &()).unwrap();
        assert_eq!(outward(&left.model), 0);
        let options = MendOptions {
            turn_outward: true,
            ..MendOptions::default()
        };
        let turned = mend(&inside_out, &options, &()).unwrap();
        assert_eq!(outward(&turned.model), faces);
    }

    #[test]
    fn a_twisted_band_is_left_and_cut_across_when_that_is_asked_for() {
        let (long, wide) = (24u32, 4u32);
        let mut band = Mesh::default();
        for i in 0..long {
            let turn = std::f64::consts::TAU * f64::from(i) / f64::from(long);
            for j in 0..=wide {
                let off = f64::from(j) / f64::from(wide) - 0.5;
                let radius = 3.0 + off * (turn / 2.0).cos();
                band.push_vertex(glam::DVec3::new(
                    radius * turn.cos(),
                    radius * turn.sin(),
                    off * (turn / 2.0).sin(),
                ));
            }
        }
        let at = |i: u32, j: u32| match i < long {
            true => VertexId(i * (wide + 1) + j),
            false => VertexId(wide - j),
        };
        for i in 0..long {
            for j in 0..wide {
                band.push_face([at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)]);
            }
        }
        let model = Model::from(band);
        let left = mend(&model, &MendOptions::default(), &()).unwrap();
        assert_eq!(left.left[0].count, 1);
        let options = MendOptions {
            cut_one_sided: true,
            gap: 1e-5,
            ..MendOptions::default()
        };
        let outcome = mend(&model, &options, &()).unwrap();
        let cut = &outcome.changes[0];
        assert_eq!(
            (cut.what.as_str(), cut.count),
            ("edges of one-sided patches cut open", 4)
        );
        let after = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!(after.count("misoriented-edges"), 0);
        assert_eq!(after.mesh.parts, 1);
        assert_eq!(after.mesh.rims, 1);
    }
}
