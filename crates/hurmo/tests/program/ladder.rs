//! `hurmo ladder` through the program.

use crate::common::{Bench, CUBE, error_of};
use hurmo_core::{Model, shapes};
use hurmo_formats::WriteOptions;

fn sphere(bench: &Bench) {
    let model = Model::from(shapes::sphere(1.0, 5));
    hurmo_formats::write(&bench.path("ball.ply"), &model, WriteOptions::default()).unwrap();
}

#[test]
fn every_rung_is_written_measured_and_shown() {
    let bench = Bench::new();
    sphere(&bench);
    let found = bench.json("ladder ball.ply -o rungs --to 50%,400,10% --lod 2 --pick 0.5%");
    let rungs = found["rungs"].as_array().unwrap();
    let files = ["ball-10k.ply", "ball-2048.ply", "ball-400.ply"];
    let budgets = [10_240, 2_048, 400];
    assert_eq!(rungs.len(), files.len());
    let number = |rung: &serde_json::Value, key: &str| rung[key].as_f64().unwrap();
    for ((rung, file), budget) in rungs.iter().zip(files).zip(budgets) {
        let path = format!("rungs/{file}");
        assert!(rung["file"].as_str().unwrap().ends_with(file));
        let audit = bench.audit(&path);
        let triangles = audit["mesh"]["triangles"].as_u64().unwrap();
        assert!(triangles <= budget && triangles + 2 >= budget);
        assert_eq!(rung["triangles"], triangles);
        assert_eq!(audit["mesh"]["watertight"], true);
        let size = std::fs::metadata(bench.path(&path)).unwrap().len();
        assert_eq!(rung["bytes"], size);
        let (off, within) = (number(rung, "off"), number(rung, "within"));
        assert!(off <= within && within < 1.02 * off, "{off} {within}");
        // Two pixels of 1080, on a screen that shows 60°.
        let pixels = 1080.0 / (2.0 * 30f64.to_radians().tan());
        let from = number(rung, "from_distance");
        assert!((from - within * pixels / 2.0).abs() < 1e-9 * from);
    }
    let offs: Vec<f64> = rungs.iter().map(|rung| number(rung, "off")).collect();
    assert!(offs[0] < offs[1] && offs[1] < offs[2], "{offs:?}");
    // 0.5% of the diagonal, 0.017: 400 even triangles do it with 0.006 at best, so all hold.
    assert!(found["pick"]["file"].as_str().unwrap().ends_with(files[2]));
    let picture = std::fs::read(bench.path("rungs/ladder.png")).unwrap();
    assert_eq!(&picture[1..4], b"PNG");
    let table = std::fs::read(bench.path("rungs/ladder.json")).unwrap();
    let table: serde_json::Value = serde_json::from_slice(&table).unwrap();
    assert_eq!(table, found);
    // What the ladder says, a comparison says too.
    let compared = bench.json("compare ball.ply rungs/ball-400.ply");
    let ways = ["from_before", "from_after"].map(|way| {
        let distance = &compared["comparison"][way]["max"]["distance"];
        distance.as_f64().unwrap()
    });
    assert!((ways[0].max(ways[1]) - offs[2]).abs() < 0.01 * offs[2]);
}

#[test]
fn what_is_there_is_kept_and_what_cannot_be_is_said() {
    let bench = Bench::new();
    sphere(&bench);
    let none = bench.hurmo("ladder ball.ply -o a --to 200,100 --pick 0.0001%");
    let words = String::from_utf8(none.code(1).get_output().stdout.clone()).unwrap();
    assert!(words.contains("no rung is proved"), "{words}");
    let before = std::fs::read(bench.path("a/ball-200.ply")).unwrap();
    let error = error_of(&bench, "ladder ball.ply -o a --to 200,50");
    assert!(error.contains("--force"), "{error}");
    assert_eq!(before, std::fs::read(bench.path("a/ball-200.ply")).unwrap());
    assert!(!bench.path("a/ball-50.ply").exists());
    bench
        .hurmo("ladder ball.ply -o a --to 200,50 --force")
        .code(0);
    let error = error_of(&bench, "ladder ball.ply -o ball.ply --to 200");
    assert!(error.contains("not a folder"), "{error}");
    let error = error_of(&bench, "ladder ball.ply -o b --to 200 --format xyz");
    assert!(error.contains("--format"), "{error}");
    assert!(!bench.path("b").exists());
    bench.file("cube.obj", CUBE);
    // A cube can't have fewer than its corners need: the model as it is, and said so.
    let found = bench.json("ladder cube.obj -o c --to 50,3 --format stl");
    assert_eq!(found["rungs"][0]["triangles"], 12);
    assert!(found["rungs"][1]["stopped_by"].is_string());
}
