//! Briefs and ledgers changed at random: each reads, or ends in one error.

use crate::mutate::{Random, count, mutated};
use hurmo_core::audit::Brief;
use hurmo_pipeline::batch::Ledger;
use hurmo_pipeline::brief::{from_toml, to_toml};
use hurmo_pipeline::record::RunRecord;
use std::path::Path;

const STEPS: &str = "\n[[step]]\ndo = \"mend\"\nclear = [\"all\", \"floating-parts\"]\nmay-break = [\"open-edges\"]\n\
[[step]]\ndo = \"decimate\"\nto = \"20k\"\nkeep = [\"rims\", \"creases=0.7\"]\n\
[[step]]\ndo = \"reskin\"\ncell = \"0.5%\"\nlevels = 2\n";

#[test]
fn briefs() {
    for (which, name) in Brief::BUILT_IN.into_iter().enumerate() {
        let seed = to_toml(&Brief::named(name).unwrap()) + STEPS;
        assert_eq!(from_toml(&seed, name).unwrap().1.len(), 3);
        let mut random = Random::of(which as u64);
        for _ in 0..count(1_000) {
            let text = mutated(seed.as_bytes(), true, &mut random);
            let Ok(text) = String::from_utf8(text) else {
                continue;
            };
            if let Err(error) = from_toml(&text, name) {
                assert!(error.starts_with("line "), "{error}");
            }
        }
    }
}

#[test]
fn ledgers() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("ledger.jsonl");
    let run = RunRecord {
        version: "1".into(),
        brief: "print".into(),
        brief_text: "name = \"print\"".into(),
        options: vec!["--to=20k".into()],
    };
    let ledger = Ledger::begin(&path, &run).unwrap();
    ledger
        .begun(Path::new("a.obj"), Path::new("out/a.obj"))
        .unwrap();
    ledger
        .done(&serde_json::json!({ "input": { "path": "a.obj" }, "passes": true }))
        .unwrap();
    ledger.failed(Path::new("b.obj"), "no faces").unwrap();
    drop(ledger);
    let seed = std::fs::read(&path).unwrap();
    let mut random = Random::of(7);
    for _ in 0..count(1_000) {
        std::fs::write(&path, mutated(&seed, true, &mut random)).unwrap();
        if let Err(error) = Ledger::resume(&path, &run) {
            assert!(format!("{error:#}").contains("ledger"), "{error:#}");
        }
    }
}
