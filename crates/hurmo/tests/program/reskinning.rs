//! `hurmo reskin` through the program.

use crate::common::{Bench, count, error_of, grouped, moved, text_of};
use glam::DVec3;
use hurmo_core::{Model, measure, parts, shapes};
use hurmo_formats::WriteOptions;

fn write(bench: &Bench, name: &str, model: &Model) {
    hurmo_formats::write(&bench.path(name), model, WriteOptions::default()).unwrap();
}

/// Two crates pushed into each other, a bead within one of them, each a group of its own.
fn crates(bench: &Bench) {
    let one = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
    let two = moved(one.clone(), DVec3::new(0.5, 0.31, 0.27));
    let bead = moved(shapes::sphere(0.1, 2), DVec3::splat(0.2));
    let models = [
        grouped("tea", one),
        grouped("rope", two),
        grouped("bead", bead),
    ];
    let all: Vec<_> = models.iter().map(|model| (String::new(), model)).collect();
    write(bench, "crates.obj", &parts::joined(&all).model);
}

#[test]
fn a_new_skin_is_sound_and_says_what_became_of_the_parts() {
    let bench = Bench::new();
    crates(&bench);
    let text = text_of(&bench, "reskin crates.obj -o skin.obj --cell 0.04");
    assert!(text.contains("lies inside the skin of others"), "{text}");
    let audit = bench.json("audit skin.obj");
    assert_eq!(audit["models"][0]["mesh"]["watertight"], true);
    assert_eq!(audit["models"][0]["mesh"]["parts"], 1);
    let skin = hurmo_formats::read(&bench.path("skin.obj")).unwrap().model;
    let union = 2.0 - 0.5 * 0.69 * 0.73;
    assert!((measure::volume(&skin.mesh) - union).abs() < 2e-3 * union);
    // Each face is in the group of what it lies on.
    let group = |face| {
        skin.attributes
            .tags
            .of(face)
            .unwrap()
            .group
            .clone()
            .unwrap()
    };
    for face in skin.mesh.face_ids() {
        let at = skin.mesh.face_middle(face);
        if at.x < 0.4 {
            assert_eq!(group(face), "tea");
        } else if at.x > 1.1 {
            assert_eq!(group(face), "rope");
        }
    }
}

#[test]
fn a_skin_is_reduced_to_what_is_asked() {
    let bench = Bench::new();
    crates(&bench);
    text_of(&bench, "reskin crates.obj -o low.ply --to 300");
    let low = hurmo_formats::read(&bench.path("low.ply")).unwrap().model;
    assert!((290..=300).contains(&low.mesh.face_count()));
    let line = "reskin crates.obj -o near.ply --cell 0.04 --then-decimate=within=0.01";
    let text = text_of(&bench, line);
    assert!(text.contains("within 0.01 of the skin: proved"), "{text}");
    let near = hurmo_formats::read(&bench.path("near.ply")).unwrap().model;
    assert!(near.mesh.face_count() < 400, "{}", near.mesh.face_count());
}

#[test]
fn what_cannot_be_made_is_told_and_nothing_is_written() {
    let bench = Bench::new();
    write(
        &bench,
        "sheet.ply",
        &Model::from(shapes::grid(4, 4, 1.0, 1.0)),
    );
    for (line, says) in [
        ("", "--cell"),
        ("--edge 0.1", "unexpected argument '--edge'"),
        ("--cell 10 --min-thickness 0.001", "closes in nothing"),
        ("--cell 1e-7", "GB are free; the smallest that fit"),
        ("--cell 0.1 --within 0.1", "don't go together"),
        ("--cell 0.1 --offset 0", "larger than 0"),
        ("--cell 0.1 --then-decimate lots", "lots"),
    ] {
        let error = error_of(&bench, &format!("reskin sheet.ply -o out.ply {line}"));
        assert!(error.contains(says), "{line}: {error}");
        assert!(!bench.path("out.ply").exists());
    }
}

#[test]
fn gaps_walls_and_voids_are_seen_to_on_request_and_told() {
    let bench = Bench::new();
    let block = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
    let plate = shapes::cuboid(DVec3::ZERO, DVec3::new(1.0, 1.0, 0.02), 2);
    let all = [
        grouped("quay", block.clone()),
        grouped("wharf", moved(block, DVec3::X * 1.1)),
        grouped("plank", moved(plate, DVec3::X * -2.0)),
    ];
    let all: Vec<_> = all.iter().map(|model| (String::new(), model)).collect();
    write(&bench, "quay.obj", &parts::joined(&all).model);
    let text_of = |options: &str| {
        let line = format!("reskin quay.obj -o out.obj --force --cell 0.05 {options}");
        let text = text_of(&bench, &line);
        (
            text,
            bench.json("audit out.obj")["models"][0]["mesh"].clone(),
        )
    };
    let (text, mesh) = text_of("");
    assert!(
        text.contains("P3 has no skin") || text.contains("thinner than a cell are gone"),
        "{text}"
    );
    assert!(mesh["parts"].as_u64() >= Some(2));
    let (text, mesh) = text_of("--close-gaps 0.12 --min-thickness 0.1");
    assert!(
        text.contains("walls thinner than 0.1 made as thick: the thinnest was 0.02, at (-"),
        "{text}"
    );
    assert!(
        text.contains("gaps up to 0.12 filled: the widest was 0.1, at ("),
        "{text}"
    );
    assert_eq!(
        (&mesh["parts"], &mesh["watertight"]),
        (&2.into(), &true.into())
    );
    // All round everything, two rooms are left, and filled.
    let (text, mesh) = text_of("--offset 0.1");
    assert!(text.contains("enclosed at a distance of 0.1"), "{text}");
    assert!(text.contains("2 voids filled; the largest is 1."), "{text}");
    assert_eq!(
        (&mesh["parts"], &mesh["watertight"]),
        (&2.into(), &true.into())
    );
}

#[test]
fn a_skin_may_be_as_fine_as_a_distance_asks() {
    let bench = Bench::new();
    write(&bench, "ball.ply", &Model::from(shapes::sphere(1.0, 5)));
    let line = "reskin ball.ply -o out.ply --force --within";
    let run = bench.json(&format!("{line} 0.001"));
    let rebuilt = &run["steps"][0]["rebuilt"];
    for way in ["new_from_old", "old_from_new"] {
        let off = rebuilt["deviation"][way]["max"].as_f64().unwrap();
        assert!(off < 0.00105, "{way}: {off}");
    }
}

#[test]
fn detail_is_brought_back() {
    let bench = Bench::new();
    write(
        &bench,
        "ball.ply",
        &Model::from(shapes::bumpy_sphere(8_000)),
    );
    let off = |line: &str| {
        let line = format!("reskin ball.ply -o out.ply --force {line}");
        let steps = bench.json(&line)["steps"].clone();
        let last = steps.as_array().unwrap().last().unwrap().clone();
        last["rebuilt"]["deviation"]["new_from_old"]["rms"]
            .as_f64()
            .unwrap()
    };
    let coarse = off("--cell 0.15");
    assert!(off("--cell 0.15 --levels 1") < 0.6 * coarse);
    assert_eq!(
        bench.json("audit out.ply")["models"][0]["mesh"]["watertight"],
        true
    );
    let line = "reskin ball.ply -o x.ply --cell 0.02 --levels 8";
    let error = error_of(&bench, line);
    assert!(error.contains("8 levels would make about"), "{error}");
}

#[test]
fn a_brief_may_ask_for_a_new_skin() {
    let bench = Bench::new();
    crates(&bench);
    let brief = "[[step]]\ndo = \"reskin\"\ncell = \"2%\"\nrounded = true\n";
    std::fs::write(bench.path("skin.toml"), brief).unwrap();
    bench
        .hurmo("prep crates.obj -o out.obj --for skin.toml")
        .code(0);
    let audit = bench.json("audit out.obj");
    assert_eq!(audit["models"][0]["mesh"]["watertight"], true);
}

#[test]
fn a_skin_of_one_part_leaves_the_others_as_they_are() {
    let bench = Bench::new();
    // A cube with UVs beside two that run into each other.
    let text = |base: usize, at: f64, uvs: bool| {
        let corners = [
            (0, 0, 0),
            (1, 0, 0),
            (1, 1, 0),
            (0, 1, 0),
            (0, 0, 1),
            (1, 0, 1),
            (1, 1, 1),
            (0, 1, 1),
        ];
        let mut text: String = corners
            .iter()
            .map(|&(x, y, z)| {
                format!(
                    "v {} {} {}\n",
                    f64::from(x) + at,
                    f64::from(y) + at / 20.0,
                    z
                )
            })
            .collect();
        for face in [
            [4, 3, 2, 1],
            [5, 6, 7, 8],
            [1, 2, 6, 5],
            [2, 3, 7, 6],
            [3, 4, 8, 7],
            [4, 1, 5, 8],
        ] {
            let corner = |v: usize| match uvs {
                true => format!("{}/1", v + base),
                false => (v + base).to_string(),
            };
            text += &format!("f {}\n", face.map(corner).join(" "));
        }
        text
    };
    let model = format!(
        "vt 0.5 0.5\n{}{}{}",
        text(0, 0.0, true),
        text(8, 5.0, false),
        text(16, 5.5, false)
    );
    bench.file("three.obj", model);
    let line = "reskin three.obj -o out.obj --cell 2% --part P2,P3";
    let words = text_of(&bench, line);
    assert!(
        words.contains("in place of 2 parts; 1 other as before"),
        "{words}"
    );
    let out = std::fs::read_to_string(bench.path("out.obj")).unwrap();
    assert!(
        out.lines()
            .filter(|line| line.starts_with("f "))
            .take(6)
            .all(|l| l.contains("/1")),
        "the cube first, as it was"
    );
    let after = bench.audit("out.obj");
    assert_eq!(
        (
            after["mesh"]["parts"].as_u64(),
            count(&after, "intersecting-faces")
        ),
        (Some(2), 0)
    );
    // The whole job cuts the two where they meet, and makes no skin.
    let words = text_of(
        &bench,
        "prep three.obj -o printed.obj --for print --unit mm",
    );
    assert!(words.contains("16 faces cut where they met"), "{words}");
    assert!(!words.contains("as before"), "{words}");
    let error = error_of(&bench, "reskin three.obj -o no.obj --cell 2% --part P9");
    assert!(error.contains("no part P9; the model has 3"), "{error}");
}

#[test]
fn the_older_spelling_makes_the_same_skin() {
    let bench = Bench::new();
    crates(&bench);
    text_of(&bench, "reskin crates.obj -o skin.obj --cell 2%");
    text_of(
        &bench,
        "remesh crates.obj -o older.obj --into solid --cell 2%",
    );
    let bytes = |name: &str| std::fs::read(bench.path(name)).unwrap();
    assert_eq!(bytes("skin.obj"), bytes("older.obj"));
}
