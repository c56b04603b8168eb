//! Sliver faces: needles collapsed, caps flipped into their neighbours, as far as nothing turns
//! over, no border moves and what comes of it is less thin (see `thin`).
//!
//! Polygons with slivers among their triangles are cut up first. No surface moves further than
//! the height of a sliver, or the short side of a needle.

use super::thin_triangles::{Done, Thin, one_round};
use super::zero_area::unrepeat;
use super::{Cure, MendOptions, Step};
use crate::audit::is_sliver;
use crate::mesh::{Mesh, Model};
use crate::triangulate::{self, Pieces};

pub(super) const CURE: Cure = Cure {
    clears: &["sliver-faces"],
    safe: false,
    drops: false,
    apply: |model, options| Ok(apply(model, options)),
};

/// A needle's short side is at most this share of its long one.
const NEEDLE: f64 = 0.05;
const ROUNDS: usize = 30;
/// How many times its height a sliver's longest edge is, unless said.
const RATIO: f64 = 50.0;

fn apply(model: &mut Model, options: &MendOptions) -> Step {
    let ratio = options.sliver_ratio.unwrap_or(RATIO);
    let diagonal = crate::measure::bounds(&model.mesh).map_or(0.0, |b| b.diagonal());
    let is_bad = |mesh: &Mesh, face| is_sliver(mesh, face, diagonal, ratio);
    let mut step = Step::default();
    let mesh = &model.mesh;
    let (cut, count) = triangulate::some(model, Pieces::Triangles, |f| {
        mesh.face(f).len() > 3 && is_bad(mesh, f)
    });
    if count > 0 {
        *model = cut;
        step.done
            .push(("{polygon|polygons} with slivers cut into triangles", count));
    }
    let thin = Thin {
        is_bad: &is_bad,
        needle: NEEDLE,
        careful: true,
        tiny: 0.0,
        names: [
            "{sliver|slivers} dropped",
            "{sliver|slivers} collapsed",
            "{sliver|slivers} flipped into {its|their} neighbours",
        ],
    };
    let mut done = Done::default();
    let mut left = 0;
    for _ in 0..ROUNDS {
        let changed;
        let bad = thin.bad(&model.mesh);
        (changed, left) = one_round(model, &thin, &bad, &mut done);
        if !changed {
            break;
        }
        // Polygons along a collapsed edge have a corner less.
        unrepeat(model, &mut Done::default());
    }
    let mut done: Vec<_> = done.into_iter().collect();
    done.sort_unstable();
    step.done.extend(done);
    step.left = (left > 0).then_some((
        left,
        "{sliver|slivers} left: taking {it|them} out would bend the surface or move a border",
    ));
    step
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::audit::{self, audit};
    use crate::mend::{MendOptions, mend};
    use crate::mesh::{FaceId, VertexId};
    use crate::random_cases::cases;
    use crate::shapes;
    use glam::DVec3;
    use proptest::prelude::*;

    /// A ball with a vertex set into an edge of some faces (a cap), or into a corner (needles).
    fn with_slivers(planted: &[(usize, bool)]) -> Model {
        let ball = shapes::sphere(1.0, 3);
        let mut triangles: Vec<[VertexId; 3]> = ball
            .face_ids()
            .map(|f| ball.face(f).try_into().unwrap())
            .collect();
        let mut positions = ball.positions().to_vec();
        for &(face, cap) in planted {
            let [a, b, c] = triangles[face % triangles.len()];
            let [p, q, r] = [a, b, c].map(|v| positions[v.index()]);
            let weights = if cap {
                [0.49, 0.50, 0.01]
            } else {
                [0.98, 0.01, 0.01]
            };
            let new = VertexId::new(positions.len());
            positions.push(p * weights[0] + q * weights[1] + r * weights[2]);
            let count = triangles.len();
            triangles[face % count] = [a, b, new];
            triangles.extend([[b, c, new], [c, a, new]]);
        }
        let mut mesh = Mesh::from_parts(positions, vec![], vec![0]).unwrap();
        triangles.into_iter().for_each(|t| {
            mesh.push_face(t);
        });
        Model::from(mesh)
    }

    fn cleared(model: &Model) -> crate::mend::MendOutcome {
        let options = MendOptions {
            clear: vec!["sliver-faces".into()],
            ..MendOptions::default()
        };
        mend(model, &options, &()).unwrap()
    }

    proptest! {
        #![proptest_config(cases(32))]
        #[test]
        fn planted_slivers_go_and_the_ball_stays(
            planted in prop::collection::vec((0usize..1280, any::<bool>()), 1..30),
        ) {
            let model = with_slivers(&planted);
            let before = audit(&model, &audit::AuditOptions::default(), &()).unwrap();
            prop_assert!(before.count("sliver-faces") > 0);
            let outcome = cleared(&model);
            let after = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
            prop_assert!(after.mesh.watertight);
            prop_assert_eq!(after.count("sliver-faces"), 0, "{:?}", outcome.changes);
            prop_assert_eq!(after.count("intersecting-faces"), 0);
            let off = (after.mesh.volume / before.mesh.volume - 1.0).abs();
            prop_assert!(off < 2e-3, "{}", off);
        }
    }

    #[test]
    fn polygons_beside_a_collapsed_needle_stay_sound() {
        // A tube of quads with rings so near each other that its triangles are needles.
        let profile: Vec<glam::DVec2> = [0.0, 1.0, 1.004, 2.0, 3.0]
            .map(|z| glam::DVec2::new(1.0, z))
            .to_vec();
        let model = Model::from(shapes::lathe(&profile, 24, true));
        let before = audit(&model, &audit::AuditOptions::default(), &()).unwrap();
        assert!(before.count("sliver-faces") > 0 && before.mesh.watertight);
        let after = audit(&cleared(&model).model, &audit::AuditOptions::default(), &()).unwrap();
        assert!(after.mesh.watertight);
        assert!(after.count("sliver-faces") < before.count("sliver-faces"));
        for check in [
            "zero-area-faces",
            "lamina-faces",
            "nonmanifold-edges",
            "intersecting-faces",
        ] {
            assert_eq!(after.count(check), 0, "{check}");
        }
    }

    #[test]
    fn a_sliver_along_a_border_stays_and_is_told() {
        let mut mesh = Mesh::default();
        for p in [(0., 0.), (100., 0.), (50., 1.), (50., 60.)] {
            mesh.push_vertex(DVec3::new(p.0, p.1, 0.0));
        }
        for t in [[0, 1, 2], [1, 3, 2], [3, 0, 2]] {
            mesh.push_face(t.map(VertexId));
        }
        let outcome = cleared(&Model::from(mesh.clone()));
        assert_eq!(outcome.model.mesh, mesh);
        assert_eq!(outcome.left[0].count, 1);
        assert_eq!(mesh.face(FaceId(0)).len(), 3);
    }
}
