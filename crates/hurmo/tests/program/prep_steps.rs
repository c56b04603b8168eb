//! `hurmo prep` with the steps of a brief: the same as the commands, audited after each.

use crate::common::{Bench, CUBE, PROP, error_of};
use serde_json::Value;

const STEPS: &str = r#"
[[step]]
do = "mend"
clear = ["duplicate-vertices", "stray-vertices", "reversed-faces"]
[[step]]
do = "fill"
up-to = "40 edges"
surface = "tight"
[[step]]
do = "decimate"
to = "60%"
keep = ["rims", "creases=0.7"]
[[step]]
do = "convert"
up = "y"
to-up = "z"
scale = 10
"#;

fn demo_model(bench: &Bench, file: &str) {
    let models = hurmo::demo::models();
    let model = models.iter().find(|model| model.file == file).unwrap();
    let options = hurmo_formats::WriteOptions::default();
    hurmo_formats::write(&bench.path(file), &model.model, options).unwrap();
}

#[test]
fn steps_do_to_the_byte_what_the_commands_do_one_after_another() {
    let bench = Bench::new();
    demo_model(&bench, "lantern.obj");
    bench.file("quay.toml", STEPS);
    bench.hurmo("prep lantern.obj -o by-steps.obj --for quay.toml");
    bench.hurmo(
        "mend lantern.obj -o 1.obj --clear duplicate-vertices,stray-vertices,reversed-faces",
    );
    bench.hurmo("fill 1.obj -o 2.obj --up-to 40 --surface tight");
    bench.hurmo("decimate 2.obj -o 3.obj --to 60% --keep rims,creases=0.7");
    bench.hurmo("convert 3.obj -o 4.obj --up y --to-up z --scale 10");
    let read = |name: &str| std::fs::read_to_string(bench.path(name)).unwrap();
    assert_eq!(read("by-steps.obj"), read("4.obj"));
    assert_ne!(read("3.obj"), read("4.obj"));
}

#[test]
fn each_step_is_written_down_with_what_it_found_and_cost() {
    let bench = Bench::new();
    demo_model(&bench, "lantern.obj");
    bench.file("quay.toml", STEPS);
    bench.hurmo("prep lantern.obj -o out.obj --for quay.toml --ledger ledger.json");
    let ledger = std::fs::read_to_string(bench.path("ledger.json")).unwrap();
    let ledger: Value = serde_json::from_str(&ledger).unwrap();
    assert_eq!(ledger["run"]["brief"], "quay");
    assert_eq!(ledger["run"]["brief_text"], STEPS);
    let model = &ledger["model"];
    let steps = model["steps"].as_array().unwrap();
    let names: Vec<&str> = steps.iter().map(|s| s["step"].as_str().unwrap()).collect();
    assert_eq!(names, ["mend", "fill", "decimate", "convert"]);
    let words: Vec<&str> = steps[2]["options"]
        .as_array()
        .unwrap()
        .iter()
        .map(|w| w.as_str().unwrap())
        .collect();
    assert!(words.contains(&"--to=60%") && words.contains(&"--keep=rims,creases=0.7"));
    let audit = bench.audit("lantern.obj");
    let welded = crate::common::count(&audit, "duplicate-vertices");
    let found = steps[0]["found"].as_array().unwrap();
    let of_welds = found
        .iter()
        .find(|found| found["check"] == "duplicate-vertices");
    assert_eq!(of_welds.unwrap()["count"], welded, "{found:?}");
    for step in steps {
        assert!(step["seconds"].as_f64().unwrap() > 0.0 && step["kept"] == true);
        assert!(step["peak_bytes"].as_u64().unwrap() > 1 << 20);
    }
    // Turned and scaled as a whole, the model still lies where it was read.
    let off = |step: &Value| {
        step["from_original"]["new_from_old"]["max"]
            .as_f64()
            .unwrap()
    };
    let ratio = off(&steps[3]) / off(&steps[2]);
    assert!((ratio - 10.0).abs() < 0.2, "{ratio}");
    for (file, name) in [
        (&model["input"], "lantern.obj"),
        (&model["output"], "out.obj"),
    ] {
        let record = hurmo_pipeline::record::FileRecord::of(&bench.path(name)).unwrap();
        assert_eq!(file["sha256"], record.sha256.as_str());
        assert_eq!(file["bytes"], record.bytes);
    }
}

/// The cube is as large as this brief allows.
const SMALL: &str = "[levels]\ntoo-large = \"block\"\n[limits]\nsize = 1\n";

#[test]
fn a_step_that_makes_more_of_what_blocks_ends_the_job_and_leaves_no_trace() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    let grow =
        "[[step]]\ndo = \"mend\"\ntriangulate = \"all\"\n[[step]]\ndo = \"convert\"\nscale = 3\n";
    let after = "[[step]]\ndo = \"decimate\"\nto = 4\n";
    bench.file("small.toml", format!("{SMALL}{grow}{after}"));
    let story = bench.json("prep cube.obj -o out.obj --for small.toml");
    assert_eq!(story["passes"], false);
    assert_eq!(story["stopped"]["step"], 2);
    let grown = serde_json::json!({ "check": "too-large", "before": 0, "after": 3 });
    let why = serde_json::json!({ "what": "more-blocks", "checks": [grown] });
    assert_eq!(story["stopped"]["why"], why);
    assert_eq!(story["steps"].as_array().unwrap().len(), 2);
    assert_eq!(story["steps"][1]["kept"], false);
    // What was thrown away leaves no trace in how far the result lies from what was read.
    let off = &story["from_original"]["new_from_old"]["max"];
    assert!(off.as_f64().unwrap() < 1e-12, "{off}");
    let out = bench.audit("out.obj");
    assert_eq!(
        (&out["mesh"]["triangles"], &out["mesh"]["volume"]),
        (&12.into(), &1.0.into())
    );
    bench
        .hurmo("prep cube.obj -o out.obj --force --for small.toml")
        .code(1);

    // Where the brief lets it, it goes on, and says what blocks in the end.
    let grow = grow.replace("scale = 3\n", "scale = 3\nmay-break = [\"too-large\"]\n");
    bench.file("any.toml", format!("{SMALL}{grow}{after}"));
    let story = bench.json("prep cube.obj -o any.obj --for any.toml");
    assert_eq!(story["stopped"], Value::Null);
    assert_eq!(story["passes"], false);
    let out = bench.audit("any.obj");
    assert_eq!(out["mesh"]["triangles"], 4);
    // Allowing another check does not help.
    let other = grow.replace("too-large\"]", "open-edges\"]");
    bench.file("other.toml", format!("{SMALL}{other}{after}"));
    let story = bench.json("prep cube.obj -o other.obj --for other.toml");
    assert_eq!(story["stopped"]["step"], 2);
}

#[test]
fn a_dry_run_tells_what_would_be_done_and_writes_nothing() {
    let bench = Bench::new();
    bench.file("prop.obj", PROP);
    let before = bench.names();
    let report = bench.hurmo("prep prop.obj --for engine --dry-run").code(0);
    let report = String::from_utf8(report.get_output().stdout.clone()).unwrap();
    for words in [
        "a dry run",
        "1. mend --also=",
        "1 stray-vertices",
        "1 stray vertex dropped",
        "as it would be",
    ] {
        assert!(report.contains(words), "{words} in\n{report}");
    }
    let many = bench.hurmo("prep . --for engine --dry-run").code(0);
    let many = String::from_utf8(many.get_output().stdout.clone()).unwrap();
    assert!(many.contains("1 of 1 model would be good to go"), "{many}");
    assert_eq!(bench.names(), before);
    let story = bench.json("prep prop.obj --for engine --dry-run");
    assert_eq!(story["output"], Value::Null);
    // A dry run reports what a run produces.
    let real = bench.json("prep prop.obj -o out.obj --for engine");
    assert_eq!(story["after"]["mesh"], real["after"]["mesh"]);
    error_of(&bench, "prep prop.obj -o no.obj --for engine --dry-run");
    assert!(!bench.path("no.obj").exists());
}

#[test]
fn the_briefs_limit_is_the_budget_unless_another_is_said() {
    let bench = Bench::new();
    demo_model(&bench, "buoy.obj");
    bench.file(
        "small.toml",
        "extends = \"engine\"\n[limits]\ntriangles = 700\n",
    );
    let triangles = |line: &str| {
        let story = bench.json(line);
        assert_eq!(story["passes"], true, "{line}");
        story["after"]["mesh"]["triangles"].as_u64().unwrap()
    };
    let limited = triangles("prep buoy.obj -o a.obj --for small.toml");
    assert!((650..=700).contains(&limited), "{limited}");
    let said = triangles("prep buoy.obj -o b.obj --for small.toml --to 500");
    assert!((450..=500).contains(&said), "{said}");
}

#[test]
fn the_sheet_shows_before_and_after() {
    let bench = Bench::new();
    bench.file("prop.obj", PROP);
    bench
        .hurmo("prep prop.obj -o out.obj --for engine --picture sheet.png")
        .code(0);
    let png = std::fs::read(bench.path("sheet.png")).unwrap();
    assert!(png.starts_with(b"\x89PNG") && png.len() > 10_000);
    let said = error_of(
        &bench,
        "prep prop.obj -o o.obj --for engine --picture sheet.jpg",
    );
    assert!(said.contains("ends in .png"), "{said}");
    assert!(!bench.path("o.obj").exists());
}

#[test]
fn steps_that_mean_nothing_are_told_by_line_before_anything_is_read() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    let said = |step: &str| {
        bench.file("b.toml", format!("name = \"b\"\n[[step]]\n{step}\n"));
        let said = error_of(&bench, "prep cube.obj -o out.obj --for b.toml");
        assert!(!bench.path("out.obj").exists());
        assert_eq!(said.trim_end().lines().count(), 1, "{said}");
        said
    };
    assert!(said("to = 4").contains("line 2: a step says what to do: do = one of mend, fill"));
    assert!(
        said("do = \"decimte\"").contains("line 3: 'decimte' is no step; did you mean 'decimate'")
    );
    assert!(
        said("do = \"decimate\"\ntoo = 4")
            .contains("line 4: 'too' is no option of decimate; did you mean 'to'")
    );
    assert!(
        said("do = \"decimate\"")
            .contains("line 3: say how far to reduce: --to, --within or --flat")
    );
    assert!(said("do = \"decimate\"\nto = \"some\"").contains("line 4: to: 'some' is no budget"));
    assert!(said("do = \"decimate\"\nto = true").contains("line 4: to needs a value"));
    assert!(
        said("do = \"decimate\"\nflat = true\nregularity = 0.5")
            .contains("leaves no room for --regularity")
    );
    assert!(said("do = \"mend\"\nseams-only = 3").contains("line 4: seams-only is true or false"));
    assert!(
        said("do = \"mend\"\nclear = [\"stray-vertex\"]").contains("'stray-vertex' is no check")
    );
    assert!(
        said("do = \"mend\"\nmay-break = [\"ngon\"]")
            .contains("'ngon' is no check; did you mean 'ngons'")
    );
    assert!(
        said("do = \"fill\"\nup-to = { edges = 3 }").contains("line 4: a word, a number or a list")
    );
    assert!(said("do = \"parts\"").contains("say which parts"));
    bench.file("b.toml", "step = 3\n");
    assert!(error_of(&bench, "prep cube.obj -o out.obj --for b.toml").contains("[[step]]"));
    bench.file("b.toml", "[[step]]\ndo = \"mend\"\n");
    let said = error_of(&bench, "prep cube.obj -o out.obj --for b.toml --to 4");
    assert!(said.contains("lists its steps"), "{said}");
    // Other commands take such a brief for what it asks.
    bench.hurmo("audit cube.obj --for b.toml").code(0);
}

#[test]
fn what_a_step_cannot_do_ends_the_job_with_nothing_written() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    bench.file("b.toml", "[[step]]\ndo = \"fill\"\nrim = \"R3\"\n");
    let said = error_of(
        &bench,
        "prep cube.obj -o out.obj --for b.toml --ledger l.json",
    );
    assert!(said.contains("there is no R3"), "{said}");
    assert!(!bench.path("out.obj").exists() && !bench.path("l.json").exists());
}
