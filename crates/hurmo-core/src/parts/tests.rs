use super::*;
use crate::mesh::{CornerLayer, FaceTags, Mesh, NO_VALUE, Tag, VertexId};
use crate::shapes;
use crate::units::Unit;
use glam::{DVec2, DVec3};

fn named(mesh: Mesh, material: &str) -> Model {
    let faces = mesh.face_count();
    let mut model = Model::from(mesh);
    model.attributes.tags = FaceTags {
        table: vec![Tag {
            material: Some(material.into()),
            ..Tag::default()
        }],
        of_face: vec![0; faces],
    };
    model
}

fn boxes() -> Model {
    let cube =
        |low: f64, high: f64, cuts| shapes::cuboid(DVec3::splat(low), DVec3::splat(high), cuts);
    let mut sheet = shapes::grid(2, 2, 1.0, 1.0);
    sheet.positions_mut().iter_mut().for_each(|p| p.x += 40.0);
    let all = [
        ("outer".to_string(), &named(cube(0.0, 10.0, 4), "steel")),
        ("inner".to_string(), &named(cube(2.0, 4.0, 3), "brass")),
        ("corner".to_string(), &named(cube(9.0, 12.0, 2), "steel")),
        ("sheet".to_string(), &Model::from(sheet)),
    ];
    joined(&all).model
}

#[test]
fn parts_are_described() {
    let model = boxes();
    let parts = described(&model, &());
    let [outer, inner, corner, sheet] = &parts[..] else {
        panic!("{} parts", parts.len())
    };
    assert_eq!(outer.surface, Surface::Closed);
    assert!((outer.volume.unwrap() - 1000.0).abs() < 1e-9);
    assert!((corner.volume.unwrap() - 27.0).abs() < 1e-9);
    assert_eq!(sheet.volume, None);
    assert_eq!(sheet.surface, Surface::Open);
    assert_eq!(inner.inside, Some(PartId::new(0)));
    assert_eq!((outer.inside, corner.inside), (None, None));
    assert_eq!(outer.meets, [PartId::new(2)]);
    assert_eq!(corner.meets, [PartId::new(0)]);
    assert!(inner.meets.is_empty() && !inner.hollow);
    assert_eq!(inner.materials, ["brass"]);
    assert_eq!(inner.groups, ["inner"]);
    assert!(sheet.materials.is_empty());
    assert_eq!(sheet.groups, ["sheet"]);
}

#[test]
fn an_inward_shell_in_a_solid_is_a_hollow() {
    let outer = shapes::cuboid(DVec3::ZERO, DVec3::splat(9.0), 3);
    let mut inner = shapes::cuboid(DVec3::splat(3.0), DVec3::splat(6.0), 2);
    inner
        .positions_mut()
        .iter_mut()
        .for_each(|p| p.x = 9.0 - p.x);
    let both = [
        ("a".to_string(), &Model::from(outer)),
        ("b".to_string(), &Model::from(inner)),
    ];
    let parts = described(&joined(&both).model, &());
    assert!(!parts[0].hollow && parts[1].hollow);
    assert_eq!(parts[1].inside, None);
    assert!((parts[1].volume.unwrap() - 27.0).abs() < 1e-9);
}

#[test]
fn what_is_split_and_joined_again_is_the_same() {
    let model = boxes();
    for by in [By::Part, By::Group, By::Material] {
        let all = pieces(&model, by);
        assert_eq!(all.len(), if by == By::Material { 3 } else { 4 });
        let models: Vec<(String, Model)> = all
            .iter()
            .map(|piece| (String::new(), only(&model, &piece.faces)))
            .collect();
        let again: Vec<(String, &Model)> = models
            .iter()
            .map(|(name, model)| (name.clone(), model))
            .collect();
        let again = joined(&again).model;
        assert_eq!(again.mesh.face_count(), model.mesh.face_count());
        assert_eq!(again.mesh.vertex_count(), model.mesh.vertex_count());
        let sizes = |model: &Model| {
            let parts = described(model, &());
            let size = |p: &PartFacts| (p.faces, p.groups.clone(), p.materials.clone());
            parts.iter().map(size).collect::<Vec<_>>()
        };
        assert_eq!(sizes(&again), sizes(&model));
    }
}

#[test]
fn dropping_a_part_leaves_what_is_stray() {
    let mut model = boxes();
    let stray = model.mesh.push_vertex(DVec3::splat(77.0));
    model.lines = vec![vec![stray, VertexId(0)], vec![stray, stray]];
    let outer = described(&model, &())[0].faces;
    let rest = without(&model, |part| part.index() == 0);
    assert_eq!(rest.mesh.face_count(), model.mesh.face_count() - outer);
    assert_eq!(rest.lines.len(), 1, "the one that hung on the part is gone");
    let stray = rest.lines[0][0];
    assert_eq!(rest.mesh.position(stray), DVec3::splat(77.0));
    assert_eq!(described(&rest, &()).len(), 3);
    let same = without(&model, |_| false);
    assert_eq!(same, model);
}

#[test]
fn joining_brings_units_and_layers_together() {
    let mut metre = Model::from(shapes::grid(1, 1, 1.0, 1.0));
    metre.unit = Some(Unit::M);
    let mut inch = Model::from(shapes::grid(1, 1, 1.0, 1.0));
    inch.unit = Some(Unit::In);
    inch.attributes.uvs = Some(CornerLayer {
        values: vec![DVec2::ONE],
        index: vec![0; inch.mesh.corners().len()],
    });
    inch.attributes.colors = Some(vec![[0.5; 4]; inch.mesh.vertex_count()]);
    let none = Model::from(shapes::grid(1, 1, 1.0, 1.0));
    let all = joined(&[
        ("a".into(), &metre),
        ("b".into(), &inch),
        ("c".into(), &none),
    ]);
    assert_eq!((all.scaled, all.without_unit), (1, 1));
    let area = crate::measure::area(&all.model.mesh);
    assert!((area - (2.0 + 0.0254 * 0.0254)).abs() < 1e-12);
    let uvs = all.model.attributes.uvs.unwrap();
    let corners = metre.mesh.corners().len();
    assert_eq!(uvs.index[0], NO_VALUE);
    assert_eq!(uvs.at(corners), Some(DVec2::ONE));
    let colors = all.model.attributes.colors.unwrap();
    assert_eq!(colors.len(), all.model.mesh.vertex_count());
    assert_eq!((colors[0], colors[4]), ([1.0; 4], [0.5; 4]));
}

#[test]
fn what_points_up_in_one_points_up_in_all() {
    let tall = |up: crate::units::Axis| {
        let mut model = Model::from(shapes::cuboid(
            DVec3::ZERO,
            DVec3::ONE + up.unit_vector(),
            1,
        ));
        model.up = Some(up);
        model
    };
    let [y, z] = [crate::units::Axis::Y, crate::units::Axis::Z].map(tall);
    let all = joined(&[("y".into(), &y), ("z".into(), &z)]).model;
    assert_eq!(all.up, y.up);
    let size = |mesh: &crate::Mesh| crate::measure::bounds(mesh).unwrap().size();
    // The second is laid beside the first, turned about the edge along x.
    assert_eq!(size(&all.mesh).to_array(), [1.0, 2.0, 2.0]);
    assert!((crate::measure::volume(&all.mesh) - 4.0).abs() < 1e-12);
}
