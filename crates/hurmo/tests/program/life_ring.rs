//! The demo's life-ring through the commands: the findings for a twist, an uneven seam, an island in a hole
//! and small parts that are perhaps wanted, and what becomes of each.

use crate::common::{Bench, count};

fn bench() -> Bench {
    let bench = Bench::new();
    let models = hurmo::demo::models();
    let ring = models.iter().find(|model| model.file == "life-ring.obj");
    let options = hurmo_formats::WriteOptions::default();
    hurmo_formats::write(&bench.path("ring.obj"), &ring.unwrap().model, options).unwrap();
    bench
}

/// What a job says under a title, as people read it.
fn text_of(bench: &crate::common::Bench, line: &str) -> String {
    let out = bench.hurmo(&format!("{line} --force")).get_output().clone();
    String::from_utf8(out.stdout).unwrap()
}

#[test]
fn rims_are_told_by_kind() {
    let bench = bench();
    let rims = bench.json("fill ring.obj");
    let kinds = |kind: &str| {
        let rims = rims["rims"].as_array().unwrap().iter();
        rims.filter(|rim| rim["kind"] == kind).count()
    };
    assert_eq!(kinds("uneven-seam"), 2);
    assert_eq!(kinds("hole"), 1);
    assert_eq!(kinds("border"), 1);
}

#[test]
fn filling_leaves_twists_uneven_seams_and_islands_and_says_so() {
    let bench = bench();
    let story = bench.json("fill ring.obj -o out.obj");
    let step = &story["steps"][0];
    assert!(crate::common::says(&step["left"], "islands"));
    let left = text_of(&bench, "fill ring.obj -o out.obj");
    for words in ["one-sided", "unequal edges", "P8", "--islands"] {
        assert!(left.contains(words), "{words}: {left}");
    }
    for check in ["misoriented-edges", "intersecting-faces"] {
        let [before, after] = ["before", "after"].map(|when| count(&story[when], check));
        assert_eq!(before, after, "{check}");
    }
    let story = bench.json("fill ring.obj -o joined.obj --islands join");
    assert_eq!(story["steps"][0]["single"][0]["islands"]["count"], 1);
    assert_eq!(story["after"]["mesh"]["parts"], 7);
}

#[test]
fn mending_stitches_the_board_closed_and_cuts_the_twist_only_if_asked() {
    let bench = bench();
    let story = bench.json("mend ring.obj -o out.obj");
    let first = |list: &str| {
        let first = &story["steps"][0][list][0];
        format!("{} {}", first["count"], first["change"].as_str().unwrap())
    };
    assert_eq!(first("did"), "16 T-junctions stitched");
    assert!(first("left").starts_with("1 patch left inconsistent"));
    for check in ["pinched-vertices", "intersecting-faces"] {
        assert_eq!(count(&story["after"], check), 0, "{check}");
    }
    assert_eq!(count(&story["after"], "misoriented-edges"), 1);
    let parts = bench.json("parts out.obj");
    assert_eq!(parts["parts"][1]["surface"], "closed");
    let volume = parts["parts"][1]["volume"].as_f64().unwrap();
    assert!((volume - 1.2 * 0.3 * 0.1).abs() < 1e-6, "{volume}");

    let story = bench.json("mend out.obj -o cut.obj --cut-one-sided");
    assert_eq!(count(&story["after"], "misoriented-edges"), 0);
    let refused = bench.hurmo("mend ring.obj -o no.obj --cut-one-sided --clear open-edges");
    refused.code(2);
    assert!(!bench.path("no.obj").exists());
}

#[test]
fn small_parts_that_are_perhaps_wanted_are_listed_and_stay() {
    let bench = bench();
    let story = bench.json("mend ring.obj -o out.obj --clear all,floating-parts");
    assert!(crate::common::says(
        &story["steps"][0]["left"],
        "perhaps-wanted"
    ));
    let left = text_of(
        &bench,
        "mend ring.obj -o out.obj --clear all,floating-parts",
    );
    assert!(left.contains("parts --drop P4,P5,P6,P7"), "{left}");
    assert_eq!(story["after"]["mesh"]["parts"], 8);
    let wanted = bench.json("parts ring.obj");
    let wanted = wanted["parts"].as_array().unwrap().iter();
    assert_eq!(
        wanted.filter(|part| part["perhaps_wanted"] == true).count(),
        4
    );
    // Not even for a handoff that can't use scraps.
    let story = bench.json("prep ring.obj -o out.ply --for print --cut-one-sided --force");
    assert_eq!(count(&story["after"], "floating-parts"), 4);
    assert_eq!(story["passes"], false);
    // The ribbon still blocks.
    bench
        .hurmo("parts ring.obj -o less.obj --drop P4..P7")
        .code(1);
    assert_eq!(count(&bench.audit("less.obj"), "floating-parts"), 0);
}
