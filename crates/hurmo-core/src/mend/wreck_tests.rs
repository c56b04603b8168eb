//! Random wrecks of closed models, made of the faults that real ones have: mending opens none, and
//! adds no fault.

use super::*;
use crate::audit::{self, audit};
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::random_cases::cases;
use crate::wrecks::shape;
use glam::DVec3;
use proptest::prelude::*;

/// A fault that leaves every edge an even number of sides.
#[derive(Clone, Debug)]
enum Fault {
    /// A face twice more, the same way or back to back.
    Doubled { face: usize, turned: [bool; 2] },
    /// Two faces back to back that hang on an edge.
    Pocket { face: usize },
    /// A needle: an edge gets a vertex all but at its end, on both sides.
    Needle { face: usize, share: f64 },
    /// Two vertices far apart become one.
    Pinched { vertices: [usize; 2] },
    /// A small tetrahedron that shares an edge with the shape.
    Beside { face: usize },
    /// The shape once more, in the same place.
    Twice { turned: bool },
}

fn fault() -> impl Strategy<Value = Fault> {
    let at = || 0usize..20_000;
    prop_oneof![
        (at(), any::<[bool; 2]>()).prop_map(|(face, turned)| Fault::Doubled { face, turned }),
        at().prop_map(|face| Fault::Pocket { face }),
        (at(), prop_oneof![Just(1e-9), Just(1e-15), Just(0.0)])
            .prop_map(|(face, share)| Fault::Needle { face, share }),
        [at(), at()].prop_map(|vertices| Fault::Pinched { vertices }),
        at().prop_map(|face| Fault::Beside { face }),
    ]
}

fn spoil(mesh: &Mesh, fault: &Fault) -> Mesh {
    let mut positions = mesh.positions().to_vec();
    let mut faces: Vec<Vec<VertexId>> = mesh.faces().map(|(_, face)| face.to_vec()).collect();
    let pick = |i: usize| i % mesh.face_count();
    let turned = |face: &[VertexId]| face.iter().rev().copied().collect::<Vec<_>>();
    let vertex = |positions: &mut Vec<DVec3>, at: DVec3| {
        positions.push(at);
        VertexId::new(positions.len() - 1)
    };
    match *fault {
        Fault::Doubled { face, turned: ways } => {
            let face = faces[pick(face)].clone();
            for way in ways {
                faces.push(if way { turned(&face) } else { face.clone() });
            }
        }
        Fault::Pocket { face } => {
            let face = FaceId::new(pick(face));
            let out = crate::measure::vector_area(mesh, face).normalize_or_zero();
            let [a, b] = [0, 1].map(|i| mesh.face(face)[i]);
            let tip = vertex(&mut positions, mesh.face_middle(face) + 0.1 * out);
            faces.extend([vec![a, b, tip], vec![b, a, tip]]);
        }
        Fault::Needle { face, share } => {
            let [a, b] = [0, 1].map(|i| faces[pick(face)][i]);
            let at = mesh.position(a).lerp(mesh.position(b), share);
            let new = vertex(&mut positions, at);
            for face in &mut faces {
                let count = face.len();
                let on = |i: usize| [face[i], face[(i + 1) % count]];
                let side = (0..count).find(|&i| on(i) == [a, b] || on(i) == [b, a]);
                if let Some(side) = side {
                    face.insert(side + 1, new);
                }
            }
        }
        Fault::Pinched { vertices } => {
            let [one, two] = vertices.map(|v| VertexId::new(v % mesh.vertex_count()));
            let near = |a: VertexId, b: VertexId| {
                mesh.faces()
                    .any(|(_, face)| face.contains(&a) && face.contains(&b))
            };
            let has_common = mesh.vertex_ids().any(|v| near(v, one) && near(v, two));
            if !has_common {
                for face in &mut faces {
                    face.iter_mut()
                        .filter(|v| **v == two)
                        .for_each(|v| *v = one);
                }
            }
        }
        Fault::Beside { face } => {
            let face = FaceId::new(pick(face));
            let out = crate::measure::vector_area(mesh, face).normalize_or_zero();
            let [a, b] = [0, 1].map(|i| mesh.face(face)[i]);
            let middle = (mesh.position(a) + mesh.position(b)) / 2.0;
            let across = out
                .cross(mesh.position(b) - mesh.position(a))
                .normalize_or_zero();
            let high = vertex(&mut positions, middle + 0.05 * out + 0.01 * across);
            let low = vertex(&mut positions, middle + 0.05 * out - 0.01 * across);
            faces
                .extend([[a, b, high], [b, a, low], [a, high, low], [b, low, high]].map(Vec::from));
        }
        Fault::Twice { turned: back } => {
            let again: Vec<_> = faces
                .iter()
                .map(|face| if back { turned(face) } else { face.clone() })
                .collect();
            faces.extend(again);
        }
    }
    let mut spoilt = Mesh::from_parts(positions, vec![], vec![0]).unwrap();
    faces.into_iter().for_each(|face| {
        spoilt.push_face(face);
    });
    spoilt
}

proptest! {
    #![proptest_config(cases(40))]
    #[test]
    fn a_closed_model_stays_closed_and_gets_no_fault(
        kind in prop_oneof![Just(0usize), Just(1), Just(2), Just(3)],
        faults in prop::collection::vec(fault(), 1..12),
        twice in prop::option::weighted(0.2, any::<bool>()),
    ) {
        let mut mesh = shape(kind);
        if let Some(turned) = twice {
            mesh = spoil(&mesh, &Fault::Twice { turned });
        }
        for fault in &faults {
            mesh = spoil(&mesh, fault);
        }
        let before = audit(&Model::from(mesh.clone()), &audit::AuditOptions::default(), &()).unwrap();
        prop_assume!(before.count("open-edges") == 0);
        let options = MendOptions { gap: 1e-5, ..MendOptions::default() };
        let mended = mend(&Model::from(mesh), &options, &()).unwrap();
        let after = audit(&mended.model, &audit::AuditOptions::default(), &()).unwrap();
        prop_assert_eq!(after.count("open-edges"), 0, "{:?}", mended.changes);
        for check in ["duplicate-vertices", "zero-area-faces", "lamina-faces",
            "nonmanifold-edges", "misoriented-edges", "reversed-faces"] {
            let (was, is) = (before.count(check), after.count(check));
            prop_assert!(is <= was, "{}: {} -> {}", check, was, is);
        }
        prop_assert_eq!(after.count("lamina-faces"), 0);
    }
}
