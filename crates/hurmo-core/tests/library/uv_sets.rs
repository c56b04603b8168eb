//! Several sets of UVs, through all that changes a surface: each stays where it was on it, and what
//! parts one of them is not crossed.

use glam::{DVec2, DVec3};
use hurmo_core::VertexId;
use hurmo_core::decimate::{self, decimate};
use hurmo_core::fill::{self, fill};
use hurmo_core::mesh::{CornerLayer, FaceId, Mesh, Model};
use hurmo_core::remesh::{DEFAULT_CREASE, RelaxOptions, RemeshOptions, Target, relax, remesh};
use hurmo_core::{parts, shapes};

/// By set, a UV of a place in a face whose middle is given: each set has a seam of its own.
fn uv(set: usize, place: DVec3, middle: DVec3) -> DVec2 {
    let flat = place.truncate();
    let page = |there: bool| if there { DVec2::X * 100.0 } else { DVec2::ZERO };
    match set {
        0 => flat + page(middle.x > 0.0),
        1 => DVec2::new(flat.y * 0.5, -flat.x) + page(middle.y > 0.0),
        _ => unreachable!("there are two"),
    }
}

fn layer(mesh: &Mesh, set: usize) -> CornerLayer<DVec2> {
    let mut layer = CornerLayer::default();
    for (face, corners) in mesh.faces() {
        for &v in corners {
            layer.index.push(layer.values.len() as u32);
            let uv = uv(set, mesh.position(v), mesh.face_middle(face));
            layer.values.push(uv);
        }
    }
    layer
}

/// A flat sheet from -10 to 10 with two sets of UVs.
fn sheet(fineness: usize) -> Model {
    let mut mesh = shapes::grid(fineness, fineness, 20.0, 20.0);
    let middle = mesh.positions().iter().sum::<DVec3>() / mesh.vertex_count() as f64;
    mesh.move_vertices(|_, at| at - middle).unwrap();
    let mut model = Model::from(mesh);
    model.attributes.uvs = Some(layer(&model.mesh, 0));
    model.attributes.more_uvs = vec![layer(&model.mesh, 1)];
    model
}

/// How many corners have no UV of some set; those of the others are where they should be.
fn without_uvs(model: &Model, off: f64) -> usize {
    let mesh = &model.mesh;
    assert_eq!(model.attributes.uv_sets().count(), 2);
    let mut bare = 0;
    for (set, layer) in model.attributes.uv_sets().enumerate() {
        assert_eq!(layer.index.len(), mesh.corners().len());
        for face in mesh.face_ids() {
            for corner in mesh.face_range(face) {
                let place = mesh.position(mesh.corners()[corner]);
                let Some(own) = layer.at(corner) else {
                    bare += 1;
                    continue;
                };
                let wanted = uv(set, place, mesh.face_middle(face));
                assert!(own.distance(wanted) < off, "{set}: {own} at {place}");
            }
        }
    }
    bare
}

#[test]
fn reduced() {
    let mut options = decimate::DecimateOptions::default();
    options.to = Some(200);
    let outcome = decimate(&sheet(60), &options, &()).unwrap();
    assert!(outcome.model.mesh.face_count() <= 200);
    assert_eq!(without_uvs(&outcome.model, 1e-6), 0);
}

#[test]
fn divided_anew_and_relaxed() {
    let model = sheet(20);
    let outcome = remesh(&model, &RemeshOptions::of(Target::Edge(0.8)), &()).unwrap();
    assert_eq!(without_uvs(&outcome.model, 1e-6), 0);
    let mut shaken = sheet(20);
    let shake = |v: VertexId, at: DVec3| {
        let t = v.index() as f64;
        match at.x.abs() < 9.5 && at.y.abs() < 9.5 && at.x.abs() > 0.5 && at.y.abs() > 0.5 {
            true => at + DVec3::new((t * 12.9898).sin(), (t * 78.233).sin(), 0.0) * 0.2,
            false => at,
        }
    };
    shaken.mesh.move_vertices(shake).unwrap();
    shaken.attributes.uvs = Some(layer(&shaken.mesh, 0));
    shaken.attributes.more_uvs = vec![layer(&shaken.mesh, 1)];
    let mut options = RelaxOptions::of(5);
    options.crease = DEFAULT_CREASE;
    let relaxed = relax(&shaken, &options, &()).unwrap();
    assert!(relaxed.moved > 100);
    assert_eq!(without_uvs(&relaxed.model, 1e-6), 0);
}

#[test]
fn filled() {
    let whole = sheet(40);
    // Within one page of either set; and across the seam of the second only.
    for (hole, bare) in [
        (DVec2::new(5.0, 5.0), [true, true]),
        (DVec2::new(5.0, 0.0), [true, false]),
    ] {
        let goes = |face: FaceId| whole.mesh.face_middle(face).truncate().distance(hole) < 2.0;
        let (open, _) = whole.without_faces(goes);
        let before = open.mesh.corners().len();
        let rims = fill::rims_described(&open.mesh);
        let hole = rims.iter().find(|rim| rim.kind == fill::Kind::Hole);
        let hole = hole.expect("one was cut").rim.index();
        let mut options = fill::FillOptions::default();
        options.rims = vec![hole..=hole];
        options.surface = Some(fill::Surface::Flat);
        let outcome = fill(&open, &options, &()).unwrap();
        let after = &outcome.model;
        assert_eq!(outcome.filled.len(), 1);
        let sets = after.attributes.uv_sets().zip(bare);
        for (layer, expected) in sets {
            let mut new = before..after.mesh.corners().len();
            assert!(!new.is_empty());
            assert_eq!(new.all(|corner| layer.at(corner).is_some()), expected);
        }
        assert_eq!(without_uvs(after, 1e-6) == 0, bare == [true, true]);
    }
}

#[test]
fn joined_to_what_has_fewer() {
    let two = sheet(4);
    let mut one = sheet(4);
    one.attributes.more_uvs.clear();
    let bare = Model::from(sheet(4).mesh);
    let named = |name: &str| name.to_string();
    let all = [
        (named("bare"), &bare),
        (named("one"), &one),
        (named("two"), &two),
    ];
    let all = parts::joined(&all).model;
    let corners = two.mesh.corners().len();
    assert_eq!(without_uvs(&all, 1e-12), corners * 2 + corners);
}
