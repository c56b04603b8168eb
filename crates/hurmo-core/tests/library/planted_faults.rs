//! Faults planted in known numbers: found in those, and mended.

use crate::random_cases::cases;
use glam::DVec3;
use hurmo_core::audit::{AuditOptions, audit};
use hurmo_core::measure::volume;
use hurmo_core::mend::mend;
use hurmo_core::{FaceId, Mesh, Model, shapes};
use proptest::prelude::*;
use std::collections::BTreeSet;

proptest! {
    #![proptest_config(cases(40))]
    #[test]
    fn planted_faults_are_found_in_their_number(
        turned in prop::collection::btree_set(0..100usize, 0..12),
        doubled in prop::collection::btree_set(100..200usize, 0..12),
        stray in 0..5usize,
    ) {
        // Faces of a torus, each far from the next: even rows and columns only.
        let torus = shapes::torus(3.0, 1.0, 40, 40);
        let spaced = |i: usize| FaceId::new((2 * (i / 10)) * 40 + 4 * (i % 10));
        let turned: BTreeSet<FaceId> = turned.into_iter().map(spaced).collect();
        let mut mesh = Mesh::from_parts(torus.positions().to_vec(), vec![], vec![0]).unwrap();
        for (face, corners) in torus.faces() {
            if turned.contains(&face) {
                mesh.push_face(corners.iter().rev().copied());
            } else {
                mesh.push_face(corners.iter().copied());
            }
        }
        for &i in &doubled {
            mesh.push_face(torus.face(spaced(i)).iter().copied());
        }
        for i in 0..stray {
            mesh.push_vertex(DVec3::splat(10.0 + i as f64));
        }
        let found = audit(&Model::from(mesh.clone()), &AuditOptions::default(), &()).unwrap();
        prop_assert_eq!(found.count("reversed-faces"), turned.len());
        prop_assert_eq!(found.count("misoriented-edges"), 4 * turned.len());
        prop_assert_eq!(found.count("lamina-faces"), doubled.len());
        prop_assert_eq!(found.count("nonmanifold-edges"), 4 * doubled.len());
        prop_assert_eq!(found.count("stray-vertices"), stray);
        prop_assert_eq!(found.count("open-edges"), 0);

        let mended = mend(&Model::from(mesh), &Default::default(), &()).unwrap();
        let after = audit(&mended.model, &AuditOptions::default(), &()).unwrap();
        prop_assert!(after.findings.iter().all(|finding| finding.count() == 0));
        prop_assert!(after.mesh.watertight);
        let volume = volume(&torus);
        prop_assert!((after.mesh.volume - volume).abs() < 1e-9 * volume);
        let again = mend(&mended.model, &Default::default(), &()).unwrap();
        prop_assert!(again.changes.is_empty());
        prop_assert_eq!(again.model, mended.model);
    }
}
