//! `hurmo cut` on files.

use crate::common::Bench;
use hurmo_core::{Mesh, Model, shapes};
use hurmo_formats::WriteOptions;
use predicates::str::contains;
use serde_json::Value;

fn write(bench: &Bench, name: &str, mesh: Mesh) {
    let options = WriteOptions::default();
    hurmo_formats::write(&bench.path(name), &Model::from(mesh), options).unwrap();
}

fn ring() -> Bench {
    let bench = Bench::new();
    write(&bench, "ring.obj", shapes::torus(3.0, 1.0, 48, 24));
    bench
}

fn volumes(report: &Value) -> Vec<f64> {
    let pieces = report["pieces"].as_array().unwrap().iter();
    pieces
        .map(|piece| piece["volume"].as_f64().unwrap())
        .collect()
}

#[test]
fn a_plane_makes_two_closed_pieces_with_flat_caps() {
    let bench = ring();
    let whole = bench.audit("ring.obj")["mesh"]["volume"].as_f64().unwrap();
    for (k, plane) in ["x=0.25", "y=-0.7", "1,2,0.5@0,0.1,0", "z=0"]
        .iter()
        .enumerate()
    {
        let report = bench.json(&format!("cut ring.obj -o halves{k} --plane {plane}"));
        assert_eq!(report["passes"], true, "{plane}");
        let volumes = volumes(&report);
        assert_eq!(volumes.len(), 2);
        assert!(
            (volumes.iter().sum::<f64>() - whole).abs() < 1e-9 * whole,
            "{plane}"
        );
        for side in ["above", "below"] {
            let file = format!("halves{k}/ring-{side}.obj");
            let found = bench.audit(&file);
            assert_eq!(found["mesh"]["watertight"], true, "{file}");
            let text = std::fs::read_to_string(bench.path(&file)).unwrap();
            assert!(text.lines().any(|line| line == "g cut"), "{file}");
        }
    }
    // Caps lie in the plane, to the last bit.
    let text = std::fs::read_to_string(bench.path("halves0/ring-above.obj")).unwrap();
    let low = text
        .lines()
        .filter_map(|line| line.strip_prefix("v "))
        .map(|line| line.split(' ').next().unwrap().parse::<f64>().unwrap())
        .fold(f64::INFINITY, f64::min);
    assert_eq!(low, 0.25);
}

#[test]
fn slabs_and_beds_have_pieces_that_fit() {
    let bench = ring();
    let report = bench.json("cut ring.obj -o slabs --every x=1.5");
    assert_eq!(report["planes"].as_array().unwrap().len(), 5);
    let names: Vec<&str> = report["pieces"]
        .as_array()
        .unwrap()
        .iter()
        .map(|p| p["name"].as_str().unwrap())
        .collect();
    assert_eq!(names, ["x1", "x2", "x3", "x4", "x5", "x6"]);
    let report = bench.json("cut ring.obj -o ring.3mf --bed 3x5x9 --unit mm --for print");
    assert_eq!(report["blocking"], Value::Array(Vec::new()));
    bench
        .hurmo("cut ring.obj -o ring.stl --bed 3x5x9")
        .code(2)
        .stderr(contains("name a folder"));
    for piece in report["pieces"].as_array().unwrap() {
        let size = piece["size"].as_array().unwrap();
        for (size, bed) in size.iter().zip([3.0, 5.0, 9.0]) {
            assert!(size.as_f64().unwrap() <= bed * (1.0 + 1e-6));
        }
    }
    let parts = bench.json("parts ring.3mf");
    let pieces = report["pieces"].as_array().unwrap().len();
    assert!(pieces >= 6 && parts["parts"].as_array().unwrap().len() >= pieces);
    bench
        .hurmo("cut ring.obj -o none --bed 9x9x9")
        .code(2)
        .stderr(contains("fits as it is"));
}

#[test]
fn pegs_fit_on_the_bed_too() {
    let bench = Bench::new();
    let block = shapes::cuboid(glam::DVec3::ZERO, glam::DVec3::new(90.0, 30.0, 20.0), 4);
    write(&bench, "beam.obj", block);
    let report = bench.json("cut beam.obj -o beam --bed 40x40x40 --pegs 4 --clearance 0.2");
    assert_eq!(report["passes"], true);
    assert_eq!(report["pegs"]["made"], 4);
    assert_eq!(report["pegs"]["without"], 0);
    let pieces = report["pieces"].as_array().unwrap();
    assert_eq!(pieces.len(), 3);
    for piece in pieces {
        assert!(piece["size"][0].as_f64().unwrap() <= 40.0, "{piece}");
        let file = piece["file"].as_str().unwrap();
        assert_eq!(bench.audit(file)["mesh"]["watertight"], true);
    }
    bench
        .hurmo("cut beam.obj -o none --plane x=9 --pegs 0")
        .code(2)
        .stderr(contains("above 0"));
}

#[test]
fn one_side_alone_may_be_kept() {
    let bench = ring();
    bench
        .hurmo("cut ring.obj -o top.stl --plane z=0.5 --keep above")
        .success()
        .stdout(contains("above"));
    let found = bench.audit("top.stl");
    assert_eq!(found["mesh"]["watertight"], true);
    assert!((found["mesh"]["bounds"]["min"][2].as_f64().unwrap() - 0.5).abs() < 1e-9);
    bench
        .hurmo("cut ring.obj -o none --plane z=5")
        .code(2)
        .stderr(contains("does not go through the model"));
    assert!(!bench.path("none").exists());
}

#[test]
fn an_open_model_is_cut_and_its_sections_stay_open() {
    let bench = Bench::new();
    write(&bench, "sheet.obj", shapes::grid(7, 7, 4.0, 4.0));
    bench
        .hurmo("cut sheet.obj -o two --plane x=1.3")
        .success()
        .stdout(contains("cut as a sheet"));
    let area = |file: &str| bench.audit(file)["mesh"]["area"].as_f64().unwrap();
    let both = ["two/sheet-above.obj", "two/sheet-below.obj"].map(area);
    assert!((both[0] + both[1] - 16.0).abs() < 1e-9, "{both:?}");
    let whole = bench.audit("two/sheet-above.obj");
    assert!(whole["mesh"]["rims"].as_u64().unwrap() > 0);
}

#[test]
fn what_is_there_is_not_overwritten_and_wrong_words_are_told() {
    let bench = ring();
    bench.hurmo("cut ring.obj -o two --plane x=0").success();
    bench
        .hurmo("cut ring.obj -o two --plane x=0")
        .code(2)
        .stderr(contains("--force"));
    for (line, why) in [
        ("-o x", "say where to cut"),
        ("-o x --plane q=1", "is no plane"),
        ("-o x --every 0", "above 0"),
        ("-o x --bed 1x2", "is no bed"),
        ("-o ring.obj --plane x=0 --force", "that is the input"),
        ("-o x --plane z=3mm", "--unit"),
    ] {
        bench
            .hurmo(&format!("cut ring.obj {line}"))
            .code(2)
            .stderr(contains(why));
    }
    assert_eq!(bench.names(), ["ring.obj", "two"]);
}

#[test]
fn the_picture_shows_the_pieces_apart() {
    let bench = ring();
    bench
        .hurmo("cut ring.obj -o two --plane x=0 --picture apart.png")
        .success();
    let png = std::fs::read(bench.path("apart.png")).unwrap();
    assert_eq!(&png[1..4], b"PNG");
}
