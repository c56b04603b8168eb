//! `hurmo boolean` on files.

use crate::common::Bench;
use predicates::str::contains;
use serde_json::Value;

/// An axis-aligned box as OBJ, in a group and a material, with a UV at each corner.
fn block(group: &str, low: [f64; 3], high: [f64; 3]) -> String {
    let mut text = format!("g {group}\nusemtl {group}\n");
    for i in 0..8 {
        let at = |axis: usize| {
            if i >> axis & 1 == 0 {
                low[axis]
            } else {
                high[axis]
            }
        };
        text += &format!("v {} {} {}\n", at(0), at(1), at(2));
    }
    for (u, v) in [(0, 0), (1, 0), (1, 1), (0, 1)] {
        text += &format!("vt {u} {v}\n");
    }
    for [a, b, c, d] in [
        [1, 3, 4, 2],
        [5, 6, 8, 7],
        [1, 2, 6, 5],
        [3, 7, 8, 4],
        [1, 5, 7, 3],
        [2, 4, 8, 6],
    ] {
        text += &format!("f {a}/1 {b}/2 {c}/3 {d}/4\n");
    }
    text
}

fn two() -> Bench {
    let bench = Bench::new();
    bench.file("post.obj", block("oak", [0.0; 3], [2.0; 3]));
    bench.file("peg.obj", block("iron", [1.0; 3], [3.0, 3.0, 4.0]));
    bench
}

fn volume(bench: &Bench, file: &str) -> f64 {
    bench.audit(file)["mesh"]["volume"].as_f64().unwrap()
}

#[test]
fn volumes_are_as_they_must_be_and_are_told() {
    let bench = two();
    for (kind, expected) in [
        ("union", 8.0 + 12.0 - 1.0),
        ("difference", 7.0),
        ("intersection", 1.0),
        ("pieces", 19.0),
    ] {
        let line = format!("boolean post.obj peg.obj -o {kind}.obj --as {kind}");
        let report = bench.json(&line);
        let record = &report["steps"][0]["boolean"];
        assert!(
            (record["volume"].as_f64().unwrap() - expected).abs() < 1e-12,
            "{kind}"
        );
        assert!(record["residual"].as_f64().unwrap() < 1e-12);
        assert_eq!(record["meeting"], serde_json::json!([["post", "peg"]]));
        assert_eq!(record["cells"].as_array().unwrap().len(), 3);
        assert_eq!(record["left_crossing"], 0);
        assert_eq!(report["passes"], true);
        let mesh = &bench.audit(&format!("{kind}.obj"))["mesh"];
        assert_eq!(mesh["watertight"], true, "{kind}");
        assert!((mesh["volume"].as_f64().unwrap() - expected).abs() < 1e-9);
    }
    bench
        .hurmo("boolean post.obj peg.obj -o again.obj --as union")
        .success()
        .stdout(contains("union of 2 solids"))
        .stdout(contains("post and peg meet along 1 line, 6 long"))
        .stdout(contains("volumes: 8 + 12 = 19 + 1 in both"));
}

#[test]
fn what_meets_nothing_stays_and_cut_faces_keep_what_they_carry() {
    let bench = two();
    bench
        .hurmo("boolean post.obj peg.obj -o one.obj --as union")
        .success();
    let text = std::fs::read_to_string(bench.path("one.obj")).unwrap();
    let faces: Vec<&str> = text.lines().filter(|line| line.starts_with("f ")).collect();
    let quads = faces
        .iter()
        .filter(|face| face.split_whitespace().count() == 5);
    // Three faces of each block meet nothing; each of the others is put together again to three pieces at
    // most, two of them quads.
    assert!(quads.count() >= 12);
    assert!(faces.len() <= 24);
    assert!(
        faces.iter().all(|face| face.matches('/').count() >= 3),
        "all have UVs"
    );
    let groups = |name: &str| text.lines().any(|line| line == format!("g {name}"));
    assert!(groups("oak") && groups("iron"));
    assert!(text.contains("usemtl oak") && text.contains("usemtl iron"));
}

#[test]
fn models_are_placed_and_parts_and_groups_are_named() {
    let bench = two();
    let moved = "boolean post.obj peg.obj -o moved.obj --as union --move 10,0,0";
    bench
        .hurmo(moved)
        .success()
        .stdout(contains("post and peg don't touch"));
    assert!((volume(&bench, "moved.obj") - 20.0).abs() < 1e-9);
    bench
        .hurmo("boolean moved.obj#group:oak moved.obj#P2 -o both.obj --as union --scale 2 --move 2:-9,0,0")
        .success()
        .stdout(contains("oak and P2 meet"));
    bench
        .hurmo("boolean post.obj post.obj -o turned.obj --as union --turn z,45")
        .success();
    // An octagonal star: twice the square less the octagon that both have in common.
    let octagon = 8.0 * (2f64.sqrt() - 1.0);
    let star = 2.0 * (2.0 * 4.0 - octagon);
    assert!((volume(&bench, "turned.obj") - star).abs() < 1e-6 * star);
    // Of one model, its parts.
    bench
        .hurmo("boolean both.obj -o none.obj --as union")
        .code(2)
        .stderr(contains("there is one solid"));
    bench.file(
        "pair.obj",
        block("a", [0.0; 3], [2.0; 3]) + &later(&block("b", [1.0; 3], [3.0; 3]), 8),
    );
    bench
        .hurmo("boolean pair.obj -o pair-one.obj --as union")
        .success()
        .stdout(contains("P1 and P2 meet"));
    assert!((volume(&bench, "pair-one.obj") - 15.0).abs() < 1e-9);
}

/// The same with vertices counted on from a number.
fn later(text: &str, by: usize) -> String {
    let line = |line: &str| match line.strip_prefix("f ") {
        None => line.to_string(),
        Some(face) => {
            let corner = |corner: &str| {
                let (v, vt) = corner.split_once('/').unwrap();
                format!("{}/{vt}", v.parse::<usize>().unwrap() + by)
            };
            let corners: Vec<String> = face.split_whitespace().map(corner).collect();
            format!("f {}", corners.join(" "))
        }
    };
    text.lines().map(|text| line(text) + "\n").collect()
}

#[test]
fn pieces_are_objects_by_what_they_are_in() {
    let bench = two();
    bench
        .hurmo("boolean post.obj peg.obj -o apart.obj --as pieces")
        .success();
    let text = std::fs::read_to_string(bench.path("apart.obj")).unwrap();
    for name in ["post", "peg", "post+peg"] {
        assert!(
            text.lines().any(|line| line == format!("o {name}")),
            "{name}"
        );
    }
    assert_eq!(bench.audit("apart.obj")["mesh"]["parts"], 3);
}

#[test]
fn what_goes_to_single_precision_is_rounded_before_it_is_cut() {
    let bench = two();
    let line = "boolean post.obj peg.obj --as union --move 0.1,0.2,0.3 --turn z,37 -o";
    let text_of = |file: &str| {
        let report = bench.json(&format!("{line} {file}"));
        assert_eq!(report["passes"], true, "{file}");
        crate::common::says(&report["steps"][0]["left"], "rounded")
    };
    assert!(text_of("one.stl") && text_of("one.glb"));
    assert!(!text_of("one.obj") && !text_of("one.ply"));
    let cut = bench.json("cut one.obj -o stl --plane 1,2,3@1,1,1");
    assert_eq!(cut["rounded"], 0, "pieces are OBJ, as the model is");
    let cut = bench.json("cut one.obj -o halves.glb --plane 1,2,3@1,1,1");
    assert!(cut["rounded"].as_u64().unwrap() > 8);
}

#[test]
fn what_lies_within_is_told_and_hollows_stay() {
    let bench = Bench::new();
    let hollow = later(&block("hollow", [1.0; 3], [5.0; 3]), 8).replace("f ", "F ");
    let turned: String = hollow
        .lines()
        .map(|line| match line.strip_prefix("F ") {
            Some(face) => {
                let corners: Vec<&str> = face.split_whitespace().rev().collect();
                format!("f {}\n", corners.join(" "))
            }
            None => format!("{line}\n"),
        })
        .collect();
    bench.file("shell.obj", block("shell", [0.0; 3], [6.0; 3]) + &turned);
    bench.file("ball.obj", block("ball", [2.0; 3], [3.0; 3]));
    let report = bench.json("boolean shell.obj ball.obj -o in.obj --as union");
    let record = &report["steps"][0]["boolean"];
    // In the hollow it is within nothing.
    assert_eq!(record["within"], Value::Array(Vec::new()));
    assert!((record["volume"].as_f64().unwrap() - (216.0 - 64.0 + 1.0)).abs() < 1e-9);
    bench.file("whole.obj", block("whole", [0.0; 3], [6.0; 3]));
    bench
        .hurmo("boolean whole.obj ball.obj -o in.obj --as difference --force")
        .success()
        .stdout(contains("ball lies within whole"));
    assert!((volume(&bench, "in.obj") - 215.0).abs() < 1e-9);
}

/// A box without its lid: cut as if it had one, and open afterwards.
#[test]
fn open_models_are_cut_and_stay_open() {
    let bench = two();
    let text = block("tub", [0.0; 3], [2.0; 3]);
    let without_top: Vec<&str> = (text.lines())
        .filter(|line| *line != "f 5/1 6/2 8/3 7/4")
        .collect();
    bench.file("tub.obj", without_top.join("\n") + "\n");
    let report = bench.json("boolean tub.obj peg.obj -o tub-peg.obj --as union");
    let record = &report["steps"][0]["boolean"];
    assert_eq!(record["solids"][0]["open_edges"], 4);
    // As two boxes that close.
    assert!((record["volume"].as_f64().unwrap() - 19.0).abs() < 1e-9);
    assert!(record["residual"].as_f64().unwrap() < 1e-12);
    // The peg goes through the rim at two places.
    assert_eq!(record["seams_at_rims"].as_array().unwrap().len(), 2);
    let mesh = &bench.audit("tub-peg.obj")["mesh"];
    assert_eq!(mesh["watertight"], false);
    assert_eq!(mesh["rims"], 1);
    bench
        .hurmo("boolean tub.obj peg.obj -o again.obj --as difference")
        .success()
        .stdout(contains("tub does not close along 4 edges"))
        .stdout(contains("the cut line runs into an open rim at 2 places"));
}

#[test]
fn what_has_no_inside_or_leaves_nothing_is_refused() {
    let bench = two();
    bench.file(
        "sheet.obj",
        "v 0 0 1\nv 3 0 1\nv 3 3 1\nv 0 3 1\nf 1 2 3 4\n",
    );
    bench
        .hurmo("boolean post.obj sheet.obj -o none.obj --as union")
        .code(2)
        .stderr(contains(
            "sheet: the surface does not close, and encloses nothing",
        ))
        .stderr(contains("hurmo fill"));
    for (line, why) in [
        (
            "post.obj peg.obj -o none.obj --as intersection --move 9,9,9",
            "don't touch",
        ),
        (
            "post.obj post.obj -o none.obj --as difference",
            "nothing of post",
        ),
        (
            "post.obj peg.obj -o none.obj --as union --move 3:1,1,1",
            "no model 3",
        ),
        (
            "post.obj#P7 peg.obj -o none.obj --as union",
            "there is no P7",
        ),
        (
            "post.obj#group:elm peg.obj -o none.obj --as union",
            "no 'elm'",
        ),
        (
            "post.obj peg.obj -o post.obj --as union --force",
            "that is the input",
        ),
        (
            "post.obj peg.obj -o peg.obj --as union --force",
            "that is the input",
        ),
        ("post.obj peg.obj -o none.obj --as sum", "invalid value"),
    ] {
        bench
            .hurmo(&format!("boolean {line}"))
            .code(2)
            .stderr(contains(why));
    }
    assert_eq!(bench.names(), ["peg.obj", "post.obj", "sheet.obj"]);
}

#[test]
fn a_brief_may_have_it_as_a_step() {
    let bench = two();
    bench.file(
        "join.toml",
        "[[step]]\ndo = \"boolean\"\nas = \"difference\"\nwith = [\"peg.obj\"]\nmove = \"0,0,-0.5\"\n",
    );
    bench
        .hurmo("prep post.obj -o out.obj --for join.toml")
        .success()
        .stdout(contains("difference of 2 solids"));
    assert!((volume(&bench, "out.obj") - 6.5).abs() < 1e-9);
}

#[test]
fn seams_are_rounded_made_even_and_shaded_softly() {
    let bench = two();
    let report = bench.json("boolean post.obj peg.obj -o soft.obj --as union --blend 0.25");
    let seams = &report["steps"][0]["boolean"]["seams"];
    let [_, median, _] = [0, 1, 2].map(|i| seams["rounded"]["radii"][i].as_f64().unwrap());
    assert!((median / 0.25 - 1.0).abs() < 0.15, "{median}");
    assert_eq!(seams["rounded"]["seams"], 1);
    assert_eq!(seams["rounded"]["left_sharp"], 0);
    // The proof by volumes is that of the boolean; what rounding adds is reported beside it.
    assert!(report["steps"][0]["boolean"]["residual"].as_f64().unwrap() < 1e-12);
    let change = seams["volume_change"].as_f64().unwrap();
    let [joined, rounded] = [19.0, volume(&bench, "soft.obj")];
    assert!(change > 0.0 && (rounded - joined - change).abs() < 1e-6);
    assert_eq!(bench.audit("soft.obj")["mesh"]["watertight"], true);
    assert_eq!(report["passes"], true);
    let text = std::fs::read_to_string(bench.path("soft.obj")).unwrap();
    let faces = text.lines().filter(|line| line.starts_with("f "));
    assert!(
        faces.clone().count() > 100,
        "triangles are even where it is rounded"
    );
    assert!(
        faces.clone().all(|face| face.contains('/')),
        "all have UVs still"
    );

    bench
        .hurmo("boolean post.obj peg.obj -o even.obj --as union --even-along 0.5 --crease soften")
        .success()
        .stdout(contains("triangles even within 0.5 of the cut lines"))
        .stdout(contains("the models have no normals"));
    assert!((volume(&bench, "even.obj") - 19.0).abs() < 1e-9);

    bench
        .hurmo("convert post.obj -o flat-post.obj --normals flat")
        .success();
    bench
        .hurmo("convert peg.obj -o flat-peg.obj --normals flat")
        .success();
    bench
        .hurmo("boolean flat-post.obj flat-peg.obj -o shaded.obj --as union --crease soften")
        .success()
        .stdout(contains("edges shaded softly"));
}

#[test]
fn what_cannot_be_done_along_seams_is_said() {
    let bench = two();
    for option in ["--blend 0.1", "--even-along 0.1", "--crease soften"] {
        bench
            .hurmo(&format!(
                "boolean post.obj peg.obj -o no.obj --as pieces {option}"
            ))
            .code(2)
            .stderr(contains("are for one solid"));
    }
    bench
        .hurmo("boolean post.obj peg.obj -o no.obj --as union --blend 0")
        .code(2)
        .stderr(contains("--blend must be more than 0"));
    bench
        .hurmo("boolean post.obj peg.obj -o no.obj --as union --blend 0.0000001")
        .code(2)
        .stderr(contains(
            "the smallest radius that takes no more than 4 million is about",
        ));
    assert!(!bench.path("no.obj").exists());
    bench
        .hurmo("boolean post.obj peg.obj -o apart.obj --as union --move 10,0,0 --blend 0.1")
        .success()
        .stdout(contains("no cut lines"));
}
