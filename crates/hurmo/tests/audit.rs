//! The audit's ways to ask and to tell: briefs, places, many models, reports, marks, pictures.

mod common;

use common::{Bench, CUBE, count};
use serde_json::Value;
use std::collections::BTreeSet;

/// The cube with a hole, a stray vertex and two faces that cross, all in groups.
const PROP: &str = "\
# a comment\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\n\
o crate\nusemtl tar\nf 4 3 2 1\nf 5 6 7 8\nf 1 2 6 5\ng side\nf 2 3 7 6\nf 3 4 8 7\n\
v 9 9 9\nv 3 0 0\nv 4 0 0\nv 3 1 0\nv 3.2 0.2 -1\nv 3.2 0.2 1\nv 3.4 0.4 1\n\
o rope\nusemtl hemp\nf 10 11 12\nf 13 14 15\n";

fn finding<'v>(model: &'v Value, check: &str) -> &'v Value {
    let findings = model["findings"].as_array().unwrap();
    findings
        .iter()
        .find(|f| f["check"] == check)
        .unwrap_or_else(|| panic!("{check} is run"))
}

fn error_of(bench: &Bench, line: &str) -> String {
    let output = bench.hurmo(line).code(2).get_output().clone();
    String::from_utf8(output.stderr).unwrap()
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
        for part in [check.counts, check.harm, check.cure, check.drawing] {
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
    let kept = include_str!("../../../docs/checks.md");
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
    let kept = include_str!("../../../docs/audit.schema.json");
    assert_eq!(
        String::from_utf8(schema).unwrap(),
        kept,
        "docs/audit.schema.json is made anew"
    );
    let schema: Value = serde_json::from_str(kept).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    for line in [
        "audit prop.obj",
        "audit prop.obj empty.obj broken.obj --for print --places all",
        "audit . --for engine --unit mm --wall 1",
    ] {
        let document = bench.json(line);
        let errors: Vec<String> = validator
            .iter_errors(&document)
            .map(|e| e.to_string())
            .collect();
        assert!(errors.is_empty(), "{line}: {errors:?}");
    }
    let mut wrong = bench.json("audit prop.obj");
    wrong["models"][0]["mesh"]["faces"] = "many".into();
    assert!(
        !validator.is_valid(&wrong),
        "the schema refuses what is wrong"
    );
}

/// A folder with good, open and unreadable models, some in a folder within.
fn fleet(bench: &Bench) {
    std::fs::create_dir_all(bench.path("fleet/inner")).unwrap();
    for i in 0..9 {
        bench.file(&format!("fleet/good-{i}.obj"), CUBE);
    }
    let open = CUBE.replace("f 4 1 5 8\n", "");
    bench.file("fleet/inner/open.obj", &open);
    bench.file("fleet/inner/doubled.obj", format!("{open}f 1 2 6 5\n"));
    bench.file("fleet/inner/broken.obj", "v 0 0 0\nf 1 2 3\n");
    bench.file("fleet/readme.txt", "no model");
}

#[test]
fn a_folder_is_told_in_a_line_a_model_the_worst_first() {
    let bench = Bench::new();
    fleet(&bench);
    let output = bench
        .hurmo("audit fleet --for print")
        .code(2)
        .get_output()
        .clone();
    let text = String::from_utf8(output.stdout).unwrap();
    let lines: Vec<&str> = text.lines().collect();
    assert!(
        lines[1].contains("doubled.obj") && lines[1].contains("block"),
        "{text}"
    );
    assert!(lines[2].contains("open.obj"), "{text}");
    assert!(
        text.contains("broken.obj: line 2: vertex 2 is used"),
        "{text}"
    );
    assert!(
        text.contains("9 of 12 models good to go for print, 1 unreadable"),
        "{text}"
    );
    assert!(text.contains("fails most: open-edges in 2"), "{text}");
    std::fs::remove_file(bench.path("fleet/inner/broken.obj")).unwrap();
    bench.hurmo("audit fleet --for print").code(1);
    bench.hurmo("audit fleet/good-*.obj --for print").code(0);
    let report = bench.json("audit fleet/good-*.obj");
    assert_eq!(report["models"].as_array().unwrap().len(), 9);
    bench.hurmo("audit fleet/none-*.obj").code(2);
    std::fs::create_dir(bench.path("bare")).unwrap();
    bench.hurmo("audit bare").code(2);
}

#[test]
fn shards_are_the_whole_and_merging_them_gives_it_back() {
    let bench = Bench::new();
    fleet(&bench);
    let whole = bench.json("audit fleet --for print");
    for i in 1..=4 {
        let part = bench.json(&format!("audit fleet --for print --shard {i}/4"));
        bench.file(&format!("part-{i}.json"), part.to_string());
    }
    let merged = bench.json("audit --merge part-1.json part-2.json part-3.json part-4.json");
    assert_eq!(merged["brief"], "print");
    let by_path = |report: &Value| -> Vec<Value> {
        let mut models = report["models"].as_array().unwrap().clone();
        models.sort_by_key(|model| model["path"].as_str().unwrap().to_string());
        models
    };
    assert_eq!(by_path(&merged), by_path(&whole));
    assert_eq!(merged["unreadable"], whole["unreadable"]);
    let text = bench
        .hurmo("audit --merge part-1.json part-2.json")
        .get_output()
        .stdout
        .clone();
    assert!(
        String::from_utf8(text)
            .unwrap()
            .contains("models good to go for print")
    );
    assert!(
        error_of(&bench, "audit --merge part-1.json part-1.json").contains("is in part-1.json")
    );
    bench.file("other.json", "{\"a\": 1}");
    assert!(error_of(&bench, "audit --merge other.json").contains("no report"));
    let engine = bench.json("audit fleet/good-1.obj --for engine");
    bench.file("engine.json", engine.to_string());
    assert!(error_of(&bench, "audit --merge part-1.json engine.json").contains("brief"));
}

#[test]
fn a_list_of_files_is_read() {
    let bench = Bench::new();
    fleet(&bench);
    bench.file(
        "list.txt",
        "fleet/good-3.obj\nfleet/inner/open.obj\n\nfleet/good-3.obj\n",
    );
    let report = bench.json("audit --files-from list.txt");
    let paths: Vec<&str> = report["models"]
        .as_array()
        .unwrap()
        .iter()
        .map(|m| m["path"].as_str().unwrap())
        .collect();
    assert_eq!(paths, ["fleet/good-3.obj", "fleet/inner/open.obj"]);
    bench.hurmo("audit --files-from nowhere.txt").code(2);
}

#[test]
fn rows_and_test_cases_hold_what_was_found() {
    let bench = Bench::new();
    fleet(&bench);
    bench
        .hurmo("audit fleet --for print --csv rows.csv --junit cases.xml")
        .code(2);
    let text = std::fs::read_to_string(bench.path("rows.csv")).unwrap();
    let mut rows = csv::Reader::from_reader(text.as_bytes());
    let heads = rows.headers().unwrap().clone();
    let column = |name: &str| heads.iter().position(|head| head == name).unwrap();
    let rows: Vec<csv::StringRecord> = rows.records().map(Result::unwrap).collect();
    assert_eq!(rows.len(), 12);
    let row = |name: &str| rows.iter().find(|row| row[0].ends_with(name)).unwrap();
    assert_eq!(&row("inner/open.obj")[column("open-edges")], "4");
    assert_eq!(&row("good-2.obj")[column("passes")], "true");
    assert!(row("broken.obj")[column("error")].contains("line 2"));

    let xml = std::fs::read_to_string(bench.path("cases.xml")).unwrap();
    let mut reader = quick_xml::Reader::from_str(&xml);
    let (mut suites, mut cases, mut failures, mut errors) = (0, 0, 0, 0);
    let mut stated = (0, 0);
    loop {
        match reader.read_event().unwrap() {
            quick_xml::events::Event::Start(element) => match element.name().as_ref() {
                "testsuites" => {
                    let number = |name: &str| -> usize {
                        let value = element.try_get_attribute(name).unwrap().unwrap();
                        value.value.parse().unwrap()
                    };
                    stated = (number("tests"), number("failures"));
                }
                "testsuite" => suites += 1,
                "testcase" => cases += 1,
                "failure" => failures += 1,
                "error" => errors += 1,
                _ => {}
            },
            quick_xml::events::Event::Eof => break,
            _ => {}
        }
    }
    assert_eq!((suites, errors), (12, 1));
    assert_eq!(stated, (cases, failures));
    assert!(failures >= 3 && xml.contains("4 open-edges"), "{failures}");
    bench.hurmo("audit fleet --csv rows.csv").code(2);
    bench
        .hurmo("audit fleet/good-1.obj --csv rows.csv --force")
        .code(0);
}

#[test]
fn marks_are_read_by_another_reader_and_named_after_the_checks() {
    let bench = Bench::new();
    bench.file("prop.obj", PROP);
    bench.hurmo("audit prop.obj --mark prop.glb").code(0);
    let (document, buffers, _) = gltf::import(bench.path("prop.glb")).unwrap();
    let model = bench.audit("prop.obj");
    let found: BTreeSet<String> = model["findings"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|f| f["count"].as_u64().unwrap() > 0)
        .map(|f| f["check"].as_str().unwrap().to_string())
        .collect();
    let nodes: BTreeSet<String> = document
        .nodes()
        .map(|n| n.name().unwrap().to_string())
        .collect();
    let mut expected = found.clone();
    expected.insert("sound".into());
    assert_eq!(nodes, expected);
    let corners = |name: &str, mode| -> usize {
        let node = document.nodes().find(|n| n.name() == Some(name)).unwrap();
        let mesh = node.mesh().unwrap();
        let primitives = mesh.primitives().filter(|p| p.mode() == mode);
        let read = |p: gltf::Primitive<'_>| {
            let reader = p.reader(|buffer| Some(&buffers[buffer.index()]));
            let positions: Vec<[f32; 3]> = reader.read_positions().unwrap().collect();
            let bounds = p.bounding_box();
            for at in &positions {
                assert!((0..3).all(|i| bounds.min[i] <= at[i] && at[i] <= bounds.max[i]));
            }
            positions.len()
        };
        primitives.map(read).sum()
    };
    use gltf::mesh::Mode;
    assert_eq!(corners("intersecting-faces", Mode::Triangles), 6);
    assert_eq!(corners("open-edges", Mode::Lines), 2 * (4 + 6));
    assert_eq!(corners("stray-vertices", Mode::Triangles), 24);
    assert_eq!(corners("sound", Mode::Triangles), 5 * 2 * 3);
    bench.hurmo("audit prop.obj --mark prop.glb").code(2);
}

#[test]
fn pictures_of_every_kind_are_drawn() {
    let bench = Bench::new();
    bench.file("prop.obj", PROP);
    let size = |name: &str| {
        let bytes = std::fs::read(bench.path(name)).unwrap();
        assert_eq!(&bytes[1..4], b"PNG");
        let side = |at: usize| u32::from_be_bytes(bytes[at..at + 4].try_into().unwrap());
        (side(16), side(20))
    };
    let mut seen = BTreeSet::new();
    for show in [
        "plain", "wire", "through", "faults", "parts", "density", "sides",
    ] {
        let name = format!("{show}.png");
        bench
            .hurmo(&format!(
                "picture prop.obj -o {name} --show {show} --view 30,20 --size 200x160"
            ))
            .code(0);
        assert_eq!(size(&name), (200, 160));
        seen.insert(std::fs::read(bench.path(&name)).unwrap());
    }
    assert!(seen.len() >= 6, "the ways to show a model differ");
    bench.hurmo("picture prop.obj -o sheet.png").code(0);
    assert_eq!(
        (size("sheet.png"), size("sheet-places.png")),
        ((1280, 800), (1280, 800))
    );
    bench.hurmo("audit prop.obj --picture audit.png").code(0);
    assert_eq!(size("audit.png"), (1280, 800));
    assert_eq!(
        std::fs::read(bench.path("audit-places.png")).unwrap(),
        std::fs::read(bench.path("sheet-places.png")).unwrap()
    );
    for wrong in [
        "--view up",
        "--view 30",
        "--show all",
        "--size 1x1",
        "--up w",
    ] {
        bench
            .hurmo(&format!("picture prop.obj -o no.png {wrong}"))
            .code(2);
    }
    assert!(error_of(&bench, "audit prop.obj prop.obj --picture two.jpg").contains(".png"));
    bench.file("empty.obj", "v 0 0 0\n");
    bench.hurmo("picture empty.obj -o empty.png").code(0);
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
    assert!(one == with("7"), "seven threads tell another story");
}
