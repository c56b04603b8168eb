//! No reduction adds a finding that blocks: random models, with random faults, at 50%, 10% and 2%.

use super::*;
use crate::audit::{self, Level, audit};
use crate::random_cases::cases;
use crate::wrecks::spoilt;
use proptest::prelude::*;

/// A doubled face that loses what lies beside it at a rim would run its edge twice the same way.
#[test]
fn a_doubled_face_does_not_come_to_lie_alone_at_a_rim() {
    for face in [93, 320, 753, 1571, 10_753] {
        let model = spoilt([4, 4], 0.7, &[(face, 2)], &[]);
        let options = DecimateOptions {
            to: Some(model.mesh.triangle_count() / 50),
            ..DecimateOptions::default()
        };
        let low = decimate_in_regions(&model, &options, REGION, &()).model;
        let after = audit(&low, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!(after.count("misoriented-edges"), 0, "{face}");
    }
}

proptest! {
    #![proptest_config(cases(5))]
    #[test]
    fn nothing_that_blocks_is_added(
        kinds in [0usize..6, 0usize..6],
        apart in prop_oneof![Just(0.7), Just(5.0)],
        faults in prop::collection::vec((0usize..20_000, 0usize..3), 0..30),
        joined in prop::collection::vec((0usize..20_000, 0usize..20_000), 0..3),
        region in prop_oneof![Just(REGION), 60usize..300],
    ) {
        let model = spoilt(kinds, apart, &faults, &joined);
        let before = audit(&model, &audit::AuditOptions::default(), &()).unwrap();
        // Of a quad that a merged vertex bent, the one way to cut it may leave a piece without area;
        // and of a polygon that passes a vertex twice, two pieces may come to share an edge with two
        // more.
        let (cut, _) = all_triangles(&model.mesh);
        let triangles = cut.len();
        let cut = Mesh::from_triangles(model.mesh.positions().to_vec(), &cut).unwrap();
        let cut = audit(&Model::from(cut), &audit::AuditOptions::default(), &()).unwrap();
        let of_cutting = ["zero-area-faces", "nonmanifold-edges"];
        let was_cut_so = |check: &str| of_cutting.contains(&check) && cut.count(check) > 0;
        for share in [0.5, 0.1, 0.02] {
            let options = DecimateOptions {
                to: Some((triangles as f64 * share) as usize),
                ..DecimateOptions::default()
            };
            let low = decimate_in_regions(&model, &options, region, &()).model;
            let after = audit(&low, &audit::AuditOptions::default(), &()).unwrap();
            for finding in after.findings.iter().filter(|f| f.level == Level::Block) {
                let check = finding.check;
                prop_assert!(
                    finding.count() == 0 || before.count(check) > 0 || was_cut_so(check),
                    "{}: {} at {}", check, finding.count(), share
                );
            }
        }
    }
}
