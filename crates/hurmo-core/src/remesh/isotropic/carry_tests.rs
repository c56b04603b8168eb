//! What comes along when a surface is divided anew, and what relaxing alone does.

use super::tests::centred;
use super::*;
use crate::measure::Evenness;
use crate::mesh::{CornerLayer, FaceTags, Tag};
use glam::{DVec2, DVec3};
use std::collections::BTreeSet;

/// A sheet whose UVs are its places, in two charts side by side, each on its own page.
fn unwrapped() -> Model {
    let mesh = centred(16, 10);
    let mut layer = CornerLayer::default();
    for (face, corners) in mesh.faces() {
        let page = if mesh.face_middle(face).x < 0.0 {
            0.0
        } else {
            100.0
        };
        for v in corners {
            layer.index.push(layer.values.len() as u32);
            let p = mesh.position(*v);
            layer.values.push(DVec2::new(p.x + page, p.y));
        }
    }
    let mut model = Model::from(mesh);
    model.attributes.uvs = Some(layer);
    model.attributes.colors = Some(
        model
            .mesh
            .positions()
            .iter()
            .map(|p| {
                [
                    (p.x as f32 + 8.0) / 16.0,
                    (p.y as f32 + 5.0) / 10.0,
                    0.5,
                    1.0,
                ]
            })
            .collect(),
    );
    model
}

fn assert_unwrapped(model: &Model) {
    let uvs = model.attributes.uvs.as_ref().unwrap();
    let colors = model.attributes.colors.as_ref().unwrap();
    for (face, corners) in model.mesh.faces() {
        let page = if model.mesh.face_middle(face).x < 0.0 {
            0.0
        } else {
            100.0
        };
        for (corner, v) in model.mesh.face_range(face).zip(corners) {
            let p = model.mesh.position(*v);
            let uv = uvs.at(corner).unwrap();
            assert!(
                uv.distance(DVec2::new(p.x + page, p.y)) < 1e-6,
                "{uv} at {p}"
            );
            assert!((f64::from(colors[v.index()][0]) - (p.x + 8.0) / 16.0).abs() < 1e-5);
        }
    }
}

#[test]
fn textures_and_colours_stay_where_they_were() {
    let model = unwrapped();
    assert_unwrapped(&model);
    let outcome = remesh(&model, &RemeshOptions::of(Target::Edge(0.7)), &()).unwrap();
    assert!(outcome.after > 600, "{}", outcome.after);
    assert_unwrapped(&outcome.model);
    // Corners of a vertex in one chart share a value.
    let uvs = outcome.model.attributes.uvs.as_ref().unwrap();
    let used: BTreeSet<u32> = uvs.index.iter().copied().collect();
    let vertices = outcome.model.mesh.vertex_count();
    assert!(used.len() < vertices + 40, "{} for {vertices}", used.len());
    let relaxed = relax(
        &model,
        &RelaxOptions {
            rounds: 5,
            crease: DEFAULT_CREASE,
            faces: None,
        },
        &(),
    )
    .unwrap();
    assert_unwrapped(&relaxed.model);
}

#[test]
fn relaxing_changes_places_only() {
    // A sheet whose vertices are pushed about within it.
    let mut sheet = centred(20, 20);
    for (i, p) in sheet.positions_mut().iter_mut().enumerate() {
        let t = i as f64;
        if p.x.abs() < 10.0 && p.y.abs() < 10.0 {
            *p += DVec3::new((t * 12.9898).sin(), (t * 78.233).sin(), 0.0) * 0.3;
        }
    }
    let before = Evenness::of(&sheet).unwrap();
    let options = RelaxOptions {
        rounds: 20,
        crease: DEFAULT_CREASE,
        faces: None,
    };
    let relaxed = relax(&Model::from(sheet.clone()), &options, &()).unwrap();
    let mesh = &relaxed.model.mesh;
    assert_eq!(mesh.corners(), sheet.corners());
    assert!(relaxed.moved > 300);
    assert!((crate::measure::area(mesh) - 400.0).abs() < 1e-9);
    let after = Evenness::of(mesh).unwrap();
    assert!(
        after.edge_spread < before.edge_spread,
        "{before:?} {after:?}"
    );
    assert!(after.smallest_angle > before.smallest_angle);
}

#[test]
fn crumbs_of_lines_are_left_out_and_taken_in() {
    let mut model = Model::from(centred(30, 30));
    let named = |name: &str| Tag {
        group: Some(name.into()),
        ..Tag::default()
    };
    let mesh = &model.mesh;
    let of_face = mesh.face_ids().map(|face| {
        let middle = mesh.face_middle(face);
        // Half and half, and a stray face in one of them.
        u32::from(middle.x > 0.0 || middle.distance(DVec3::new(-7.5, 2.5, 0.0)) < 0.6)
    });
    model.attributes.tags = FaceTags {
        of_face: of_face.collect(),
        table: vec![named("deck"), named("hull")],
    };
    let remeshed = |under: f64| {
        let options = RemeshOptions {
            short_features: ShortFeatures::Under(under),
            ..RemeshOptions::of(Target::Edge(1.1))
        };
        remesh(&model, &options, &()).unwrap()
    };
    let hull_on_deck = |outcome: &RemeshOutcome| {
        let mesh = &outcome.model.mesh;
        let faces = mesh
            .face_ids()
            .filter(|face| mesh.face_middle(*face).x < -1.0);
        let tags = &outcome.model.attributes.tags.of_face;
        faces.filter(|face| tags[face.index()] == 1).count()
    };
    let kept = remeshed(0.0);
    assert!(kept.short_features == 0 && hull_on_deck(&kept) > 0);
    let taken = remeshed(5.0);
    assert_eq!((taken.short_features, hull_on_deck(&taken)), (1, 0));
    assert!(taken.recolored > 0);
    // The border between the halves is longer, and stays.
    for (outcome, side) in [(&kept, 450.0), (&taken, 450.0)] {
        let mesh = &outcome.model.mesh;
        let tags = &outcome.model.attributes.tags.of_face;
        let area: f64 = mesh
            .face_ids()
            .filter(|face| tags[face.index()] == 1 && mesh.face_middle(*face).x > 0.0)
            .map(|face| crate::measure::vector_area(mesh, face).length())
            .sum();
        assert!((area - side).abs() < 1e-9, "{area}");
    }
}
