//! `hurmo remesh` and `hurmo smooth` through the program.

use crate::common::{Bench, error_of, grouped, moved, text_of};
use glam::DVec3;
use hurmo_core::{Mesh, Model, parts, shapes};
use hurmo_formats::WriteOptions;

fn write(bench: &Bench, name: &str, mesh: Mesh) {
    let path = bench.path(name);
    hurmo_formats::write(&path, &Model::from(mesh), WriteOptions::default()).unwrap();
}

fn read(bench: &Bench, name: &str) -> Model {
    hurmo_formats::read(&bench.path(name)).unwrap().model
}

#[test]
fn the_report_says_how_even_the_triangles_were_and_are() {
    let bench = Bench::new();
    write(&bench, "ball.ply", shapes::bumpy_sphere(4_000));
    let line = "remesh ball.ply -o even.ply --to 6000";
    let text = text_of(&bench, line);
    for word in ["smallest angle", "six neighbours", "volume", "rms"] {
        assert!(text.contains(word), "{word} in {text}");
    }
    let json = bench.json(&format!("{line} --force"));
    let rebuilt = &json["steps"][0]["rebuilt"];
    let triangles = rebuilt["after"]["triangles"].as_f64().unwrap();
    assert!((triangles / 6000.0 - 1.0).abs() < 0.03, "{triangles}");
    let even = |when: &str| rebuilt[when]["even_angles"].as_f64().unwrap();
    assert!(even("after") > 0.95 && even("after") > even("before"));
    assert!(
        rebuilt["deviation"]["new_from_old"]["max"]
            .as_f64()
            .unwrap()
            > 0.0
    );
    let [before, after] = [0, 1].map(|i| rebuilt["volume"][i].as_f64().unwrap());
    assert!((after / before - 1.0).abs() < 0.01);
}

#[test]
fn a_distance_is_proved_or_said_not_to_be() {
    let bench = Bench::new();
    write(&bench, "ring.ply", shapes::torus(1.0, 0.3, 120, 60));
    let text = text_of(&bench, "remesh ring.ply -o near.ply --within 0.003");
    assert!(text.contains("proved"), "{text}");
    let compared = bench.json("compare ring.ply near.ply");
    let apart = compared["comparison"]["from_after"]["max"]["at_most"]
        .as_f64()
        .unwrap();
    assert!(apart < 0.0033, "{apart}");
    let text = text_of(
        &bench,
        "remesh ring.ply -o far.ply --within 0.003 --edge-min 0.3",
    );
    assert!(text.contains("not proved to lie within 0.003"), "{text}");
    let error = error_of(
        &bench,
        "remesh ring.ply -o x.ply --within 0.003 --edge-min 0.3 --edge-max 0.1",
    );
    assert!(
        error.contains("--edge-min is more than --edge-max"),
        "{error}"
    );
}

/// Two crates that cross, far from a third; each a group.
fn crates(bench: &Bench) {
    let one = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 6);
    let models = [
        grouped("tea", one.clone()),
        grouped("rope", moved(one.clone(), DVec3::new(0.5, 0.31, 0.27))),
        grouped("salt", moved(one, DVec3::X * 5.0)),
    ];
    let all: Vec<_> = models.iter().map(|model| (String::new(), model)).collect();
    let joined = parts::joined(&all).model;
    hurmo_formats::write(&bench.path("crates.obj"), &joined, WriteOptions::default()).unwrap();
}

#[test]
fn regions_leave_the_rest_as_it_is() {
    let bench = Bench::new();
    crates(&bench);
    for region in [
        "--group salt",
        "--part P3",
        "--near 5,0,0,0.2",
        "--where-crossing P1,P2",
    ] {
        let line = format!("remesh crates.obj -o some.obj --force --edge 0.05 {region}");
        let text = text_of(&bench, &line);
        assert!(text.contains("left as they are"), "{text}");
        let model = read(&bench, "some.obj");
        let of = |name: &str| {
            let faces = model.mesh.face_ids();
            faces
                .filter(|face| {
                    let tag = model.attributes.tags.of(*face);
                    tag.and_then(|tag| tag.group.as_deref()) == Some(name)
                })
                .count()
        };
        let is_there = |name| of(name) != 6 * 36;
        let salt = !region.contains("where");
        assert_eq!(is_there("salt"), salt, "{region}");
        assert_eq!(is_there("tea"), !salt, "{region}");
        let audit = bench.json("audit some.obj --skip intersecting-faces");
        assert_eq!(audit["models"][0]["mesh"]["watertight"], true, "{region}");
        assert_eq!(audit["models"][0]["mesh"]["parts"], 3);
    }
    for (region, says) in [
        ("--part P9", "no part P9; the model has 3"),
        ("--group coal", "no group, material or part 'coal'"),
        ("--near 9,9,9,0.1", "no faces in that region"),
        ("--near 9,9,9", "no point with a radius"),
        ("--where-crossing P1,P3", "do not cross"),
        ("--where-crossing P1", "no pair of parts"),
    ] {
        let line = format!("remesh crates.obj -o x.obj --edge 0.05 {region}");
        let error = error_of(&bench, &line);
        assert!(error.contains(says), "{error}");
        assert!(!bench.path("x.obj").exists());
    }
}

#[test]
fn relaxing_and_smoothing_keep_every_face() {
    let bench = Bench::new();
    let mut ball = shapes::sphere(1.0, 3);
    ball.move_vertices(|v, p| {
        p * (1.0 + 0.01 * ((v.index() as f64 * 12.9898).sin() * 43_758.545).fract())
    })
    .unwrap();
    write(&bench, "ball.ply", ball.clone());
    for (line, says) in [
        ("--relax 5", "moved along the surface"),
        ("--noise 10", "moved by up to"),
        ("--noise 10 --keep-creases", "moved by up to"),
    ] {
        let text = text_of(
            &bench,
            &format!("smooth ball.ply -o out.ply --force {line}"),
        );
        assert!(text.contains(says), "{text}");
        let out = read(&bench, "out.ply");
        assert_eq!(out.mesh.corners(), read(&bench, "ball.ply").mesh.corners());
        assert_ne!(out.mesh.positions(), ball.positions());
    }
    for (line, says) in [
        ("smooth --relax 0", "no number of rounds"),
        ("smooth --relax 5 --noise 5", "don't go together"),
        ("smooth --relax 5 --keep-creases", "don't go together"),
        ("smooth --noise 5 --keep-rims exact", "unexpected argument"),
        ("smooth", "--noise"),
        ("remesh --edge 0.1 --rounded", "unexpected argument"),
        ("remesh", "--edge"),
    ] {
        let (command, options) = line.split_once(' ').unwrap_or((line, ""));
        let error = error_of(&bench, &format!("{command} ball.ply -o x.ply {options}"));
        assert!(error.contains(says), "{line}: {error}");
    }
}
