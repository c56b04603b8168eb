//! What is handed over: scenes, materials and textures, units and axes.

use crate::common::{Bench, CUBE, error_of, text_of};
use glam::DVec3;
use hurmo_core::Model;
use hurmo_core::mesh::CornerLayer;
use hurmo_core::parts::joined;
use hurmo_core::scene::{ImageData, Node, NodeId, Scene, Shows};
use hurmo_core::{mesh::Tag, shapes};
use hurmo_formats::{Format, WriteOptions, read};
use std::sync::Arc;

fn model(bench: &Bench, file: &str) -> Model {
    read(&bench.path(file)).unwrap().model
}

fn said(bench: &Bench, line: &str) -> String {
    let output = bench.hurmo(line).code(0).get_output().clone();
    String::from_utf8(output.stderr).unwrap()
}

/// The demo's lantern with its textures, and what is handed over of it.
fn lantern(bench: &Bench) {
    std::fs::create_dir(bench.path("props")).unwrap();
    let lantern = hurmo::demo::models().remove(2);
    let path = bench.path("props").join(lantern.file);
    hurmo_formats::write(&path, &lantern.model, WriteOptions::default()).unwrap();
    let line = format!(
        "prep props/lantern.obj -o {} --for {} --pack props/lantern-handoff {}",
        lantern.prepared,
        lantern.brief,
        lantern.arguments.join(" ")
    );
    text_of(bench, &line);
}

#[test]
fn any_set_of_uvs_is_audited_and_drawn() {
    let bench = Bench::new();
    let mut sheet = Model::from(shapes::grid(4, 4, 1.0, 1.0));
    let corners = sheet.mesh.corners().iter();
    let uvs = |scale: f64| CornerLayer {
        values: (corners.clone())
            .map(|&v| sheet.mesh.position(v).truncate() * scale)
            .collect(),
        index: (0..sheet.mesh.corners().len() as u32).collect(),
    };
    let (whole, half) = (uvs(1.0), uvs(0.5));
    sheet.attributes.uvs = Some(whole);
    sheet.attributes.more_uvs = vec![half];
    write(&bench, "sheet.glb", &sheet);
    let text_of = |line: &str| {
        let output = bench.hurmo(line).get_output().clone();
        String::from_utf8(output.stdout).unwrap()
    };
    assert!(
        text_of("audit sheet.glb").contains("UVs (set 1 of 2) in 1 island on 100.0% of the tile")
    );
    let second = text_of("audit sheet.glb --uv-set 2");
    assert!(
        second.contains("UVs (set 2 of 2) in 1 island on 25.0% of the tile"),
        "{second}"
    );
    bench
        .hurmo("picture sheet.glb -o first.png --show uv")
        .code(0);
    bench
        .hurmo("picture sheet.glb -o second.png --show uv --uv-set 2")
        .code(0);
    let [first, second] = ["first.png", "second.png"].map(|name| std::fs::read(bench.path(name)));
    assert_ne!(first.unwrap(), second.unwrap());
    let refused = error_of(
        &bench,
        "picture sheet.glb -o third.png --show uv --uv-set 3",
    );
    assert!(refused.contains("the model has 2 sets of UVs"), "{refused}");
    bench.hurmo("audit sheet.glb --uv-set 0").code(2);
    // Reduced, it has both.
    bench.hurmo("decimate sheet.glb --to 8 -o low.glb").code(0);
    let low = model(&bench, "low.glb");
    assert_eq!(low.attributes.uv_sets().count(), 2);
}

/// A scene of a buoy that is shown twice, the second turned, mirrored and twice as large.
fn two_buoys() -> Model {
    let mut model = Model::from(shapes::sphere(1.0, 4));
    let node = |name: &str, local, shows| Node {
        name: Some(name.into()),
        local,
        children: Vec::new(),
        shows,
        serves: false,
        moves: false,
        source: None,
    };
    let own = Shows::Own {
        mesh: Some("ball".into()),
        stays: false,
    };
    let away = glam::DAffine3::from_scale_rotation_translation(
        glam::DVec3::new(-2.0, 2.0, 2.0),
        glam::DQuat::from_rotation_z(0.3),
        glam::DVec3::X * 5.0,
    );
    model.attributes.tags.table = vec![Tag {
        object: Some("near".into()),
        node: Some(NodeId(0)),
        ..Tag::default()
    }];
    model.attributes.tags.of_face = vec![0; model.mesh.face_count()];
    model.attributes.scene = Some(Arc::new(Scene {
        nodes: vec![
            node("near", glam::DAffine3::IDENTITY, own),
            node("far", away, Shows::Of(NodeId(0))),
        ],
        roots: vec![NodeId(0), NodeId(1)],
        ..Scene::default()
    }));
    model
}

fn write(bench: &Bench, name: &str, model: &Model) {
    hurmo_formats::write(&bench.path(name), model, WriteOptions::default()).unwrap();
}

#[test]
fn what_is_done_to_a_mesh_is_done_to_all_its_instances() {
    let bench = Bench::new();
    write(&bench, "buoys.glb", &two_buoys());
    for line in [
        "decimate buoys.glb -o out.glb --to 200 --force",
        "remesh buoys.glb -o out.glb --to 400 --force",
        "mend buoys.glb -o out.glb --force",
    ] {
        text_of(&bench, line);
        let out = model(&bench, "out.glb");
        assert_eq!(out.instances(), 1, "{line}");
        let one = hurmo_core::measure::volume(&out.mesh);
        let all = hurmo_core::measure::volume(&out.expanded().mesh);
        assert!((all / one - 9.0).abs() < 1e-5, "{line}: {one} {all}");
        let scene = out.attributes.scene.as_ref().unwrap();
        let names: Vec<_> = scene
            .nodes
            .iter()
            .map(|node| node.name.as_deref())
            .collect();
        assert_eq!(names, [Some("near"), Some("far")], "{line}");
    }
}

#[test]
fn formats_without_instances_have_them_written_out() {
    let bench = Bench::new();
    write(&bench, "buoys.glb", &two_buoys());
    for out in ["out.stl", "out.ply", "out.obj"] {
        let said = said(&bench, &format!("convert buoys.glb -o {out}"));
        assert!(
            said.contains("has no instances: 1 instance written out"),
            "{said}"
        );
        let volume = |file: &str| bench.audit(file)["mesh"]["volume"].as_f64().unwrap();
        assert!((volume(out) / volume("buoys.glb") - 9.0).abs() < 1e-5);
        assert_eq!(bench.audit(out)["mesh"]["parts"], 2);
    }
    // A skin goes round both.
    let skin = text_of(&bench, "reskin buoys.glb -o skin.glb --cell 0.1");
    assert!(
        skin.contains("1 instance written out, to be part of it"),
        "{skin}"
    );
    assert_eq!(bench.audit("skin.glb")["mesh"]["parts"], 2);
}

#[test]
fn a_skin_round_several_objects_is_one_and_stays_closed() {
    let bench = Bench::new();
    let low = Model::from(shapes::cuboid(DVec3::ZERO, DVec3::ONE, 1));
    let high = DVec3::splat(0.53);
    let high = Model::from(shapes::cuboid(high, high + 1.0, 1));
    let crates = joined(&[("low".into(), &low), ("high".into(), &high)]);
    write(&bench, "crates.obj", &crates.model);
    text_of(&bench, "convert crates.obj -o crates.glb");
    // The second is the first, shown again.
    let mut again = low;
    again.attributes.tags = two_buoys().attributes.tags;
    again.attributes.tags.of_face = vec![0; again.mesh.face_count()];
    let mut scene = two_buoys().attributes.scene.unwrap();
    Arc::make_mut(&mut scene).nodes[1].local = glam::DAffine3::from_translation(DVec3::splat(0.53));
    again.attributes.scene = Some(scene);
    write(&bench, "instances.glb", &again);
    for (input, options) in [
        ("crates.obj", ""),
        ("crates.glb", ""),
        ("crates.glb", "--levels 1"),
        ("instances.glb", ""),
    ] {
        let line = format!("reskin {input} -o skin.glb --cell 0.05 {options} --force");
        bench.hurmo(&line).code(0);
        let mesh = bench.audit("skin.glb")["mesh"].clone();
        assert_eq!(
            (&mesh["watertight"], &mesh["parts"]),
            (&true.into(), &1.into()),
            "{line}"
        );
        let volume = mesh["volume"].as_f64().unwrap();
        assert!(
            (volume - (2.0 - 0.47f64.powi(3))).abs() < 5e-3,
            "{line}: {volume}"
        );
    }
}

#[test]
fn units_and_axes_that_are_stated_are_those_of_the_format() {
    let bench = Bench::new();
    let tall = CUBE.replace("v 0 0 1", "v 0 0 3");
    bench.file("cube.obj", tall);
    let said_of = said(&bench, "convert cube.obj -o as-is.glb");
    assert!(
        said_of.contains("the model's unit is not stated"),
        "{said_of}"
    );
    assert!(
        said_of.contains("it is not stated which axis does"),
        "{said_of}"
    );
    let words = text_of(&bench, "convert cube.obj -o cube.glb --unit mm --up z");
    let expected = "lengths × 0.001, turned to the other up axis";
    assert!(words.contains(expected), "{words}");
    let line = "convert cube.obj -o cube.glb --unit mm --up z --force";
    let said_of = said(&bench, line);
    let is_told = ["is in m", "points up", "not stated"].map(|words| said_of.contains(words));
    assert_eq!(is_told, [false; 3], "{said_of}");
    let size = |file: &str| {
        let bounds = hurmo_core::measure::bounds(&model(&bench, file).mesh).unwrap();
        (bounds.size() * 1e6).round() / 1e6
    };
    assert_eq!(size("as-is.glb").to_array(), [1.0, 1.0, 3.0]);
    assert_eq!(size("cube.glb").to_array(), [0.001, 0.003, 0.001]);
    // A step in the model's own unit is measured in it, though the file has another.
    let line = "mend cube.obj -o mended.glb --unit mm --force";
    let said_of = said(&bench, line);
    let expected = "glTF is in m: lengths × 0.001";
    assert!(said_of.contains(expected), "{said_of}");
    let run = bench.json(line);
    let was = run["before"]["mesh"]["diagonal"].as_f64().unwrap();
    let is = run["after"]["mesh"]["diagonal"].as_f64().unwrap();
    assert!((was - is).abs() < 1e-5, "{was} {is}");
    assert_eq!(size("mended.glb").to_array(), [0.001, 0.001, 0.003]);
    // And back.
    let said_of = said(
        &bench,
        "convert cube.glb -o back.obj --to-unit mm --to-up z",
    );
    assert!(!said_of.contains("not stated"), "{said_of}");
    assert_eq!(size("back.obj").to_array(), [1.0, 1.0, 3.0]);
}

#[test]
fn materials_and_textures_go_along_to_any_place_and_back() {
    let bench = Bench::new();
    lantern(&bench);
    std::fs::create_dir(bench.path("packed")).unwrap();
    let said_of = said(&bench, "mend props/lantern.obj -o packed/lantern.obj");
    assert!(
        said_of.contains("also wrote brass.png, lantern.mtl"),
        "{said_of}"
    );
    let texture = std::fs::read(bench.path("props/brass.png")).unwrap();
    assert_eq!(
        std::fs::read(bench.path("packed/brass.png")).unwrap(),
        texture
    );
    text_of(&bench, "convert packed/lantern.obj -o packed/lantern.glb");
    std::fs::create_dir(bench.path("again")).unwrap();
    let said_of = said(&bench, "convert packed/lantern.glb -o again/lantern.obj");
    assert!(said_of.contains("lantern.mtl"), "{said_of}");
    for file in [
        "props/lantern-handoff/lantern-engine.glb",
        "packed/lantern.glb",
        "again/lantern.obj",
    ] {
        let model = model(&bench, file);
        let scene = model.attributes.scene.as_ref().unwrap();
        let brass = scene.material("brass").unwrap();
        assert_eq!((brass.metallic, brass.roughness), (1.0, 0.45), "{file}");
        let image = brass.color_texture.as_ref().unwrap().image;
        let bytes = match &scene.images[image.0 as usize].data {
            ImageData::Embedded { bytes, .. } => bytes.to_vec(),
            ImageData::File { found, .. } => std::fs::read(found.as_ref().unwrap()).unwrap(),
        };
        assert_eq!(bytes, texture, "{file}");
        let glass = scene.material("glass").unwrap();
        assert!((glass.color[3] - 0.4).abs() < 1e-6, "{file}");
    }
    assert_eq!(
        read(&bench.path("packed/lantern.glb"))
            .unwrap()
            .source
            .format,
        Format::Gltf
    );
}

/// Pixels that are greener than red, as only the texture's verdigris is.
fn green_pixels(bench: &Bench, line: &str) -> usize {
    text_of(bench, line);
    let picture = image::open(bench.path("look.png")).unwrap().into_rgb8();
    let is_green = |p: &&image::Rgb<u8>| p[1] > p[0].saturating_add(20);
    picture.pixels().filter(is_green).count()
}

#[test]
fn a_picture_shows_textures_where_they_are_asked_for() {
    let bench = Bench::new();
    lantern(&bench);
    let picture = "-o look.png --force --view front --show";
    let plain = green_pixels(
        &bench,
        &format!("picture props/lantern.obj {picture} plain"),
    );
    let look = green_pixels(&bench, &format!("picture props/lantern.obj {picture} look"));
    assert!(plain == 0 && look > 2000, "{plain} {look}");
    // As GLB it looks the same, and stands, though another axis points up.
    let other = format!("picture props/lantern-handoff/lantern-engine.glb {picture} look");
    let other = green_pixels(&bench, &other);
    assert!(look.abs_diff(other) * 50 < look, "{look} {other}");
}
