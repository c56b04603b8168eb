//! No reduction adds a finding that blocks: random models, with random faults, at 50%, 10% and 2%.

use super::*;
use crate::audit::{self, Level, audit};
use crate::shapes;
use glam::DVec3;
use proptest::prelude::*;

/// A clean shape of some thousand triangles.
fn shape(kind: usize) -> Mesh {
    let profile = [
        (0.2, 0.0),
        (1.0, 0.0),
        (1.0, 0.5),
        (0.4, 1.0),
        (0.4, 2.0),
        (0.9, 2.2),
    ];
    let profile = profile.map(|(radius, z)| glam::DVec2::new(radius, z));
    match kind {
        0 => shapes::sphere(1.0, 3),
        1 => shapes::torus(1.0, 0.3, 48, 24),
        2 => shapes::cuboid(DVec3::ZERO, DVec3::new(1.0, 2.0, 0.3), 12),
        3 => shapes::bumpy_sphere(2_000),
        4 => shapes::grid(30, 30, 1.0, 1.0),
        _ => shapes::lathe(&profile, 60, true),
    }
}

/// Two shapes in one model, and faults: faces gone, turned, doubled; vertices made one.
fn spoilt(
    kinds: [usize; 2],
    apart: f64,
    faults: &[(usize, usize)],
    joined: &[(usize, usize)],
) -> Model {
    let mut all = Mesh::from_parts(vec![], vec![], vec![0]).unwrap();
    for (k, kind) in kinds.into_iter().enumerate() {
        let one = shape(kind);
        let base = all.vertex_count() as u32;
        for p in one.positions() {
            all.push_vertex(*p + DVec3::new(apart, 0.1, 0.2) * k as f64);
        }
        for (_, face) in one.faces() {
            all.push_face(face.iter().map(|v| VertexId(v.0 + base)));
        }
    }
    let mut to: Vec<u32> = (0..all.vertex_count() as u32).collect();
    for &(one, two) in joined {
        to[one % all.vertex_count()] = (two % all.vertex_count()) as u32;
    }
    let mut mesh = Mesh::from_parts(all.positions().to_vec(), vec![], vec![0]).unwrap();
    for (face, vertices) in all.faces() {
        let corners: Vec<VertexId> = vertices.iter().map(|v| VertexId(to[v.index()])).collect();
        let fault = faults
            .iter()
            .find(|(at, _)| at % all.face_count() == face.index());
        match fault.map(|fault| fault.1) {
            Some(0) => {}
            Some(1) => {
                mesh.push_face(corners.into_iter().rev());
            }
            Some(_) => {
                mesh.push_face(corners.iter().copied());
                mesh.push_face(corners);
            }
            None => {
                mesh.push_face(corners);
            }
        }
    }
    Model::from(mesh)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    #[test]
    fn nothing_that_blocks_is_added(
        kinds in [0usize..6, 0usize..6],
        apart in prop_oneof![Just(0.7), Just(5.0)],
        faults in prop::collection::vec((0usize..20_000, 0usize..3), 0..30),
        joined in prop::collection::vec((0usize..20_000, 0usize..20_000), 0..3),
        region in prop_oneof![Just(REGION), 60usize..300],
    ) {
        let model = spoilt(kinds, apart, &faults, &joined);
        let before = audit(&model, &audit::Options::default(), &());
        // Of a quad that a merged vertex bent, the one way to cut it may leave a piece without area.
        let (cut, _) = all_triangles(&model.mesh);
        let triangles = cut.len();
        let cut = Mesh::from_triangles(model.mesh.positions().to_vec(), &cut).unwrap();
        let cut = audit(&Model::from(cut), &audit::Options::default(), &());
        let was_cut_so = |check: &str| check == "zero-area-faces" && cut.count(check) > 0;
        for share in [0.5, 0.1, 0.02] {
            let options = Options {
                to: Some((triangles as f64 * share) as usize),
                ..Options::default()
            };
            let low = decimate_in_regions(&model, &options, region, &()).model;
            let after = audit(&low, &audit::Options::default(), &());
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
