//! `hurmo parts` on files.

use crate::common::Bench;
use predicates::str::contains;

/// A closed box and, beside it, an open quad in another group and material.
const TWO: &str = "mtllib m.mtl\ng box\nusemtl steel\n\
v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\n\
f 4 3 2 1\nf 5 6 7 8\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n\
g flag\nusemtl cloth\nv 5 0 0\nv 5.1 0 0\nv 5.1 0.1 0\nv 5 0.1 0\nf 9 10 11 12\n";

#[test]
fn parts_are_listed_with_what_they_are() {
    let bench = Bench::new();
    bench.file("two.obj", TWO);
    let report = bench.json("parts two.obj");
    let parts = report["parts"].as_array().unwrap();
    assert_eq!(parts.len(), 2);
    assert_eq!(parts[0]["surface"], "closed");
    assert!((parts[0]["volume"].as_f64().unwrap() - 1.0).abs() < 1e-12);
    assert_eq!(parts[0]["groups"][0], "box");
    assert_eq!(parts[1]["surface"], "open");
    assert_eq!(parts[1]["volume"], serde_json::Value::Null);
    assert_eq!(parts[1]["materials"][0], "cloth");
    bench
        .hurmo("parts two.obj")
        .success()
        .stdout(contains("2 parts, 1 closed"));
    assert_eq!(bench.names(), ["two.obj"], "nothing is written");
}

#[test]
fn parts_are_kept_and_dropped_by_name_and_size() {
    let bench = Bench::new();
    bench.file("two.obj", TWO);
    for (line, faces) in [
        ("--keep P1", 6),
        ("--drop P2..", 6),
        ("--drop P1", 1),
        ("--drop-under 10%", 6),
    ] {
        bench
            .hurmo(&format!("parts two.obj -o out.obj --force {line}"))
            .success()
            .stdout(contains("1 part kept"))
            .stdout(contains("1 part dropped: P"));
        assert_eq!(bench.audit("out.obj")["mesh"]["faces"], faces, "{line}");
    }
    let all = bench.hurmo("parts two.obj -o none.obj --drop P1..");
    all.code(2).stderr(contains("every part"));
    let unknown = bench.hurmo("parts two.obj -o none.obj --keep P3");
    unknown
        .code(2)
        .stderr(contains("no P3: the model has 2 parts"));
    bench.hurmo("parts two.obj --keep P1").code(2);
    bench.hurmo("parts two.obj -o none.obj").code(2);
    assert!(!bench.path("none.obj").exists());
}

#[test]
fn a_model_is_split_and_joined_again() {
    let bench = Bench::new();
    bench.file("two.obj", TWO);
    for (by, names) in [
        ("part", ["two-P1.obj", "two-P2.obj"]),
        ("group", ["two-box.obj", "two-flag.obj"]),
        ("material", ["two-steel.obj", "two-cloth.obj"]),
    ] {
        let line = format!("parts two.obj --split {by} --by {by}");
        bench
            .hurmo(&line)
            .success()
            .stdout(contains("2 files written"));
        for name in names {
            assert!(bench.path(by).join(name).is_file(), "{name}");
        }
        bench
            .hurmo(&line)
            .code(2)
            .stderr(contains("is there already"));
    }
    bench
        .hurmo("parts part/two-P1.obj -o again.obj --join part/two-P2.obj")
        .success()
        .stdout(contains("2 models put together"));
    let report = bench.json("parts again.obj");
    assert_eq!(report["parts"][0]["materials"][0], "steel");
    assert_eq!(report["parts"][1]["materials"][0], "cloth");
    let groups = report["parts"][1]["groups"].as_array().unwrap();
    assert!(groups.iter().any(|group| group == "flag"));
}

#[test]
fn the_picture_of_parts_is_a_picture() {
    let bench = Bench::new();
    bench.file("two.obj", TWO);
    bench
        .hurmo("parts two.obj --picture two.png")
        .success()
        .stdout(contains("two.png"));
    let picture = std::fs::read(bench.path("two.png")).unwrap();
    assert!(picture.starts_with(b"\x89PNG"));
    bench.hurmo("parts two.obj --picture two.png").code(2);
}

#[test]
fn each_part_becomes_a_group() {
    let bench = Bench::new();
    bench.file("two.obj", TWO);
    bench
        .hurmo("parts two.obj -o groups.obj --as-groups")
        .stdout(contains("2 groups made, one a part"));
    let parts = bench.json("parts groups.obj");
    let parts = parts["parts"].as_array().unwrap();
    assert_eq!(parts[0]["groups"][0], "P1");
    assert_eq!(parts[1]["groups"][0], "P2");
    assert_eq!(parts[1]["materials"][0], "cloth");
}
