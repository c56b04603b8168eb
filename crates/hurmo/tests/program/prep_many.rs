//! `hurmo prep` on many models: one bad model stops no other, and a run that broke off goes on.

use crate::common::{Bench, CUBE, PROP, error_of};
use serde_json::Value;
use std::path::Path;
use std::time::SystemTime;

fn props() -> Bench {
    let bench = Bench::new();
    std::fs::create_dir_all(bench.path("props/quay")).unwrap();
    bench.file("props/cube.obj", CUBE);
    bench.file("props/prop.obj", PROP);
    bench.file("props/quay/cube.obj", CUBE);
    bench.file(
        "props/broken.ply",
        "ply\nformat ascii 1.0\nelement vertex 5\n",
    );
    bench
}

fn lines(path: &Path) -> Vec<Value> {
    let text = std::fs::read_to_string(path).unwrap();
    let lines = text.lines().map(|line| serde_json::from_str(line).unwrap());
    lines.collect()
}

fn written(path: &Path) -> SystemTime {
    std::fs::metadata(path).unwrap().modified().unwrap()
}

#[test]
fn a_folder_becomes_a_folder_and_a_bad_model_stops_no_other() {
    let bench = props();
    let report = bench
        .hurmo("prep props -o ready --for engine --format ply")
        .code(2);
    let report = String::from_utf8(report.get_output().stdout.clone()).unwrap();
    assert!(
        report.contains("3 of 4 models good to go for engine, 1 failed"),
        "{report}"
    );
    assert!(report.contains("props/broken.ply: "), "{report}");
    for (file, triangles) in [("cube.ply", 12), ("prop.ply", 12), ("quay/cube.ply", 12)] {
        let audit = bench.audit(&format!("ready/{file}"));
        assert_eq!(audit["mesh"]["triangles"], triangles, "{file}");
    }
    let ledger = lines(&bench.path("ready/ledger.jsonl"));
    assert_eq!(ledger[0]["run"]["options"][0], "--format=ply");
    let count = |kind: &str| {
        ledger
            .iter()
            .filter(|line| line.get(kind).is_some())
            .count()
    };
    assert_eq!(
        [
            count("run"),
            count("begun"),
            count("model"),
            count("failed")
        ],
        [1, 4, 3, 1]
    );
    for line in ledger.iter().filter_map(|line| line.get("model")) {
        let path = line["output"]["path"].as_str().unwrap();
        let record = hurmo_pipeline::record::FileRecord::of(&bench.path(path)).unwrap();
        assert_eq!(line["output"]["sha256"], record.sha256.as_str());
    }
}

#[test]
fn a_run_that_broke_off_does_only_what_is_left() {
    let bench = props();
    bench.hurmo("prep props -o ready --for engine").code(2);
    let ledger = bench.path("ready/ledger.jsonl");
    let whole = std::fs::read_to_string(&ledger).unwrap();
    let (kept, lost) = (
        bench.path("ready/cube.obj"),
        bench.path("ready/quay/cube.obj"),
    );
    // As if the run had been killed while the last model was being written down.
    let mut left: Vec<&str> = Vec::new();
    let of_lost = |line: &str| line.starts_with("{\"model\"") && line.contains("quay");
    left.extend(whole.lines().filter(|line| !of_lost(line)));
    std::fs::write(&ledger, left.join("\n") + "\n{\"model\":{\"inp").unwrap();
    let (then, lost_then) = (written(&kept), written(&lost));
    std::thread::sleep(std::time::Duration::from_millis(20));

    let run = bench.json("prep props -o ready --for engine --resume");
    assert_eq!(run["models"].as_array().unwrap().len(), 3);
    assert_eq!(run["failed"].as_array().unwrap().len(), 1);
    assert_eq!(written(&kept), then);
    assert!(written(&lost) > lost_then);
    let again = bench
        .hurmo("prep props -o ready --for engine --resume")
        .code(2);
    let again = String::from_utf8(again.get_output().stdout.clone()).unwrap();
    assert!(again.contains("3 done before, 1 failed"), "{again}");

    // A model that changed, and one whose result is gone, are done again.
    bench.file("props/cube.obj", CUBE.replace("v 1 1 1", "v 1 1 2"));
    std::fs::remove_file(&lost).unwrap();
    let again = bench
        .hurmo("prep props -o ready --for engine --resume")
        .code(2);
    let again = String::from_utf8(again.get_output().stdout.clone()).unwrap();
    assert!(again.contains("1 done before"), "{again}");
    assert!(lost.is_file() && written(&kept) > then);
}

#[test]
fn a_run_is_not_begun_over_another_nor_gone_on_with_otherwise() {
    let bench = props();
    bench.file("props/broken.ply", "ply\n");
    bench.hurmo("prep props -o ready --for engine").code(2);
    let said = error_of(&bench, "prep props -o ready --for engine");
    assert!(said.contains("--resume does what is left"), "{said}");
    let said = error_of(&bench, "prep props -o ready --for engine --resume --to 8");
    assert!(
        said.contains("with no options, and this is with --to=8"),
        "{said}"
    );
    let said = error_of(&bench, "prep props -o ready --for print --resume");
    assert!(said.contains("another brief"), "{said}");
    bench
        .hurmo("prep props -o ready --for engine --to 8 --force")
        .code(2);
    assert_eq!(bench.audit("ready/cube.obj")["mesh"]["triangles"], 8);
}

#[test]
fn a_file_that_was_there_is_left_alone() {
    let bench = props();
    std::fs::create_dir(bench.path("ready")).unwrap();
    bench.file("ready/cube.obj", "mine");
    let run = bench.json("prep props -o ready --for engine");
    assert_eq!(run["failed"].as_array().unwrap().len(), 2);
    assert_eq!(
        std::fs::read(bench.path("ready/cube.obj")).unwrap(),
        b"mine"
    );
    // Nor is it taken for a result that a run which broke off had begun.
    bench
        .hurmo("prep props -o ready --for engine --resume")
        .code(2);
    assert_eq!(
        std::fs::read(bench.path("ready/cube.obj")).unwrap(),
        b"mine"
    );
}

#[test]
fn shares_together_are_all_and_do_not_meet() {
    let bench = props();
    for share in ["1/2", "2/2"] {
        bench.hurmo(&format!("prep props -o ready --for engine --shard {share}"));
    }
    let models = |share: &str| {
        let all = lines(&bench.path(&format!("ready/ledger-{share}.jsonl")));
        all.iter()
            .filter(|line| line.get("begun").is_some())
            .count()
    };
    assert_eq!((models("1-of-2"), models("2-of-2")), (2, 2));
    for file in ["cube.obj", "prop.obj", "quay/cube.obj"] {
        assert!(bench.path("ready").join(file).is_file(), "{file}");
    }
}

#[test]
fn results_below_the_folder_are_not_taken_for_models() {
    let bench = props();
    bench
        .hurmo("prep props -o props/ready --for engine")
        .code(2);
    let again = bench.json("prep props -o props/ready --for engine --resume");
    assert_eq!(again["models"].as_array().unwrap().len(), 3);
}

#[test]
fn each_model_has_its_sheet() {
    let bench = props();
    bench
        .hurmo("prep props -o ready --for engine --picture sheets")
        .code(2);
    for sheet in ["cube.obj.png", "prop.obj.png", "quay/cube.obj.png"] {
        let png = std::fs::read(bench.path("sheets").join(sheet)).unwrap();
        assert!(png.starts_with(b"\x89PNG"), "{sheet}");
    }
}

#[test]
fn many_models_do_not_go_into_a_file() {
    let bench = props();
    bench.file("there.obj", "mine");
    let said = error_of(&bench, "prep props -o there.obj --for engine");
    assert!(said.contains("many models go into a folder"), "{said}");
    let said = error_of(
        &bench,
        "prep props/cube.obj props/prop.obj -o both.obj --for engine",
    );
    assert!(said.contains("this is a file's name"), "{said}");
    let said = error_of(&bench, "prep props -o props --for engine");
    assert!(said.contains("write into another"), "{said}");
    let said = error_of(&bench, "prep props/cube.obj -o cube.fbq --for engine");
    assert!(said.contains("the name says no format"), "{said}");
    let said = error_of(&bench, "prep props -o ready --for engine --format fbq");
    assert!(said.contains("no format"), "{said}");
    assert_eq!(bench.names(), ["props", "there.obj"]);
    let run = bench.json("prep props/cube.obj props/gone -o ready --for engine");
    assert_eq!(run["models"].as_array().unwrap().len(), 1);
    assert_eq!(run["failed"][0]["error"], "there is no such file");
}

#[test]
fn the_same_comes_out_whatever_the_number_of_threads() {
    let bench = Bench::new();
    std::fs::create_dir(bench.path("props")).unwrap();
    for model in hurmo::demo::models()
        .iter()
        .filter(|model| model.file != "heron.ply")
    {
        let options = hurmo_formats::WriteOptions::default();
        hurmo_formats::write(&bench.path("props").join(model.file), &model.model, options).unwrap();
    }
    for threads in ["1", "3"] {
        let _ = assert_cmd::Command::cargo_bin("hurmo")
            .unwrap()
            .current_dir(bench.folder.path())
            .env("RAYON_NUM_THREADS", threads)
            .args([
                "prep", "props", "-o", threads, "--for", "engine", "--to", "60%",
            ])
            .output()
            .unwrap();
    }
    for model in hurmo::demo::models()
        .iter()
        .filter(|model| model.file != "heron.ply")
    {
        let read = |folder: &str| std::fs::read(bench.path(folder).join(model.file)).unwrap();
        assert!(read("1") == read("3"), "{}", model.file);
    }
}
