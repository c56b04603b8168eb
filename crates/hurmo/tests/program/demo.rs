//! The demo: every planted fault is found in its number, and preparing clears what blocks, on budget.

use crate::common::{Bench, count};

#[test]
fn planted_faults_are_found_in_exactly_their_numbers_and_cleared() {
    let bench = Bench::new();
    bench.hurmo("demo saltmarsh").code(0);
    for model in hurmo::demo::models() {
        let found = bench.audit(&format!("saltmarsh/{}", model.file));
        for finding in found["findings"].as_array().unwrap() {
            let check = finding["check"].as_str().unwrap();
            let planted = model.planted.iter().find(|p| p.check == check);
            if model.along.contains(&check) {
                assert!(count(&found, check) > 0, "{}: {check}", model.file);
                continue;
            }
            let expected = planted.map_or(0, |planted| planted.count) as u64;
            assert_eq!(count(&found, check), expected, "{}: {check}", model.file);
        }
        assert_eq!(found["mesh"]["rims"], model.rims, "{}", model.file);
        let folder = model
            .packed
            .map_or(String::new(), |pack| format!("{pack}/"));
        bench
            .hurmo(&format!(
                "audit --for {} saltmarsh/{folder}{}",
                model.brief, model.prepared
            ))
            .code(0);
    }
    let heron = bench.audit("saltmarsh/heron-print.3mf");
    assert_eq!(heron["mesh"]["watertight"], true);
    let faces = heron["mesh"]["faces"].as_u64().unwrap();
    assert!((49_998..=50_000).contains(&faces), "{faces}");
    // The brief that goes with them is understood.
    let report = bench.hurmo("prep saltmarsh/bollard.obj --for saltmarsh/harbour.toml --dry-run");
    let report = String::from_utf8(report.get_output().stdout.clone()).unwrap();
    assert!(
        report.contains("1. mend --clear=all,floating-parts"),
        "{report}"
    );
    // A folder that is not its own is left alone.
    std::fs::create_dir(bench.path("mine")).unwrap();
    bench.file("mine/thing.txt", "keep me");
    bench.hurmo("demo mine").code(2);
    assert_eq!(
        std::fs::read(bench.path("mine/thing.txt")).unwrap(),
        b"keep me"
    );
}
