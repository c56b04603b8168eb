use super::*;
use crate::audit::{self, Audit, audit};
use crate::measure::deviation;
use crate::mesh::VertexId;
use crate::random_cases::cases;
use crate::shapes;
use glam::DVec3;
use proptest::prelude::*;
use rustc_hash::FxHashMap;

fn reduced(mesh: &Mesh, to: usize) -> (DecimateOutcome, Audit) {
    reduced_in_regions(mesh, to, REGION)
}

fn reduced_in_regions(mesh: &Mesh, to: usize, region: usize) -> (DecimateOutcome, Audit) {
    let options = DecimateOptions {
        to: Some(to),
        ..DecimateOptions::default()
    };
    let outcome = decimate_in_regions(&Model::from(mesh.clone()), &options, region, &());
    let audit = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
    (outcome, audit)
}

#[test]
fn a_fine_cube_reduced_to_twelve_is_the_cube() {
    let cube = shapes::cuboid(DVec3::splat(-1.5), DVec3::splat(2.5), 24);
    let (outcome, audit) = reduced(&cube, 12);
    assert_eq!(audit.mesh.faces, 12);
    assert_eq!(outcome.stopped_by, None);
    assert!((audit.mesh.volume - 64.0).abs() < 1e-12);
    assert!(audit.mesh.watertight);
    for p in outcome.model.mesh.positions() {
        let exact = p.to_array().iter().all(|x| [-1.5, 2.5].contains(x));
        assert!(exact, "{p}");
    }
}

#[test]
fn a_distance_is_held_and_well_used() {
    let sphere = shapes::sphere(1.0, 4);
    let mut last = usize::MAX;
    for within in [0.016, 0.064] {
        let options = DecimateOptions {
            within: Some(within),
            ..DecimateOptions::default()
        };
        let outcome = decimate(&Model::from(sphere.clone()), &options, &()).unwrap();
        let low = &outcome.model.mesh;
        assert_eq!(outcome.held, Some(within));
        assert!(crate::compare::stay_within(&sphere, low, within));
        // The fewest even triangles that can do it lie 2.42 / N off, at their best.
        let fewest = 2.42 / within;
        let faces = low.face_count() as f64;
        assert!(faces < 3.5 * fewest, "{faces} for {within}");
        assert!(low.face_count() < last);
        last = low.face_count();
        let budget = DecimateOptions {
            to: Some(last + 100),
            ..options
        };
        let outcome = decimate(&Model::from(sphere.clone()), &budget, &()).unwrap();
        assert!((last + 98..=last + 100).contains(&outcome.model.mesh.face_count()));
    }
}

#[test]
fn only_what_is_flat_goes() {
    let cube = shapes::cuboid(DVec3::ZERO, DVec3::splat(3.0), 91);
    let flat = DecimateOptions {
        flat: Some(1e-6),
        ..DecimateOptions::default()
    };
    let outcome = decimate(&Model::from(cube), &flat, &()).unwrap();
    assert_eq!(outcome.model.mesh.face_count(), 12);
    let sides: Vec<glam::DVec2> = (0..=30)
        .map(|i| glam::DVec2::new(1.0, f64::from(i)))
        .collect();
    let drum = Model::from(shapes::lathe(&sides, 24, true));
    let outcome = decimate(&drum, &flat, &()).unwrap();
    // Two caps of 22, and a quad a side.
    assert_eq!(outcome.model.mesh.face_count(), 2 * 22 + 2 * 24);
    assert_eq!(outcome.stopped_by, None);
    let volume = crate::measure::volume;
    assert!((volume(&outcome.model.mesh) - volume(&drum.mesh)).abs() < 1e-9);
}

#[test]
fn what_goes_as_flat_lies_no_further_off_than_was_said() {
    // Curved everywhere, so that a root of a mean square would hide single points.
    for (shape, flat) in [
        (shapes::bumpy_sphere(20_000), 2e-3),
        (shapes::torus(1.0, 0.3, 200, 80), 1e-3),
        (shapes::sphere(1.0, 5), 1e-3),
    ] {
        let options = DecimateOptions {
            flat: Some(flat),
            ..DecimateOptions::default()
        };
        let outcome = decimate(&Model::from(shape.clone()), &options, &()).unwrap();
        let low = &outcome.model.mesh;
        assert!(low.face_count() < outcome.before * 9 / 10);
        assert_eq!(outcome.held, Some(flat));
        // By brute force rather than by the proof: many samples, and all corners.
        let found = deviation(&shape, low, 300_000).unwrap();
        assert!(found.max <= flat, "{} of {flat}", found.max);
    }
}

#[test]
fn a_flat_grid_keeps_its_border_exactly() {
    let grid = shapes::grid(40, 30, 4.0, 3.0);
    let (outcome, audit) = reduced(&grid, 20);
    assert!(audit.mesh.faces <= 20 && audit.mesh.faces >= 18);
    assert!(
        (audit.mesh.area - 12.0).abs() < 1e-12,
        "{}",
        audit.mesh.area
    );
    let corners = [(0., 0.), (4., 0.), (4., 3.), (0., 3.)];
    for (x, y) in corners {
        let corner = DVec3::new(x, y, 0.0);
        assert!(outcome.model.mesh.positions().contains(&corner), "{corner}");
    }
    assert!(outcome.model.mesh.positions().iter().all(|p| p.z == 0.0));
}

#[test]
fn budgets_are_met_to_a_face_or_two_and_nothing_breaks() {
    let sphere = shapes::bumpy_sphere(20_000);
    for to in [10_000, 2_001, 300, 40] {
        let (_, audit) = reduced(&sphere, to);
        assert!(audit.mesh.faces <= to && audit.mesh.faces + 2 >= to, "{to}");
        assert!(audit.mesh.watertight);
        for finding in &audit.findings {
            let count = finding.count();
            assert!(count == 0, "{}: {count} at {to}", finding.check);
        }
    }
}

#[test]
fn what_cannot_be_reached_is_said() {
    let mut mesh = shapes::sphere(1.0, 0);
    let other = shapes::sphere(1.0, 0);
    let base = mesh.vertex_count() as u32;
    for &p in other.positions() {
        mesh.push_vertex(p + DVec3::X * 5.0);
    }
    for (_, face) in other.faces() {
        mesh.push_face(face.iter().map(|v| VertexId(v.0 + base)));
    }
    let (outcome, audit) = reduced(&mesh, 3);
    assert!(outcome.stopped_by.is_some());
    assert_eq!(audit.mesh.parts, 2, "no part is taken away");
    assert_eq!(audit.mesh.faces, 8);
    assert!(audit.mesh.watertight);
}

#[test]
fn far_closer_than_clustering_on_a_grid() {
    let sphere = shapes::bumpy_sphere(100_000);
    let rms = |mesh: &Mesh| deviation(&sphere, mesh, 30_000).unwrap().rms;
    for (to, factor) in [(ClusterAt::Middle, 10.0), (ClusterAt::Mean, 3.0)] {
        let clustered = clustered(&sphere, 0.04, to);
        let (outcome, _) = reduced(&sphere, clustered.face_count());
        let (ours, theirs) = (rms(&outcome.model.mesh), rms(&clustered));
        assert!(theirs > factor * ours, "{theirs} against {ours}");
    }
}

/// Where clustering puts the vertex of a grid cell.
#[derive(Clone, Copy, PartialEq)]
enum ClusterAt {
    /// In the middle of the cell.
    Middle,
    /// At the mean of its vertices.
    Mean,
}

/// Vertex clustering: the vertices of every grid cell become one.
fn clustered(mesh: &Mesh, cell: f64, to: ClusterAt) -> Mesh {
    let mut cells: FxHashMap<[i64; 3], (DVec3, f64, u32)> = FxHashMap::default();
    let key = |p: DVec3| (p / cell).floor().to_array().map(|x| x as i64);
    for &p in mesh.positions() {
        let next = cells.len() as u32;
        let entry = cells.entry(key(p)).or_insert((DVec3::ZERO, 0.0, next));
        entry.0 += p;
        entry.1 += 1.0;
    }
    let mut positions = vec![DVec3::ZERO; cells.len()];
    for (at, (sum, count, name)) in &cells {
        positions[*name as usize] = match to {
            ClusterAt::Mean => *sum / *count,
            ClusterAt::Middle => (DVec3::from_array(at.map(|x| x as f64)) + 0.5) * cell,
        };
    }
    let triangles: Vec<_> = mesh
        .faces()
        .map(|(_, f)| [0, 1, 2].map(|i| VertexId(cells[&key(mesh.position(f[i]))].2)))
        .filter(|t| t[0] != t[1] && t[1] != t[2] && t[2] != t[0])
        .collect();
    Mesh::from_triangles(positions, &triangles).unwrap()
}

proptest! {
    #![proptest_config(cases(14))]
    #[test]
    fn torn_meshes_stay_as_manifold_as_they_were(
        gone in prop::collection::btree_set(0usize..800, 0..150),
        share in 0.1..0.9f64,
        region in prop_oneof![Just(REGION), 30usize..200],
    ) {
        let torus = shapes::torus(3.0, 1.0, 40, 20);
        let mut torn = Mesh::from_parts(torus.positions().to_vec(), vec![], vec![0]).unwrap();
        for (face, vertices) in torus.faces() {
            if !gone.contains(&face.index()) {
                torn.push_face(vertices.iter().copied());
            }
        }
        let before = audit(&Model::from(torn.clone()), &audit::AuditOptions::default(), &()).unwrap();
        let target = (torn.face_count() as f64 * 2.0 * share) as usize;
        let (outcome, after) = reduced_in_regions(&torn, target, region);
        prop_assert_eq!(after.count("nonmanifold-edges"), 0);
        prop_assert_eq!(after.count("misoriented-edges"), 0);
        prop_assert_eq!(after.count("lamina-faces"), 0);
        prop_assert_eq!(after.mesh.parts, before.mesh.parts);
        prop_assert!(after.count("pinched-vertices") <= before.count("pinched-vertices"));
        prop_assert!(after.mesh.faces <= target || outcome.stopped_by.is_some());
    }
}
