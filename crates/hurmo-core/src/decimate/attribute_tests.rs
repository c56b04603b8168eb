//! What comes along when a model is reduced: UVs, normals, groups.

use super::*;
use crate::audit::{self, audit};
use crate::mesh::{CornerLayer, FaceId, FaceTags, Tag};
use crate::random_cases::cases;
use crate::shapes;
use glam::{DVec2, DVec3};
use proptest::prelude::*;
use std::f64::consts::TAU;

fn reduced(model: &Model, to: usize) -> Model {
    reduced_in_regions(model, to, REGION)
}

fn reduced_in_regions(model: &Model, to: usize, region: usize) -> Model {
    let options = DecimateOptions {
        to: Some(to),
        ..DecimateOptions::default()
    };
    decimate_in_regions(model, &options, region, &()).model
}

/// A torus with UVs that go once round each way, and so have a seam each way.
fn textured_torus(around: usize, across: usize) -> Model {
    let mut model = Model::from(shapes::torus(1.0, 0.4, around, across));
    let mut layer = CornerLayer {
        values: Vec::new(),
        index: Vec::new(),
    };
    for face in model.mesh.face_ids() {
        let (i, j) = (face.index() / across, face.index() % across);
        for (a, b) in [(i, j), (i + 1, j), (i + 1, j + 1), (i, j + 1)] {
            layer.index.push(layer.values.len() as u32);
            let uv = DVec2::new(a as f64 / around as f64, b as f64 / across as f64);
            layer.values.push(uv);
        }
    }
    model.attributes.uvs = Some(layer);
    model
}

/// How far UVs lie from where the torus's own are at a point, in tiles, either way round.
fn slide(uv: DVec2, point: DVec3) -> f64 {
    let ring = point.truncate().length() - 1.0;
    let exact = DVec2::new(point.y.atan2(point.x), point.z.atan2(ring)) / TAU;
    let off = uv - exact;
    (off - off.round()).length()
}

#[test]
fn a_texture_does_not_slide() {
    let torus = textured_torus(200, 100);
    let low = reduced(&torus, 4_000);
    let uvs = low.attributes.uvs.as_ref().expect("UVs come along");
    let (mut at_corners, mut within) = (0.0f64, 0.0f64);
    for face in low.mesh.face_ids() {
        let corners: Vec<usize> = low.mesh.face_range(face).collect();
        let own: Vec<DVec2> = corners.iter().map(|&c| uvs.at(c).unwrap()).collect();
        // No face reaches across a seam.
        assert!(own.iter().all(|uv| uv.distance(own[0]) < 0.2), "{own:?}");
        for (&corner, &uv) in corners.iter().zip(&own) {
            let point = low.mesh.position(low.mesh.corners()[corner]);
            at_corners = at_corners.max(slide(uv, point));
        }
        let middle = own.iter().sum::<DVec2>() / 3.0;
        within = within.max(slide(middle, low.mesh.face_middle(face)));
    }
    assert!(at_corners < 0.01, "{at_corners}");
    assert!(within < 0.01, "{within}");
}

#[test]
fn borders_of_groups_stay_where_they_are() {
    let mut sphere = Model::from(shapes::sphere(1.0, 5));
    let upper = |mesh: &Mesh, face: FaceId| mesh.face_middle(face).z > 0.2;
    let named = |name: &str| Tag {
        group: Some(name.into()),
        ..Tag::default()
    };
    let faces = sphere.mesh.face_ids();
    sphere.attributes.tags = FaceTags {
        of_face: faces.map(|f| u32::from(upper(&sphere.mesh, f))).collect(),
        table: vec![named("hull"), named("lid")],
    };
    // The border zigzags by about an edge.
    let edge = 0.04;
    let low = reduced(&sphere, 2_000);
    let tags = &low.attributes.tags;
    let [mut lid, mut whole] = [0.0; 2];
    for (face, corners) in low.mesh.faces() {
        let area = crate::measure::vector_area(&low.mesh, face).length();
        whole += area;
        let heights = corners.iter().map(|&v| low.mesh.position(v).z);
        if tags.of_face[face.index()] == 1 {
            lid += area;
            assert!(heights.fold(f64::INFINITY, f64::min) > 0.2 - edge);
        } else {
            assert!(heights.fold(-1.0, f64::max) < 0.2 + edge);
        }
    }
    assert!((lid / whole - 0.4).abs() < 0.005, "{}", lid / whole);
}

#[test]
fn hard_edges_stay_hard_and_smooth_ones_smooth() {
    let profile: Vec<DVec2> = (0..=20)
        .map(|i| DVec2::new(1.0, f64::from(i) * 0.1))
        .collect();
    let mut drum = Model::from(shapes::lathe(&profile, 96, true));
    let mut layer = CornerLayer {
        values: Vec::new(),
        index: Vec::new(),
    };
    for (face, corners) in drum.mesh.faces() {
        let is_cap = corners.len() > 4;
        for &vertex in corners {
            let p = drum.mesh.position(vertex);
            layer.index.push(layer.values.len() as u32);
            layer.values.push(match is_cap {
                true => crate::measure::vector_area(&drum.mesh, face).normalize(),
                false => DVec3::new(p.x, p.y, 0.0).normalize(),
            });
        }
    }
    drum.attributes.normals = Some(layer);
    let low = reduced(&drum, 400);
    let normals = low.attributes.normals.as_ref().unwrap();
    for face in low.mesh.face_ids() {
        let up = crate::measure::vector_area(&low.mesh, face)
            .normalize()
            .z
            .abs();
        for corner in low.mesh.face_range(face) {
            let normal = normals.at(corner).unwrap();
            let p = low.mesh.position(low.mesh.corners()[corner]);
            match up > 0.5 {
                true => assert!(normal.z.abs() > 0.9999, "{normal}"),
                false => {
                    let out = DVec3::new(p.x, p.y, 0.0).normalize();
                    assert!(normal.dot(out) > 0.99, "{normal} at {p}");
                }
            }
        }
    }
}

proptest! {
    #![proptest_config(cases(10))]
    /// Random groups, random holes: nothing breaks, no group is lost, and UVs fit the surface.
    #[test]
    fn torn_and_grouped_meshes_keep_what_they_have(
        gone in prop::collection::btree_set(0usize..800, 0..60),
        seeds in prop::collection::vec(0usize..800, 1..6),
        share in 0.15..0.9f64,
        region in prop_oneof![Just(REGION), 30usize..200],
    ) {
        let torus = textured_torus(40, 20);
        let mut model = torus.without_faces(|f| gone.contains(&f.index())).0;
        let middles: Vec<DVec3> =
            seeds.iter().map(|&f| torus.mesh.face_middle(FaceId::new(f))).collect();
        let nearest = |p: DVec3| {
            let far = |i: &usize| p.distance_squared(middles[*i]);
            (0..middles.len()).min_by(|a, b| far(a).total_cmp(&far(b))).unwrap() as u32
        };
        let faces = model.mesh.face_ids();
        model.attributes.tags = FaceTags {
            of_face: faces.map(|f| nearest(model.mesh.face_middle(f))).collect(),
            table: (0..middles.len())
                .map(|i| Tag { material: Some(i.to_string()), ..Tag::default() })
                .collect(),
        };
        let before = audit(&model, &audit::AuditOptions::default(), &()).unwrap();
        let to = (model.mesh.face_count() as f64 * 2.0 * share) as usize;
        let low = reduced_in_regions(&model, to, region);
        let after = audit(&low, &audit::AuditOptions::default(), &()).unwrap();
        for check in ["nonmanifold-edges", "misoriented-edges", "lamina-faces"] {
            prop_assert_eq!(after.count(check), 0, "{}", check);
        }
        prop_assert!(after.count("pinched-vertices") <= before.count("pinched-vertices"));
        prop_assert_eq!(after.mesh.parts, before.mesh.parts);
        let groups = |model: &Model| {
            let mut groups = model.attributes.tags.of_face.clone();
            groups.sort_unstable();
            groups.dedup();
            groups
        };
        prop_assert_eq!(groups(&low), groups(&model));
        let uvs = low.attributes.uvs.as_ref().unwrap();
        for corner in 0..low.mesh.corners().len() {
            let point = low.mesh.position(low.mesh.corners()[corner]);
            // Of 1,500 such meshes with a sixth of their triangles left, the worst was at 0.0603.
            prop_assert!(slide(uvs.at(corner).unwrap(), point) < 0.1);
        }
    }
}
