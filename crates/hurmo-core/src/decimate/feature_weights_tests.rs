//! What higher and lower weights do.

use super::*;
use crate::mesh::{FaceTags, Tag, VertexId};
use crate::shapes;
use crate::topology::{Edges, Rims};
use glam::DVec3;
use std::collections::HashSet;

fn reduced(model: &Model, to: usize, weights: FeatureWeights) -> Mesh {
    let options = DecimateOptions {
        to: Some(to),
        weights,
        ..DecimateOptions::default()
    };
    decimate(model, &options, &()).unwrap().model.mesh
}

fn places(mesh: &Mesh) -> HashSet<[u64; 3]> {
    let used = mesh.used_vertices();
    let all = mesh.positions().iter().zip(used);
    all.filter(|(_, used)| *used)
        .map(|(p, _)| p.to_array().map(f64::to_bits))
        .collect()
}

fn upper(mesh: &Mesh) -> usize {
    mesh.face_ids()
        .filter(|&f| mesh.face_middle(f).z > 0.0)
        .count()
}

#[test]
fn a_focus_gets_so_many_times_the_triangles() {
    let sphere = Model::from(shapes::sphere(1.0, 5));
    for times in [3.0, 0.5] {
        let faces = sphere.mesh.face_ids();
        let above = |f| sphere.mesh.face_middle(f).z > 0.0;
        let focus = faces.map(|f| if above(f) { times } else { 1.0 }).collect();
        let weights = FeatureWeights {
            focus,
            ..FeatureWeights::default()
        };
        let low = reduced(&sphere, 2_000, weights);
        let ratio = upper(&low) as f32 / (low.face_count() - upper(&low)) as f32;
        assert!(
            (0.75..1.33).contains(&(ratio / times)),
            "{ratio} for {times}"
        );
    }
}

#[test]
fn even_triangles_are_bought_with_accuracy() {
    // A flat sheet with a bump.
    let sheet = shapes::grid(100, 100, 2.0, 2.0);
    let bump = |p: &DVec3| {
        let from = (p.truncate() - glam::DVec2::ONE).length_squared();
        DVec3::new(p.x, p.y, 0.3 * (-20.0 * from).exp())
    };
    let positions = sheet.positions().iter().map(bump).collect();
    let (triangles, _) = all_triangles(&sheet);
    let model = Model::from(Mesh::from_triangles(positions, &triangles).unwrap());
    let found = [0.0, 0.5, 1.0].map(|even| {
        let weights = FeatureWeights {
            regularity: even,
            ..FeatureWeights::default()
        };
        let low = reduced(&model, 1_000, weights);
        let areas = low
            .face_ids()
            .map(|f| crate::measure::vector_area(&low, f).length());
        let areas: Vec<f64> = areas.collect();
        let mean = areas.iter().sum::<f64>() / areas.len() as f64;
        let squares = areas.iter().map(|area| (area / mean - 1.0).powi(2));
        let spread = (squares.sum::<f64>() / areas.len() as f64).sqrt();
        let off = crate::measure::deviation(&model.mesh, &low, 20_000).unwrap();
        (spread, off.rms)
    });
    assert!(
        found[1].0 < found[0].0 && found[2].0 < 0.3 * found[0].0,
        "{found:?}"
    );
    assert!(found[2].1 > found[0].1, "{found:?}");
}

#[test]
fn kept_rims_keep_every_vertex_and_others_do_not() {
    let sphere = Model::from(shapes::sphere(1.0, 4));
    let above = |f: FaceId| sphere.mesh.face_middle(f).z > 0.2;
    let cap = sphere.without_faces(|f| !above(f)).0;
    let rim = |mesh: &Mesh| -> HashSet<[u64; 3]> {
        let edges = Edges::of(mesh);
        let rims = Rims::of(mesh, &edges);
        let vertices = rims.closed.iter().flat_map(|rim| rim.vertices.clone());
        vertices
            .map(|v| mesh.position(v).to_array().map(f64::to_bits))
            .collect()
    };
    let before = rim(&cap.mesh);
    let keeping = |rims: Weight| FeatureWeights {
        rims,
        ..FeatureWeights::default()
    };
    let kept = reduced(&cap, 300, keeping(Weight::ALL));
    assert_eq!(rim(&kept), before);
    let loose = reduced(&cap, 300, keeping(Weight::new(0.0).unwrap()));
    assert!(rim(&loose).len() < before.len() / 2);
}

#[test]
fn kept_groups_and_creases_keep_their_course() {
    let mut sphere = Model::from(shapes::sphere(1.0, 4));
    let above = |f: FaceId, mesh: &Mesh| mesh.face_middle(f).z > 0.2;
    let named = |name: &str| Tag {
        group: Some(name.into()),
        ..Tag::default()
    };
    let faces = sphere.mesh.face_ids();
    let of_face: Vec<u32> = faces.map(|f| u32::from(above(f, &sphere.mesh))).collect();
    sphere.attributes.tags = FaceTags {
        table: vec![named("below"), named("above")],
        of_face,
    };
    let line = |mesh: &Mesh, of_face: &[u32]| -> HashSet<[u64; 3]> {
        let mut seen = vec![[false; 2]; mesh.vertex_count()];
        for ((_, face), &tag) in mesh.faces().zip(of_face) {
            face.iter()
                .for_each(|v| seen[v.index()][tag as usize] = true);
        }
        let both = mesh.positions().iter().zip(seen);
        both.filter(|(_, seen)| *seen == [true; 2])
            .map(|(p, _)| p.to_array().map(f64::to_bits))
            .collect()
    };
    let options = DecimateOptions {
        to: Some(500),
        weights: FeatureWeights {
            groups: Weight::ALL,
            ..FeatureWeights::default()
        },
        ..DecimateOptions::default()
    };
    let low = decimate(&sphere, &options, &()).unwrap().model;
    let of = |model: &Model| line(&model.mesh, &model.attributes.tags.of_face);
    assert_eq!(of(&low), of(&sphere));

    let profile: Vec<glam::DVec2> = (0..=20)
        .map(|i| glam::DVec2::new(1.0, f64::from(i)))
        .collect();
    let drum = Model::from(shapes::lathe(&profile, 24, true));
    let weights = FeatureWeights {
        creases: Some(Weight::ALL),
        ..FeatureWeights::default()
    };
    let low = reduced(&drum, 120, weights);
    let kept = places(&low);
    let edge = drum.mesh.positions().iter().filter(|p| {
        let round = p.truncate().length() > 0.9;
        round && (p.z == 0.0 || p.z == 20.0)
    });
    let edge: Vec<_> = edge.collect();
    assert_eq!(edge.len(), 48);
    assert!(
        edge.iter()
            .all(|p| kept.contains(&p.to_array().map(f64::to_bits)))
    );
}

#[test]
fn each_part_has_its_own_budget() {
    let ball = shapes::sphere(1.0, 4);
    let mut both = ball.clone();
    let base = both.vertex_count() as u32;
    for p in ball.positions() {
        both.push_vertex(*p * 0.1 + DVec3::X * 3.0);
    }
    for (_, face) in ball.faces() {
        both.push_face(face.iter().map(|v| VertexId(v.0 + base)));
    }
    let model = Model::from(both);
    let of_face = model
        .mesh
        .face_ids()
        .map(|f| u32::from(model.mesh.face_middle(f).x > 2.0));
    let of_face: Vec<u32> = of_face.collect();
    let options = DecimateOptions {
        shares: Some(Shares::new(&model, of_face, |triangles| triangles / 10)),
        ..DecimateOptions::default()
    };
    let outcome = decimate(&model, &options, &()).unwrap();
    let mesh = outcome.model.mesh;
    let small = mesh
        .face_ids()
        .filter(|&f| mesh.face_middle(f).x > 2.0)
        .count();
    let budget = ball.face_count() / 10;
    for count in [small, mesh.face_count() - small] {
        assert!(
            (budget - 1..=budget).contains(&count),
            "{count} of {budget}"
        );
    }
    assert_eq!(outcome.stopped_by, None);
}

#[test]
fn small_parts_go_only_where_that_is_allowed() {
    let ball = shapes::sphere(1.0, 3);
    let mut all = ball.clone();
    for (k, size) in [(1.0, 0.01), (2.0, 0.02), (3.0, 0.5)] {
        let base = all.vertex_count() as u32;
        for p in ball.positions() {
            all.push_vertex(*p * size + DVec3::X * 3.0 * k);
        }
        for (_, face) in ball.faces() {
            all.push_face(face.iter().map(|v| VertexId(v.0 + base)));
        }
    }
    let model = Model::from(all);
    let with = |may_drop_under: Option<f64>| {
        let options = DecimateOptions {
            to: Some(12),
            may_drop_under,
            ..DecimateOptions::default()
        };
        decimate(&model, &options, &()).unwrap()
    };
    let kept = with(None);
    assert_eq!(kept.model.mesh.face_count(), 16);
    assert!(kept.stopped_by.is_some() && kept.dropped.is_empty());
    let fewer = with(Some(0.1));
    // The two small ones: all of them cost less than to coarsen the others.
    assert_eq!(fewer.dropped, [PartId::new(1), PartId::new(2)]);
    assert_eq!(fewer.model.mesh.face_count(), 12);
    assert_eq!(fewer.stopped_by, None);
    let left = crate::topology::Parts::of(&fewer.model.mesh);
    assert_eq!(left.len(), 2);
    let plenty = DecimateOptions {
        to: Some(5_000),
        may_drop_under: Some(0.1),
        ..DecimateOptions::default()
    };
    assert!(decimate(&model, &plenty, &()).unwrap().dropped.is_empty());
}
