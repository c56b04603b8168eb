//! Many models: folders, lists, shards, and reports for other programs.

use crate::common::{Bench, CUBE, error_of};
use serde_json::Value;

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
