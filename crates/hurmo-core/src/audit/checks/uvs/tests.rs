use crate::audit::{Audit, AuditOptions, Brief, Level, UvFacts, audit};
use crate::mesh::{CornerLayer, FaceId, Mesh, Model, NO_VALUE, Tag};
use crate::scene::{ImageId, Material, Scene, TextureUse};
use crate::shading::{Shading, normals};
use crate::shapes;
use crate::topology::Edges;
use crate::units::{Axis, Unit};
use glam::{DVec2, DVec3};
use std::sync::Arc;

/// A sheet of 8 by 4 faces, unfolded as it lies, each corner by itself.
fn sheet() -> Model {
    let mut model = Model::from(shapes::grid(8, 4, 1.0, 0.5));
    let mesh = &model.mesh;
    let corners = mesh.corners().iter();
    model.attributes.uvs = Some(CornerLayer {
        values: corners.map(|&v| mesh.position(v).truncate()).collect(),
        index: (0..mesh.corners().len() as u32).collect(),
    });
    model
}

fn uvs(model: &mut Model, face: u32) -> impl Iterator<Item = &mut DVec2> {
    let range = model.mesh.face_range(FaceId(face));
    model.attributes.uvs.as_mut().unwrap().values[range].iter_mut()
}

fn audited(model: &Model) -> Audit {
    let mut options = AuditOptions {
        brief: Brief::engine(),
        ..AuditOptions::default()
    };
    for check in ["off-origin", "wrong-up-axis", "suspicious-size"] {
        options.brief.set_level(check, Level::Note);
    }
    options.brief.handoff.up = Some(Axis::Z);
    audit(model, &options, &()).unwrap()
}

/// The checks about UVs, normals and arrival that find something, with how much.
fn found(model: &Model) -> Vec<(&'static str, usize)> {
    let ours = |check: &str| {
        ["uvs", "texel", "normals", "origin", "up-axis", "size"]
            .iter()
            .any(|part| check.contains(part))
    };
    let audit = audited(model);
    let findings = audit
        .findings
        .iter()
        .map(|found| (found.check, found.count()));
    findings
        .filter(|(check, count)| *count > 0 && ours(check))
        .collect()
}

/// What is expected of a model that nobody has said the up axis of.
fn with_up<'c>(expected: &[(&'c str, usize)]) -> Vec<(&'c str, usize)> {
    [&[("wrong-up-axis", 1)], expected].concat()
}

fn measure(model: &Model, check: &str) -> f64 {
    let audit = audited(model);
    let finding = audit.findings.iter().find(|found| found.check == check);
    finding.unwrap().found.measure.unwrap().value
}

#[test]
fn a_clean_layout_has_no_fault_and_is_measured() {
    let model = sheet();
    assert_eq!(found(&model), with_up(&[]));
    let facts = UvFacts {
        set: 1,
        sets: 1,
        faces: 32,
        islands: 1,
        tile_used: 0.5,
    };
    assert_eq!(audited(&model).mesh.uvs, Some(facts));
    assert_eq!(audited(&Model::from(model.mesh)).mesh.uvs, None);
}

#[test]
fn the_set_that_is_asked_for_is_looked_at() {
    let mut overlapping = sheet();
    uvs(&mut overlapping, 0).for_each(|at| at.x += 0.1875);
    // The first is sound, the second is not.
    let mut model = sheet();
    model.attributes.more_uvs.extend(overlapping.attributes.uvs);
    assert_eq!(found(&model), with_up(&[]));
    let count = |uv_set| {
        let options = AuditOptions {
            brief: Brief::engine(),
            uv_set,
            ..AuditOptions::default()
        };
        let audit = audit(&model, &options, &()).unwrap();
        let of = |check| {
            audit
                .findings
                .iter()
                .find(move |found| found.check == check)
        };
        let counts = ["overlapping-uvs", "missing-uvs"].map(|check| of(check).unwrap().count());
        (counts, audit.mesh.uvs.map(|uvs| (uvs.set, uvs.sets)))
    };
    assert_eq!(count(0), ([0, 0], Some((1, 2))));
    assert_eq!(count(1), ([3, 0], Some((2, 2))));
    // A set that is not there has no faults, and no measures.
    assert_eq!(count(2), ([0, 0], None));
}

#[test]
fn each_fault_of_a_layout_is_found_and_counted() {
    // A face that is folded over lies on nothing but is mirrored, if it is away from the others.
    let mut mirrored = sheet();
    uvs(&mut mirrored, 0).for_each(|at| *at = DVec2::new(0.2 - at.x, at.y + 0.6));
    assert_eq!(found(&mirrored), with_up(&[("mirrored-uvs", 1)]));
    let mut outside = sheet();
    uvs(&mut outside, 3).for_each(|at| at.y -= 0.7);
    assert_eq!(found(&outside), with_up(&[("uvs-outside-tile", 1)]));
    let mut flat = sheet();
    uvs(&mut flat, 9).for_each(|at| at.x = 0.9);
    assert_eq!(found(&flat), with_up(&[("zero-area-uvs", 1)]));
    // Half a face across, on two others and they on it.
    let mut overlapping = sheet();
    uvs(&mut overlapping, 0).for_each(|at| at.x += 0.1875);
    assert_eq!(found(&overlapping), with_up(&[("overlapping-uvs", 3)]));
    assert!((measure(&overlapping, "overlapping-uvs") - 2.0 / 64.0).abs() < 1e-12);
    let mut dense = sheet();
    uvs(&mut dense, 0).for_each(|at| *at = *at * 3.0 + DVec2::Y * 0.6);
    assert_eq!(found(&dense), with_up(&[("uneven-texel-density", 1)]));
}

#[test]
fn what_has_no_uvs_is_missed_where_others_have_them_or_a_texture_asks() {
    let mut model = sheet();
    for corner in model.mesh.face_range(FaceId(5)) {
        model.attributes.uvs.as_mut().unwrap().index[corner] = NO_VALUE;
    }
    assert_eq!(found(&model), with_up(&[("missing-uvs", 1)]));
    // A model without any is not asked for them, but by a texture.
    let mut model = Model::from(sheet().mesh);
    model.attributes.tags.table = ["plain", "painted"]
        .map(|name| Tag {
            material: Some(name.into()),
            ..Tag::default()
        })
        .into();
    let mut tags = vec![0; 32];
    tags[..7].fill(1);
    model.attributes.tags.of_face = tags;
    assert_eq!(found(&model), with_up(&[]));
    let painted = Material {
        color_texture: Some(TextureUse::of(ImageId(0))),
        ..Material::named("painted")
    };
    model.attributes.scene = Some(Arc::new(Scene {
        materials: vec![painted],
        ..Scene::default()
    }));
    assert_eq!(found(&model), with_up(&[("missing-uvs", 7)]));
    // Two textures do not lie on each other.
    let mut model = sheet();
    model.attributes.tags.table = ["tar", "rope"]
        .map(|name| Tag {
            material: Some(name.into()),
            ..Tag::default()
        })
        .into();
    model.attributes.tags.of_face = (0..32).map(|face| u32::from(face >= 16)).collect();
    let shift = DVec2::Y * 0.25;
    (16..32).for_each(|face| uvs(&mut model, face).for_each(|at| *at -= shift));
    assert_eq!(found(&model), with_up(&[]));
    model.attributes.tags.of_face.fill(0);
    assert_eq!(found(&model), with_up(&[("overlapping-uvs", 32)]));
}

#[test]
fn normals_that_are_missing_or_wrong_are_found_and_hard_edges_measured() {
    let cube = |turned: bool| {
        let mut model = Model::from(shapes::cuboid(DVec3::splat(-0.5), DVec3::splat(0.5), 2));
        let mut layer = normals(&model.mesh, Shading::Flat);
        if turned {
            layer.values[3] *= -1.0;
            layer.values[7] = DVec3::ZERO;
            layer.index[0] = NO_VALUE;
        }
        model.attributes.normals = Some(layer);
        model
    };
    assert_eq!(found(&cube(false)), with_up(&[]));
    assert_eq!(audited(&cube(false)).mesh.hard_edges, Some(24));
    assert_eq!(
        found(&cube(true)),
        with_up(&[("missing-normals", 1), ("bad-normals", 2)])
    );
    assert_eq!(audited(&sheet()).mesh.hard_edges, None);
}

#[test]
fn how_a_model_arrives_is_judged_where_it_is_known() {
    let cube = |size: f64, at: f64| {
        let low = DVec3::splat(at);
        let mesh: Mesh = shapes::cuboid(low, low + size, 1);
        Model {
            unit: Some(Unit::Mm),
            up: Some(Axis::Z),
            ..Model::from(mesh)
        }
    };
    assert_eq!(found(&cube(500.0, 0.0)), []);
    assert_eq!(found(&cube(0.5, 0.0)), [("suspicious-size", 1)]);
    assert_eq!(found(&cube(200_000.0, 0.0)), [("suspicious-size", 1)]);
    assert_eq!(found(&cube(500.0, 400.0)), [("off-origin", 1)]);
    assert!((measure(&cube(500.0, 400.0), "off-origin") - 0.8).abs() < 1e-12);
    let unknown = Model {
        unit: None,
        up: Some(Axis::Y),
        ..cube(0.5, 0.0)
    };
    assert_eq!(found(&unknown), with_up(&[]));
    // Edges that three faces share are no layout's fault by themselves.
    assert!(Edges::of(&cube(1.0, 0.0).mesh).len() == 12);
}
