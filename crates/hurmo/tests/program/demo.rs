//! The demo: every planted fault is found in its number, and preparing clears what blocks, on budget.

use crate::common::{Bench, count};
use glam::DVec3;
use hurmo_core::{Model, shapes};

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

/// As a scan comes: with a hole in it, and a vertex that no face has.
#[test]
fn a_ball_with_a_hole_comes_out_closed_on_its_budget_with_a_ledger() {
    let bench = Bench::new();
    let ball = shapes::bumpy_sphere(16_000);
    let middle = |face| ball.face_middle(face);
    let (mut open, _) = Model::from(ball.clone()).without_faces(|face| middle(face).z > 0.93);
    open.mesh.push_vertex(DVec3::splat(0.1));
    let options = hurmo_formats::WriteOptions::default();
    hurmo_formats::write(&bench.path("ball.ply"), &open, options).unwrap();
    let story = bench.json("prep ball.ply -o out.ply --for print --to 4k --ledger story.json");
    assert_eq!(story["passes"], true);
    assert_eq!(story["after"]["mesh"]["watertight"], true);
    let faces = story["after"]["mesh"]["faces"].as_u64().unwrap();
    assert!((3_998..=4_000).contains(&faces), "{faces}");
    let ledger = std::fs::read_to_string(bench.path("story.json")).unwrap();
    assert_eq!(
        serde_json::from_str::<serde_json::Value>(&ledger).unwrap()["model"],
        story
    );
    let steps = story["steps"].as_array().unwrap();
    let named = |name: &str| steps.iter().any(|step| step["step"] == name);
    assert!(named("mend") && named("decimate") && named("fill"));
    for step in steps {
        let moved = step["reports"][0]["moved"].as_f64().unwrap();
        assert!(
            moved < 0.01 * story["before"]["mesh"]["diagonal"].as_f64().unwrap(),
            "{step}"
        );
    }
}
