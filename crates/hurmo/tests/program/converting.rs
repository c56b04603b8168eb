//! What convert and prep put in order before a model goes on: size, origin, transforms, names, normals.

use crate::common::{Bench, CUBE, count, error_of, text_of};
use glam::{DAffine3, DMat3, DQuat, DVec3};
use hurmo_core::Model;
use hurmo_core::mesh::Tag;
use hurmo_core::scene::{Node, NodeId, Scene, Shows};
use hurmo_core::units::Unit;
use hurmo_core::{measure, shapes};
use hurmo_formats::{WriteOptions, read};
use std::sync::Arc;

fn model(bench: &Bench, file: &str) -> Model {
    read(&bench.path(file)).unwrap().model
}

fn size(model: &Model) -> DVec3 {
    measure::bounds(&model.mesh).unwrap().size()
}

/// A quay: a plank that is turned and shown again, stretched, beside an empty shelf, two of one name.
fn quay() -> Model {
    let mut model = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::new(2.0, 1.0, 0.25), 2));
    let own = Shows::Own {
        mesh: Some("plank".into()),
        stays: false,
    };
    let turned = DAffine3::from_rotation_translation(DQuat::from_rotation_z(0.5), DVec3::X);
    let stretched = DAffine3::from_scale_rotation_translation(
        DVec3::new(1.0, -3.0, 1.0),
        DQuat::from_rotation_x(0.3),
        DVec3::Z * 4.0,
    );
    let node = |name: &str, local, shows| Node {
        name: Some(name.into()),
        local,
        shows,
        ..Node::default()
    };
    let place = |_, at| turned.transform_point3(at);
    model.mesh.move_vertices(place).unwrap();
    model.attributes.tags.table = vec![Tag {
        object: Some("wet plank".into()),
        node: Some(NodeId(1)),
        ..Tag::default()
    }];
    model.attributes.tags.of_face = vec![0; model.mesh.face_count()];
    model.attributes.scene = Some(Arc::new(Scene {
        nodes: vec![
            node("shelf", DAffine3::IDENTITY, Shows::Nothing),
            node("wet plank", turned, own),
            node("wet plank", stretched, Shows::Of(NodeId(1))),
        ],
        roots: [0, 1, 2].map(NodeId).to_vec(),
        ..Scene::default()
    }));
    model
}

#[test]
fn a_scene_is_put_in_order() {
    let bench = Bench::new();
    let path = bench.path("quay.glb");
    hurmo_formats::write(&path, &quay(), WriteOptions::default()).unwrap();
    let faults = [
        "node-transforms",
        "mirroring-transforms",
        "empty-objects",
        "duplicate-names",
        "unsafe-names",
    ];
    let count = |file: &str, check: &str| {
        count(
            &bench.json(&format!("audit {file} --for engine"))["models"][0],
            check,
        )
    };
    for fault in faults {
        assert!(count("quay.glb", fault) > 0, "{fault}");
    }
    let all = "--flatten-transforms --drop-empty --unique-names --safe-names";
    let text = text_of(&bench, &format!("convert quay.glb -o tidy.glb {all}"));
    for words in [
        "2 transforms applied, 1 instance given a mesh of its own, 1 empty object dropped, 2 names",
        "dropped shelf",
        "wet plank → wet_plank",
    ] {
        assert!(text.contains(words), "{words} in {text}");
    }
    for fault in faults {
        assert_eq!(count("tidy.glb", fault), 0, "{fault}");
    }
    // What is shown is the same.
    let [was, is] = ["quay.glb", "tidy.glb"].map(|file| model(&bench, file).expanded());
    assert!((measure::volume(&was.mesh) - measure::volume(&is.mesh)).abs() < 1e-5);
    assert!(size(&was).distance(size(&is)) < 1e-5);
    assert_eq!(model(&bench, "tidy.glb").instances(), 0);
    // A second time there is nothing to do.
    let again = bench.json(&format!("convert tidy.glb -o again.glb {all}"));
    assert_eq!(again["did"], serde_json::json!([]));
    // The same as a step of a brief, and at the end of the usual ones.
    std::fs::write(
        bench.path("quay.toml"),
        "name = \"quay\"\nextends = \"engine\"\n[[step]]\ndo = \"convert\"\n\
         drop-empty = true\nunique-names = true\n",
    )
    .unwrap();
    bench.hurmo("prep quay.glb -o one.glb --for quay.toml");
    assert_eq!(
        (
            count("one.glb", "empty-objects"),
            count("one.glb", "duplicate-names")
        ),
        (0, 0)
    );
    bench.hurmo(&format!("prep quay.glb -o two.glb --for engine {all}"));
    for fault in faults {
        assert_eq!(count("two.glb", fault), 0, "{fault}");
    }
}

#[test]
fn a_model_becomes_as_large_as_it_is_and_stands_on_the_ground() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    let convert = |options: &str| {
        bench
            .hurmo(&format!("convert cube.obj -o out.3mf --force {options}"))
            .code(0);
        model(&bench, "out.3mf")
    };
    let tall = convert("--up z --real-size height=12cm --origin base");
    assert_eq!(tall.unit, Some(Unit::Cm));
    assert!(
        size(&tall).distance(DVec3::splat(12.0)) < 1e-9,
        "{}",
        size(&tall)
    );
    let bounds = measure::bounds(&tall.mesh).unwrap();
    assert!(bounds.min.distance(DVec3::new(-6.0, -6.0, 0.0)) < 1e-9);
    // The unit that it is to be in may be another.
    let inches = convert("--up z --real-size width=2in --to-unit mm --origin centre");
    assert!(size(&inches).distance(DVec3::splat(50.8)) < 1e-9);
    assert!(measure::bounds(&inches.mesh).unwrap().middle().length() < 1e-9);
    // Turned as well, what is tall is what points up afterwards.
    let turned = convert("--unit m --up y --to-up z --real-size longest=1m");
    assert_eq!((turned.unit, size(&turned)), (Some(Unit::M), DVec3::ONE));
    for (options, why) in [
        ("--real-size height=12cm", "--up"),
        ("--origin base", "--up"),
        ("--real-size height=12", "with a unit"),
        ("--real-size longest=1m --scale 2", "don't go together"),
        ("--normals smooth", "smooth=40"),
    ] {
        let line = format!("convert cube.obj -o no.obj {options}");
        let refused = error_of(&bench, &line);
        assert!(refused.contains(why), "{options}: {refused}");
        assert!(!bench.path("no.obj").exists());
    }
}

#[test]
fn a_print_goes_out_in_millimetres_as_tall_as_was_asked() {
    let bench = Bench::new();
    // A scrap that would make it look taller goes first.
    let ball = Model::from(shapes::sphere(1.0, 4));
    let mut scrap = Model::from(shapes::sphere(0.01, 1));
    scrap
        .mesh
        .move_vertices(|_, at| at + DVec3::Z * 3.0)
        .unwrap();
    let both = hurmo_core::parts::joined(&[("ball".into(), &ball), ("scrap".into(), &scrap)]);
    hurmo_formats::write(
        &bench.path("ball.ply"),
        &both.model,
        WriteOptions::default(),
    )
    .unwrap();
    let record = bench
        .json("prep ball.ply -o ball.3mf --for print --up z --real-size height=5cm --origin base");
    let ball = model(&bench, "ball.3mf");
    assert_eq!(ball.unit, Some(Unit::Mm));
    let bounds = measure::bounds(&ball.mesh).unwrap();
    assert!((bounds.size().z - 50.0).abs() < 1e-6, "{bounds:?}");
    assert!(bounds.min.z.abs() < 1e-6 && bounds.middle().truncate().length() < 1e-6);
    // Twice as large as it was in all; every length in the report is of the result.
    assert!((record["scaled"].as_f64().unwrap() - 25.0).abs() < 1e-6);
    let off = record["from_original"]["new_from_old"]["max"]
        .as_f64()
        .unwrap();
    assert!(off < 1e-6, "{off}");
}

#[test]
fn normals_are_made_flat_or_smooth() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    let normals = |how: &str| {
        bench
            .hurmo(&format!(
                "convert cube.obj -o out.obj --force --normals {how}"
            ))
            .code(0);
        model(&bench, "out.obj").attributes.normals
    };
    assert_eq!(normals("keep"), None);
    for (how, along) in [
        ("flat", 1.0),
        ("smooth=40", 1.0),
        ("smooth=120", 1.0 / 3.0f64.sqrt()),
    ] {
        let cube = {
            normals(how);
            model(&bench, "out.obj")
        };
        let layer = cube.attributes.normals.unwrap();
        for (face, _) in cube.mesh.faces() {
            let own = measure::vector_area(&cube.mesh, face).normalize();
            for corner in cube.mesh.face_range(face) {
                let normal = layer.at(corner).unwrap();
                assert!((normal.dot(own) - along).abs() < 1e-5, "{how}: {normal}");
            }
        }
    }
}

#[test]
fn a_sharp_skin_is_sound_in_single_precision_too() {
    let bench = Bench::new();
    // Two boxes pushed into each other, turned anyhow, and a rope of five sides across them.
    let turn = DMat3::from_quat(DQuat::from_euler(glam::EulerRot::XYZ, 0.4, 0.7, 0.2));
    let mut rope = Model::from(shapes::torus(0.8, 0.16, 60, 5));
    rope.convert(turn).unwrap();
    let mut box_ = Model::from(shapes::cuboid(DVec3::splat(-0.6), DVec3::splat(0.6), 1));
    box_.convert(turn * DMat3::from_rotation_y(0.3)).unwrap();
    let all = hurmo_core::parts::joined(&[("rope".into(), &rope), ("box".into(), &box_)]);
    hurmo_formats::write(&bench.path("all.ply"), &all.model, WriteOptions::default()).unwrap();
    for (cell, file) in [
        ("2%", "skin.stl"),
        ("1.3%", "skin.stl"),
        ("0.9%", "skin.glb"),
    ] {
        let line = format!("reskin all.ply -o {file} --cell {cell} --for print --force");
        let skin = bench.json(&line);
        assert_eq!(skin["after"]["mesh"]["watertight"], true, "{cell}: {skin}");
        for check in ["nonmanifold-edges", "lamina-faces", "pinched-vertices"] {
            assert_eq!(count(&skin["after"], check), 0, "{check} at {cell}");
        }
    }
}

#[test]
fn uvs_are_made_new_and_dropped_without_a_texture() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    let text = text_of(&bench, "convert cube.obj -o laid-out.obj --uvs new");
    assert!(text.contains("of the tile"), "{text}");
    let facts = &bench.audit("laid-out.obj")["mesh"]["uvs"];
    assert_eq!(facts["faces"], 6);
    let audit = bench.json("audit laid-out.obj --also overlapping-uvs,uvs-outside-tile");
    assert_eq!(count(&audit["models"][0], "overlapping-uvs"), 0);
    let text = text_of(&bench, "convert laid-out.obj -o bare.obj --uvs drop");
    assert!(text.contains("1 set of UVs dropped"), "{text}");
    assert!(model(&bench, "bare.obj").attributes.uvs.is_none());
    let kept = text_of(&bench, "convert laid-out.obj -o kept.obj");
    assert!(!kept.contains("UVs"), "{kept}");
    assert!(model(&bench, "kept.obj").attributes.uvs.is_some());
    text_of(
        &bench,
        "prep bare.obj -o game.obj --for engine --unit m --uvs new",
    );
    assert!(model(&bench, "game.obj").attributes.uvs.is_some());
}
