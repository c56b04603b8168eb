//! Briefs, and ledgers of batches; the first byte says which.
#![no_main]

use hurmo_pipeline::batch::Ledger;
use hurmo_pipeline::brief::from_toml;
use hurmo_pipeline::record::RunRecord;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|input: &[u8]| {
    let Some((first, rest)) = input.split_first() else {
        return;
    };
    if first % 2 == 0 {
        let Ok(text) = std::str::from_utf8(rest) else {
            return;
        };
        if let Err(error) = from_toml(text, "fuzzed") {
            assert!(error.starts_with("line "), "{error}");
        }
        return;
    }
    let run = RunRecord {
        version: "1".into(),
        brief: "print".into(),
        brief_text: "name = \"print\"".into(),
        options: Vec::new(),
    };
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("ledger.jsonl");
    std::fs::write(&path, rest).expect("written");
    let _ = Ledger::resume(&path, &run);
});
