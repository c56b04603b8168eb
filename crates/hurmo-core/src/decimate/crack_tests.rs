use super::cracks::Cracks;
use super::*;
use crate::audit::{self, audit};
use crate::mesh::{Rebuild, VertexId};
use crate::random_cases::cases;
use crate::shapes;
use crate::spatial::welded;
use crate::wrecks::with_flat_uvs;
use glam::{DVec2, DVec3};
use proptest::prelude::*;

/// The model with vertices of their own for the faces on one side, along the edges between sides.
fn cracked(mesh: &Mesh, side: impl Fn(DVec3) -> bool, at: impl Fn(DVec3) -> bool) -> Model {
    let model = Model::from(mesh.clone());
    let mut rebuild = Rebuild::new(&model);
    let mut sides = vec![[false; 2]; mesh.vertex_count()];
    for (face, corners) in mesh.faces() {
        let side = usize::from(side(mesh.face_middle(face)));
        corners.iter().for_each(|v| sides[v.index()][side] = true);
    }
    let copies: Vec<VertexId> = mesh
        .vertex_ids()
        .map(|v| {
            let both = sides[v.index()] == [true; 2] && at(mesh.position(v));
            match both {
                true => rebuild.new_vertex(mesh.position(v), v),
                false => v,
            }
        })
        .collect();
    for face in mesh.face_ids() {
        let moves = side(mesh.face_middle(face));
        let corners = mesh.face_range(face).map(|corner| {
            let v = mesh.corners()[corner];
            (corner, if moves { copies[v.index()] } else { v })
        });
        rebuild.moved_piece(face, corners);
    }
    rebuild.finish()
}

fn to(model: &Model, to: usize) -> DecimateOutcome {
    let options = DecimateOptions {
        to: Some(to),
        ..DecimateOptions::default()
    };
    decimate(model, &options, &()).unwrap()
}

fn open_edges(model: &Model) -> usize {
    let audit = audit(model, &audit::AuditOptions::default(), &()).unwrap();
    audit.count("open-edges")
}

#[test]
fn both_sides_of_a_crack_keep_to_each_other_and_stay_apart() {
    let sphere = shapes::bumpy_sphere(8_000);
    let model = cracked(&sphere, |p| p.z + 0.3 * p.x > 0.1, |_| true);
    assert!(open_edges(&model) > 0);
    for budget in [4_000, 800, 200] {
        let reduced = to(&model, budget).model;
        assert!(reduced.mesh.face_count() <= budget);
        let audit = audit(&reduced, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!(audit.mesh.parts, 2);
        let open = audit.count("open-edges");
        assert!(open >= 6 && open.is_multiple_of(2), "{open}");
        // Each open edge lies on another: welded, it is as closed as the sphere.
        assert_eq!(open_edges(&welded(&reduced.mesh).into()), 0);
        assert_eq!(audit.count("intersecting-faces"), 0);
    }
}

#[test]
fn a_slit_stays_one() {
    let plane = shapes::grid(40, 40, 4.0, 4.0);
    let model = cracked(&plane, |p| p.x > 2.0, |p| (p.y - 2.0).abs() < 0.95);
    let before = audit(&model, &audit::AuditOptions::default(), &()).unwrap();
    assert_eq!(before.mesh.rims, 2);
    let reduced = to(&model, 60).model;
    let after = audit(&reduced, &audit::AuditOptions::default(), &()).unwrap();
    assert_eq!((after.mesh.rims, after.mesh.parts), (2, 1));
    assert!((after.mesh.area - 16.0).abs() < 1e-6);
    assert!(after.count("open-edges") < before.count("open-edges"));
}

#[test]
fn what_corners_carry_comes_along() {
    let plane = shapes::grid(20, 20, 1.0, 1.0);
    let mut model = with_flat_uvs(cracked(&plane, |p| p.x > 0.5, |_| true));
    model.attributes.colors = Some(vec![[0.5; 4]; model.mesh.vertex_count()]);
    let reduced = to(&model, 40).model;
    let uvs = reduced.attributes.uvs.as_ref().unwrap();
    for (corner, vertex) in reduced.mesh.corners().iter().enumerate() {
        let at: DVec2 = reduced.mesh.position(*vertex).truncate();
        assert!(uvs.at(corner).unwrap().distance(at) < 1e-6);
    }
    let colors = reduced.attributes.colors.as_ref().unwrap();
    assert_eq!(colors.len(), reduced.mesh.vertex_count());
    assert_eq!(
        audit(&reduced, &audit::AuditOptions::default(), &())
            .unwrap()
            .mesh
            .parts,
        2
    );
}

#[test]
fn a_face_that_would_fold_is_left_apart() {
    // Two sides of one face lie on each other: as one line they would be one edge of it.
    let points = vec![DVec3::ZERO, DVec3::X, DVec3::X, DVec3::ZERO];
    let mut mesh = Mesh::from_parts(points, vec![], vec![0]).unwrap();
    mesh.push_face([0, 1, 2, 3].map(VertexId));
    assert!(Cracks::of(&mesh).is_none());
    // On two faces they are a crack.
    let points = [
        DVec3::ZERO,
        DVec3::X,
        DVec3::Y,
        DVec3::X,
        DVec3::ZERO,
        -DVec3::Y,
    ];
    let faces = [[0, 1, 2], [3, 4, 5]].map(|face| face.map(VertexId));
    let mesh = Mesh::from_triangles(points.to_vec(), &faces).unwrap();
    let cracks = Cracks::of(&mesh).expect("two open edges on each other");
    let is_one = |a: u32, b: u32| cracks.first(VertexId(a)) == cracks.first(VertexId(b));
    assert!(is_one(0, 4) && is_one(1, 3) && !is_one(2, 5));
}

proptest! {
    #![proptest_config(cases(16))]
    #[test]
    fn cracks_open_no_gap(
        kind in 0usize..4,
        normal in [-1.0f64..1.0, -1.0f64..1.0, 0.2f64..1.0],
        off in -0.2f64..0.2,
        share in 0.02f64..0.6,
    ) {
        let shape = crate::wrecks::shape(kind);
        let middle = crate::measure::bounds(&shape).unwrap().middle();
        let normal = DVec3::from(normal).normalize();
        let model = cracked(&shape, |p| (p - middle).dot(normal) > off, |_| true);
        let budget = (shape.face_count() as f64 * share) as usize;
        let reduced = to(&model, budget.max(40)).model;
        prop_assert_eq!(open_edges(&welded(&reduced.mesh).into()), 0);
        let parts = |model: &Model| audit(model, &audit::AuditOptions::default(), &()).unwrap().mesh.parts;
        prop_assert_eq!(parts(&reduced), parts(&model));
    }
}
