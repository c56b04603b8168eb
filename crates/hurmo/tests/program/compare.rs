//! `hurmo compare` through the program.

use crate::common::{Bench, CUBE, error_of};
use hurmo_core::{Mesh, Model, shapes};
use hurmo_formats::WriteOptions;

fn write(bench: &Bench, name: &str, mesh: Mesh) {
    let options = WriteOptions::default();
    hurmo_formats::write(&bench.path(name), &Model::from(mesh), options).unwrap();
}

#[test]
fn distances_are_told_both_ways_and_limits_judged() {
    let bench = Bench::new();
    write(&bench, "fine.ply", shapes::sphere(1.0, 5));
    write(&bench, "coarse.ply", shapes::sphere(1.0, 3));
    let found = bench.json("compare fine.ply coarse.ply");
    let distance = |way: &str| {
        found["comparison"][way]["max"]["distance"]
            .as_f64()
            .unwrap()
    };
    let at_most = |way: &str| found["comparison"][way]["max"]["at_most"].as_f64().unwrap();
    // The coarse sphere's faces lie inside by what their circumcircles leave.
    for way in ["from_before", "from_after"] {
        assert!(distance(way) > 0.001 && distance(way) < 0.02, "{way}");
        assert!(at_most(way) >= distance(way));
    }
    assert_eq!(found["before"]["mesh"]["faces"], 20 * 4u64.pow(5));
    bench
        .hurmo("compare fine.ply coarse.ply --at-most 1%")
        .code(0);
    let beyond = bench
        .hurmo("compare fine.ply coarse.ply --at-most 0.001%")
        .code(1);
    let words = String::from_utf8(beyond.get_output().stdout.clone()).unwrap();
    assert!(words.contains("beyond"), "{words}");
    let same = bench.json("compare fine.ply fine.ply --at-most 0.0001%");
    assert_eq!(same["passes"], true);
}

#[test]
fn decimating_within_a_distance_is_proved_by_comparing() {
    let bench = Bench::new();
    write(&bench, "ball.ply", shapes::sphere(1.0, 4));
    let story = bench.json("decimate ball.ply -o low.ply --within 1%");
    let proved = |story: &serde_json::Value| {
        let did = story["steps"][0]["did"].as_array().unwrap().iter();
        let mut proved = did.filter(|did| did["what"] == "proved-within");
        proved.next().cloned().expect("a distance that is proved")
    };
    assert_eq!(proved(&story)["how"], "both ways");
    bench.hurmo("compare ball.ply low.ply --at-most 1%").code(0);
    let story = bench.json("decimate ball.ply -o budget.ply --within 1% --to 1000");
    assert_eq!(proved(&story)["first"]["what"], "budget");
    bench.file("cube.obj", CUBE);
    bench.hurmo("decimate cube.obj -o same.obj --flat").code(0);
    assert_eq!(bench.audit("same.obj")["mesh"]["triangles"], 12);
    assert!(error_of(&bench, "decimate cube.obj -o no.obj").contains("--to"));
    assert!(error_of(&bench, "decimate cube.obj -o no.obj --within 0").contains("above 0"));
}

#[test]
fn the_picture_is_written_and_what_cannot_be_compared_is_said() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    write(&bench, "ball.ply", shapes::sphere(0.7, 3));
    bench
        .hurmo("compare cube.obj ball.ply --picture apart.png")
        .code(0);
    let png = std::fs::read(bench.path("apart.png")).unwrap();
    assert_eq!(&png[1..4], b"PNG");
    bench
        .hurmo("compare cube.obj ball.ply --picture apart.png")
        .code(2);
    bench.file("points.obj", "v 0 0 0\nv 1 0 0\n");
    assert!(error_of(&bench, "compare cube.obj points.obj").contains("without faces"));
    assert!(error_of(&bench, "compare cube.obj missing.obj").contains("missing.obj"));
    assert!(error_of(&bench, "compare cube.obj ball.ply --at-most 2mm").contains("--unit"));
}
