//! The audit's options and forms of report: briefs, places, checks by name, the schema.

use crate::common::{Bench, CUBE, PROP, count, error_of};
use serde_json::Value;
use std::collections::BTreeSet;

fn finding<'v>(model: &'v Value, check: &str) -> &'v Value {
    let findings = model["findings"].as_array().unwrap();
    findings
        .iter()
        .find(|f| f["check"] == check)
        .unwrap_or_else(|| panic!("{check} is run"))
}

#[test]
fn places_speak_the_numbers_lines_and_names_of_the_file() {
    let bench = Bench::new();
    bench.file("prop.obj", PROP);
    let model = bench.audit("prop.obj");
    let crossing = &finding(&model, "intersecting-faces")["places"][0];
    assert_eq!(crossing["faces"], serde_json::json!([6, 7]));
    assert_eq!(crossing["lines"], serde_json::json!([27, 28]));
    assert_eq!(crossing["object"], "rope");
    assert_eq!(crossing["material"], "hemp");
    let rims = finding(&model, "open-edges")["places"].as_array().unwrap();
    assert_eq!(
        rims.iter().map(|rim| &rim["rim"]).collect::<Vec<_>>(),
        ["R1", "R2", "R3"]
    );
    let rim = rims.iter().find(|rim| rim["count"] == 4).unwrap();
    assert_eq!(rim["object"], "crate");
    assert_eq!(rim["value"], 4.0);
    assert_eq!(rim["at"], serde_json::json!([0.0, 0.5, 0.5]));
    assert_eq!(rim["bounds"]["max"], serde_json::json!([0.0, 1.0, 1.0]));
    let stray = &finding(&model, "stray-vertices")["places"][0];
    assert_eq!(stray["vertices"], serde_json::json!([9]));
    assert_eq!(stray["lines"], serde_json::json!([18]));
    // In text too, and a PLY counts from 0.
    let text = bench
        .hurmo("audit prop.obj")
        .code(0)
        .get_output()
        .stdout
        .clone();
    let text = String::from_utf8(text).unwrap();
    assert!(text.contains("face 6 on line 27"), "{text}");
    bench.hurmo("convert prop.obj -o prop.ply -q").code(0);
    let ply = bench.audit("prop.ply");
    let crossing = &finding(&ply, "intersecting-faces")["places"][0];
    assert_eq!(crossing["faces"], serde_json::json!([5, 6]));
}

#[test]
fn how_many_places_are_listed_is_as_asked() {
    let bench = Bench::new();
    let many: String = (0..30).map(|i| format!("v 0 {i} 0\n")).collect();
    bench.file("many.obj", format!("{CUBE}{many}"));
    let places = |line: &str| {
        let report = bench.json(&format!("audit many.obj {line}"));
        finding(&report["models"][0], "stray-vertices")["places"]
            .as_array()
            .unwrap()
            .len()
    };
    assert_eq!(
        [places(""), places("--places 5"), places("--places all")],
        [20, 5, 30]
    );
    let text = bench.hurmo("audit many.obj").get_output().stdout.clone();
    assert!(
        String::from_utf8(text)
            .unwrap()
            .contains("and 27 more places")
    );
}

#[test]
fn a_brief_file_sets_levels_thresholds_and_limits() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    bench.file(
        "harbour.toml",
        "extends = \"print\"\n[levels]\nwrong-unit = \"off\"\n[limits]\ntriangles = 10\nsize = \"90mm\"\n[thresholds]\nwall = 1.5\n",
    );
    let report = bench.json("audit --for harbour.toml --unit cm cube.obj");
    assert_eq!(report["brief"], "harbour");
    let model = &report["models"][0];
    assert_eq!(count(model, "too-many-triangles"), 2);
    assert_eq!(count(model, "too-large"), 0);
    assert_eq!(count(model, "thin-walls"), 6);
    assert!(
        model["findings"]
            .as_array()
            .unwrap()
            .iter()
            .all(|f| f["check"] != "wrong-unit")
    );
    bench
        .hurmo("audit --for harbour.toml --unit cm cube.obj")
        .code(1);
    // Without a unit, the size can't be held against millimetres, and that is said.
    let without = bench.json("audit --for harbour.toml cube.obj");
    assert_eq!(without["models"][0]["not_run"][0]["check"], "too-large");
    bench.hurmo("audit --for print cube.obj --unit mm").code(0);
    // What `brief` prints is what is built in.
    for name in ["sculpt", "engine", "print"] {
        let text = bench
            .hurmo(&format!("brief {name}"))
            .code(0)
            .get_output()
            .stdout
            .clone();
        bench.file("again.toml", text);
        let levels = |brief: &str| {
            let report = bench.json(&format!("audit cube.obj --for {brief}"));
            report["models"][0]["findings"].clone()
        };
        assert_eq!(levels("again.toml"), levels(name));
    }
}

#[test]
fn an_unknown_word_is_an_error_that_names_the_nearest() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    bench.file(
        "wrong.toml",
        "extends = \"print\"\n\n[levels]\nopen-edgs = \"warn\"\n",
    );
    let error = error_of(&bench, "audit cube.obj --for wrong.toml");
    assert!(
        error.contains("wrong.toml: line 4: 'open-edgs' is no check; did you mean 'open-edges'?"),
        "{error}"
    );
    assert!(error_of(&bench, "audit cube.obj --for prnt").contains("did you mean print?"));
    assert!(error_of(&bench, "audit cube.obj --skip ngon").contains("did you mean 'ngons'?"));
    assert!(error_of(&bench, "checks open-edge").contains("did you mean 'open-edges'?"));
    assert!(error_of(&bench, "prep cube.obj -o out.obj --for no.toml").contains("no.toml"));
}

#[test]
fn checks_can_be_asked_for_and_left_out() {
    let bench = Bench::new();
    bench.file("prop.obj", PROP);
    let run = |line: &str| -> BTreeSet<String> {
        let report = bench.json(&format!("audit prop.obj {line}"));
        let findings = report["models"][0]["findings"].as_array().unwrap().clone();
        findings
            .iter()
            .map(|f| f["check"].as_str().unwrap().to_string())
            .collect()
    };
    let set =
        |names: &[&str]| -> BTreeSet<String> { names.iter().map(|n| n.to_string()).collect() };
    assert_eq!(
        run("--only ngons,open-edges"),
        set(&["ngons", "open-edges"])
    );
    assert!(!run("--for engine").contains("intersecting-faces"));
    assert!(run("--for engine --also intersecting-faces").contains("intersecting-faces"));
    assert!(!run("--skip open-edges").contains("open-edges"));
    assert!(run("--wall 0.1").contains("thin-walls"));
    assert!(run("--mirror x").contains("mirror-plane-faces"));
    let near = bench.json("audit prop.obj --near 1.05 --only duplicate-vertices");
    assert!(count(&near["models"][0], "duplicate-vertices") > 4);
}

#[test]
fn every_check_explains_itself() {
    let bench = Bench::new();
    let list = bench.hurmo("checks").code(0).get_output().stdout.clone();
    let list = String::from_utf8(list).unwrap();
    for check in hurmo_core::audit::CHECKS {
        assert!(list.contains(check.name));
        let text = bench.hurmo(&format!("checks {}", check.name)).code(0);
        let text = String::from_utf8(text.get_output().stdout.clone()).unwrap();
        let cure = hurmo_pipeline::cures::cure_of(check.name).unwrap();
        for part in [check.counts, check.harm, cure, check.drawing] {
            assert!(text.contains(part), "{}: {part}", check.name);
        }
    }
}

#[test]
fn the_table_of_checks_is_that_of_the_registry() {
    let bench = Bench::new();
    let table = bench
        .hurmo("checks --markdown")
        .code(0)
        .get_output()
        .stdout
        .clone();
    let table = String::from_utf8(table).unwrap();
    let kept = include_str!("../../../../docs/checks.md");
    assert!(
        kept.ends_with(&table),
        "the table in docs/checks.md is made anew"
    );
}

#[test]
fn the_documents_fit_the_schema_that_is_kept() {
    let bench = Bench::new();
    bench.file("prop.obj", PROP);
    bench.file("empty.obj", "v 0 0 0\n");
    bench.file("broken.obj", "f 1 2 3\n");
    let schema = bench
        .hurmo("audit --schema")
        .code(0)
        .get_output()
        .stdout
        .clone();
    let kept = include_str!("../../../../docs/audit.schema.json");
    assert_eq!(
        String::from_utf8(schema).unwrap(),
        kept,
        "docs/audit.schema.json is made anew"
    );
    let schema: Value = serde_json::from_str(kept).unwrap();
    let (mut schemas, mut compiler) = (boon::Schemas::new(), boon::Compiler::new());
    compiler.add_resource("audit.json", schema).unwrap();
    let kept = compiler.compile("audit.json", &mut schemas).unwrap();
    for line in [
        "audit prop.obj",
        "audit prop.obj empty.obj broken.obj --for print --places all",
        "audit . --for engine --unit mm --wall 1",
    ] {
        let document = bench.json(line);
        let verdict = schemas.validate(&document, kept);
        assert!(verdict.is_ok(), "{line}: {verdict:?}");
    }
    let mut wrong = bench.json("audit prop.obj");
    wrong["models"][0]["mesh"]["faces"] = "many".into();
    assert!(
        schemas.validate(&wrong, kept).is_err(),
        "the schema refuses what is wrong"
    );
}

#[test]
fn the_report_does_not_depend_on_the_number_of_threads() {
    let bench = Bench::new();
    for model in hurmo::demo::models() {
        let options = hurmo_formats::WriteOptions::default();
        hurmo_formats::write(&bench.path(model.file), &model.model, options).unwrap();
    }
    let line = "audit buoy.obj hawser.stl heron.ply --for print --unit cm --json";
    let with = |threads: &str| {
        let output = assert_cmd::Command::cargo_bin("hurmo")
            .unwrap()
            .current_dir(bench.folder.path())
            .env("RAYON_NUM_THREADS", threads)
            .args(line.split_whitespace())
            .output()
            .unwrap();
        String::from_utf8(output.stdout).unwrap()
    };
    let one = with("1");
    assert!(one.contains("intersecting-faces"));
    assert!(one == with("7"), "seven threads give another report");
}
