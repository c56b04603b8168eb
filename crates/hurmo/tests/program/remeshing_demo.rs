//! The demo's models in a new skin.

use glam::DVec3;
use hurmo::demo::models;
use hurmo_core::audit::{self, SortedAnalysis, audit};
use hurmo_core::remesh::dual_contouring::{ReskinOptions, reskin};
use hurmo_core::spatial::{TriangleHierarchy, crossings};
use hurmo_core::topology::Parts;
use hurmo_core::{Model, measure};

fn demo(file: &str) -> Model {
    let found = models().into_iter().find(|model| model.file == file);
    found.expect("a model of the demo").model
}

/// The volume of the union of a model's closed parts, whichever way their faces look: along this many
/// rays each way, what lies between where a ray enters a part and where it leaves it.
fn union_along_rays(model: &Model, rays: usize) -> f64 {
    let mesh = &model.mesh;
    let parts = Parts::of(mesh);
    let hierarchy = TriangleHierarchy::whole(mesh);
    let bounds = measure::bounds(mesh).unwrap();
    let size = bounds.size();
    let step = DVec3::new(size.x, size.y, 0.0) / rays as f64;
    let mut found = Vec::new();
    let mut volume = 0.0;
    for i in 0..rays * rays {
        let share = DVec3::new((i % rays) as f64 + 0.503, (i / rays) as f64 + 0.497, 0.0);
        let from = bounds.min + share * step - DVec3::Z;
        crossings(&hierarchy, from, DVec3::Z, size.z + 2.0, &mut found);
        let mut is_in = vec![false; parts.len()];
        let mut last = 0.0;
        for crossing in &found {
            if is_in.contains(&true) {
                volume += (crossing.at - last) * step.x * step.y;
            }
            let part = parts
                .of_face(mesh, hierarchy.face(crossing.triangle))
                .unwrap();
            is_in[part.index()] ^= true;
            last = crossing.at;
        }
    }
    volume
}

#[test]
fn the_buoy_becomes_one_solid_with_the_volume_of_its_parts_together() {
    let buoy = demo("buoy.obj");
    let cell = 0.01 * measure::bounds(&buoy.mesh).unwrap().diagonal();
    let skin = reskin(
        &SortedAnalysis::of(&buoy, &()),
        &ReskinOptions::of(cell),
        &(),
    )
    .unwrap()
    .model;
    assert_eq!(Parts::of(&skin.mesh).len(), 1);
    let [report, union] = [measure::volume(&skin.mesh), union_along_rays(&buoy, 400)];
    assert!((report - union).abs() < 3e-3 * union, "{report} of {union}");
}

#[test]
fn the_hawser_becomes_one_clean_rope() {
    let hawser = demo("hawser.stl");
    let cell = 0.005 * measure::bounds(&hawser.mesh).unwrap().diagonal();
    let mut options = ReskinOptions::of(cell);
    options.rounded = true;
    options.fill_voids = true;
    let skin = reskin(&SortedAnalysis::of(&hawser, &()), &options, &())
        .unwrap()
        .model;
    let report = audit(&skin, &audit::AuditOptions::default(), &()).unwrap();
    assert!(report.mesh.watertight);
    assert_eq!(report.mesh.parts, 1);
    for check in ["intersecting-faces", "pinched-vertices", "reversed-faces"] {
        let found = report.findings.iter().find(|found| found.check == check);
        assert_eq!(found.unwrap().count(), 0, "{check}");
    }
    // And its triangles are even, away from where the rope touches itself.
    let shape = measure::Evenness::of(&skin.mesh).unwrap();
    assert!(shape.even_angles > 0.75, "{shape:?}");
    assert!(shape.triangles > 50_000);
}
