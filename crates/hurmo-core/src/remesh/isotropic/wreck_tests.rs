//! No wreck is made worse: random models, with random faults.

use super::*;
use crate::audit::{self, audit};
use crate::measure::deviation;
use crate::mesh::Mesh;
use crate::random_cases::cases;
use crate::triangulate::all_triangles;
use crate::wrecks::spoilt;
use proptest::prelude::*;

proptest! {
    #![proptest_config(cases(14))]
    #[test]
    fn wrecks_are_remeshed_sheet_by_sheet(
        kinds in [0usize..6, 0usize..6],
        apart in prop_oneof![Just(0.7), Just(5.0)],
        faults in prop::collection::vec((0usize..100_000, 0usize..3), 0..12),
        joined in prop::collection::vec((0usize..100_000, 0usize..100_000), 0..3),
        edge in prop_oneof![Just(0.05), Just(0.12), Just(0.3)],
    ) {
        let model = spoilt(kinds, apart, &faults, &joined);
        // Polygons that pass a vertex twice show their edges as triangles only.
        let (triangles, _) = all_triangles(&model.mesh);
        let cut = Mesh::from_triangles(model.mesh.positions().to_vec(), &triangles).unwrap();
        let before = audit(&Model::from(cut), &audit::AuditOptions::default(), &()).unwrap();
        let outcome = remesh(&model, &RemeshOptions::of(Target::Edge(edge)), &()).unwrap();
        let after = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
        // Doubled faces are parts of their own making; what hangs together still does.
        prop_assert!(after.mesh.parts <= before.mesh.parts);
        prop_assert!(after.mesh.rims <= before.mesh.rims, "{} of {}", after.mesh.rims, before.mesh.rims);
        // They may be divided more finely, but none come where there were none; and of three faces
        // at an edge one may have no area and go, so that two are left that run it the same way.
        let many_sided = before.count("nonmanifold-edges") > 0;
        prop_assert!(many_sided || after.count("nonmanifold-edges") == 0);
        let turned = before.count("misoriented-edges") > 0;
        prop_assert!(many_sided || turned || after.count("misoriented-edges") == 0);
        for check in ["pinched-vertices", "lamina-faces", "duplicate-vertices"] {
            let allowed = match check {
                // A doubled face is divided, and so are its doubles.
                "lamina-faces" if before.count(check) > 0 => usize::MAX,
                // What is joined far off lies over other faces: lines that lie on each other are
                // divided at the same places. So may be the insides of doubled faces.
                "duplicate-vertices" if !joined.is_empty() || before.count("lamina-faces") > 0 => {
                    usize::MAX
                }
                _ => before.count(check),
            };
            let now = after.count(check);
            prop_assert!(now <= allowed, "{check}: {now} of {allowed}");
        }
        let moved = deviation(&outcome.model.mesh, &model.mesh, 2_000).unwrap();
        prop_assert!(moved.max < edge, "{moved:?}");
    }
}

/// A side of a cylinder three times over: no edge of it may go on one of them alone.
#[test]
fn doubled_faces_hang_together_as_before() {
    let model = spoilt([5, 4], 5.0, &[(93966, 2)], &[]);
    let before = audit(&model, &audit::AuditOptions::default(), &()).unwrap();
    assert!(before.count("lamina-faces") > 0);
    let outcome = remesh(&model, &RemeshOptions::of(Target::Edge(0.05)), &()).unwrap();
    let after = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
    assert_eq!(after.count("pinched-vertices"), 0);
    assert_eq!(after.count("misoriented-edges"), 0);
}

/// A corner pulled through the wall of its own model: new vertices on the long faces stay on them
/// where the wall comes close.
#[test]
fn a_spike_through_a_wall_keeps_its_faces() {
    let model = spoilt([1, 5], 5.0, &[], &[(11805, 1977)]);
    let outcome = remesh(&model, &RemeshOptions::of(Target::Edge(0.05)), &()).unwrap();
    let moved = deviation(&outcome.model.mesh, &model.mesh, 20_000).unwrap();
    assert!(moved.max < 0.008, "{moved:?}");
}
