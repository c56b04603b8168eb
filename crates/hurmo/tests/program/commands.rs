//! Each command on small models whose right answer is known.

use crate::common::{Bench, CUBE, count};

#[test]
fn audit_prints_one_json_document_and_exits_by_what_blocks() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    bench.file("open.obj", CUBE.replace("f 4 1 5 8\n", ""));
    let report = bench.json("audit cube.obj open.obj --for print");
    assert_eq!(report["models"].as_array().unwrap().len(), 2);
    let [cube, open] = [0, 1].map(|i| report["models"][i].clone());
    assert_eq!(cube["mesh"]["watertight"], true);
    assert!((cube["mesh"]["volume"].as_f64().unwrap() - 1.0).abs() < 1e-12);
    assert_eq!(cube["mesh"]["area"], 6.0);
    assert_eq!(count(&open, "open-edges"), 4);
    assert_eq!(open["mesh"]["rims"], 1);
    assert_eq!(open["findings"][0]["level"], "block");
    bench.hurmo("audit cube.obj --for print").code(0);
    bench.hurmo("audit open.obj --for print").code(1);
    bench.hurmo("audit open.obj --for engine").code(0);
    bench.hurmo("audit cube.obj nowhere.obj").code(2);
}

#[test]
fn mend_welds_a_split_cube_and_a_second_mend_changes_nothing() {
    let bench = Bench::new();
    // Every face with vertices of its own, a little apart.
    let mut text = String::new();
    let corners: Vec<[f64; 3]> = CUBE
        .lines()
        .filter_map(|line| line.strip_prefix("v "))
        .map(|line| {
            let numbers: Vec<f64> = line.split(' ').map(|n| n.parse().unwrap()).collect();
            [numbers[0], numbers[1], numbers[2]]
        })
        .collect();
    for (f, line) in CUBE
        .lines()
        .filter_map(|line| line.strip_prefix("f "))
        .enumerate()
    {
        for index in line.split(' ') {
            let [x, y, z] = corners[index.parse::<usize>().unwrap() - 1];
            text += &format!("v {x} {y} {}\n", z + 1e-4 * f as f64);
        }
        text += "f -4 -3 -2 -1\n";
    }
    bench.file("split.obj", text);
    let before = bench.audit("split.obj");
    assert_eq!(count(&before, "open-edges"), 24);
    bench
        .hurmo("mend split.obj -o welded.obj --near 0.01")
        .code(0);
    let after = bench.audit("welded.obj");
    assert_eq!(after["mesh"]["vertices"], 8);
    assert_eq!(after["mesh"]["watertight"], true);
    bench.hurmo("mend welded.obj -o again.obj").code(0);
    let read = |name| std::fs::read(bench.path(name)).unwrap();
    assert_eq!(read("welded.obj"), read("again.obj"));

    let refused = bench
        .hurmo("mend split.obj -o never.obj --near 1.1")
        .code(2);
    let error = String::from_utf8(refused.get_output().stderr.clone()).unwrap();
    assert!(
        error.contains("the largest safe distance is 0.9"),
        "{error}"
    );
    assert!(!bench.path("never.obj").exists());
}

#[test]
fn fill_closes_the_rims_that_are_named_and_no_other() {
    let bench = Bench::new();
    let open = CUBE.replace("f 4 1 5 8\n", "").replace("f 2 3 7 6\n", "");
    bench.file("open.obj", open);
    assert_eq!(bench.audit("open.obj")["mesh"]["rims"], 2);
    bench.hurmo("fill open.obj -o one.obj --rim R2").code(0);
    let one = bench.audit("one.obj");
    assert_eq!(
        (one["mesh"]["rims"].as_u64(), count(&one, "open-edges")),
        (Some(1), 4)
    );
    bench.hurmo("fill open.obj -o both.obj --up-to 4").code(0);
    let both = bench.audit("both.obj");
    assert_eq!(both["mesh"]["watertight"], true);
    assert!((both["mesh"]["volume"].as_f64().unwrap() - 1.0).abs() < 1e-12);
    bench.hurmo("fill open.obj -o none.obj --up-to 3.9").code(0);
    assert_eq!(bench.audit("none.obj")["mesh"]["rims"], 2);
    bench.hurmo("fill open.obj -o no.obj --rim R3").code(2);
    bench.hurmo("fill open.obj -o no.obj --up-to 12mm").code(2);
}

#[test]
fn a_rim_that_can_only_be_closed_through_other_faces_is_left() {
    let bench = Bench::new();
    // A spike stands out of the opening of a box.
    let open = CUBE.replace("f 4 1 5 8\n", "");
    let corners = "v 0.5 0.5 0.5\nv 0.5 0.6 0.5\nv 0.6 0.5 0.6\nv -0.5 0.5 0.5\n";
    let spike = "f 9 10 12\nf 10 11 12\nf 11 9 12\nf 9 11 10\n";
    bench.file("spiked.obj", format!("{open}{corners}{spike}"));
    let report = bench.json("fill spiked.obj -o left.obj");
    let left = &report["steps"][0]["left"][0];
    assert_eq!(left["way_out"]["what"], "may-cross", "{report}");
    let after = bench.audit("left.obj");
    assert_eq!(after["mesh"]["rims"], 1);
    assert_eq!(count(&after, "intersecting-faces"), 0);
    bench
        .hurmo("fill spiked.obj -o crossed.obj --may-cross")
        .code(1);
    let after = bench.audit("crossed.obj");
    assert_eq!(after["mesh"]["rims"], 0);
    assert!(count(&after, "intersecting-faces") > 0);
}

#[test]
fn triangulate_cuts_ngons_or_all() {
    let bench = Bench::new();
    bench.file("l.obj", "v 0 0 0\nv 2 0 0\nv 2 1 0\nv 1 1 0\nv 1 2 0\nv 0 2 0\nv 3 0 0\nv 3 1 0\nf 1 2 3 4 5 6\nf 2 7 8 3\n");
    bench.hurmo("mend l.obj -o ngons.obj --triangulate").code(0);
    let ngons = bench.audit("ngons.obj");
    assert_eq!(
        [&ngons["mesh"]["triangles"], &ngons["mesh"]["quads"]],
        [4, 1]
    );
    assert_eq!(ngons["mesh"]["area"], 4.0);
    bench
        .hurmo("mend l.obj -o all.obj --triangulate all")
        .code(0);
    assert_eq!(bench.audit("all.obj")["mesh"]["triangles"], 6);
}

#[test]
fn decimating_keeps_uvs_groups_and_materials() {
    let bench = Bench::new();
    let models = hurmo::demo::models();
    let lantern = models.iter().find(|model| model.file == "lantern.obj");
    let options = hurmo_formats::WriteOptions::default();
    hurmo_formats::write(&bench.path("lantern.obj"), &lantern.unwrap().model, options).unwrap();
    bench
        .hurmo("decimate lantern.obj -o low.obj --to 40%")
        .code(0);
    let low = hurmo_formats::read(&bench.path("low.obj")).unwrap().model;
    let uvs = low.attributes.uvs.as_ref().expect("UVs come along");
    let tags = &low.attributes.tags;
    let mut materials: Vec<&str> = Vec::new();
    for face in low.mesh.face_ids() {
        let tag = tags.of(face).unwrap();
        materials.extend(tag.material.as_deref());
        let has_uvs = low
            .mesh
            .face_range(face)
            .all(|corner| uvs.at(corner).is_some());
        assert_eq!(has_uvs, tag.object.as_deref() == Some("body"), "{tag:?}");
    }
    materials.sort_unstable();
    materials.dedup();
    assert_eq!(materials, ["brass", "glass"]);
}

#[test]
fn decimate_and_remesh_meet_their_targets() {
    let bench = Bench::new();
    let sphere = hurmo_core::Model::from(hurmo_core::shapes::bumpy_sphere(8000));
    assert_eq!(sphere.mesh.face_count(), 7920);
    hurmo_formats::write(&bench.path("ball.stl"), &sphere, Default::default()).unwrap();
    bench
        .hurmo("decimate ball.stl -o low.ply --to 12.5%")
        .code(0);
    let faces = bench.audit("low.ply")["mesh"]["faces"].as_u64().unwrap();
    assert!((988..=990).contains(&faces), "{faces}");
    bench.hurmo("remesh ball.stl -o even.ply --to 3000").code(0);
    let even = bench.audit("even.ply");
    let faces = even["mesh"]["faces"].as_f64().unwrap();
    assert!((faces / 3000.0 - 1.0).abs() < 0.03, "{faces}");
    assert_eq!(even["mesh"]["watertight"], true);
}

#[test]
fn convert_scales_turns_and_guesses_nothing() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE.replace("v 0 1 1", "v 0 1 2"));
    bench
        .hurmo("convert cube.obj -o no.stl --to-unit mm")
        .code(2);
    bench.hurmo("convert cube.obj -o no.stl --to-up z").code(2);
    assert!(!bench.path("no.stl").exists());
    bench
        .hurmo("convert cube.obj -o cube.ply --unit m --to-unit cm --up y --to-up z")
        .code(0);
    let max = bench.audit("cube.ply")["mesh"]["bounds"]["max"].clone();
    assert_eq!(max, serde_json::json!([100.0, 0.0, 100.0]));
    let lost = bench.hurmo("convert cube.obj -o cube.stl").code(0);
    let said = String::from_utf8(lost.get_output().stderr.clone()).unwrap();
    assert!(said.contains("cut into triangles (6)"), "{said}");
}

#[test]
fn picture_draws_a_png_of_the_size_asked_for() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    bench
        .hurmo("picture cube.obj -o cube.png --size 320x200")
        .code(0);
    let bytes = std::fs::read(bench.path("cube.png")).unwrap();
    assert_eq!(&bytes[1..4], b"PNG");
    assert_eq!(bytes[16..24], [0, 0, 1, 64, 0, 0, 0, 200]);
}

#[test]
fn every_command_has_help_with_an_example() {
    let bench = Bench::new();
    for command in [
        "audit", "mend", "fill", "decimate", "remesh", "convert", "prep", "picture", "demo",
    ] {
        let help = bench.hurmo(&format!("{command} --help")).code(0);
        let text = String::from_utf8(help.get_output().stdout.clone()).unwrap();
        assert!(text.contains("Example"), "{command}");
    }
}

#[test]
fn rims_are_listed_by_kind_and_chosen_by_what_is_said() {
    let bench = Bench::new();
    // A box without its lid, and a lone quad with two free corners close to it.
    bench.file(
        "two.obj",
        "v 0 0 0\nv 2 0 0\nv 2 2 0\nv 0 2 0\nv 0 0 1\nv 2 0 1\nv 2 2 1\nv 0 2 1\n\
         f 4 3 2 1\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n\
         v 9 0 0\nv 10 0 0\nv 10 1 0\nv 9 1 0\nf 9 10 11 12\n",
    );
    let report = bench.json("fill two.obj");
    let kinds: Vec<&str> = report["rims"]
        .as_array()
        .unwrap()
        .iter()
        .map(|rim| rim["kind"].as_str().unwrap())
        .collect();
    assert_eq!(kinds, ["open-end", "border"]);
    assert_eq!(report["rims"][0]["bend"], 0.0);
    assert_eq!(report["rims"][0]["part"], "P1");
    assert_eq!(bench.names(), ["two.obj"], "nothing is written");
    for (choice, rims) in [
        ("--part P1", 1),
        ("--nearest 10,0,0", 1),
        ("--leave-longest 1", 1),
        ("--leave-longest 2", 2),
        ("--surface tight", 0),
        ("--surface round --part P1", 1),
    ] {
        // What closes the quad lies on it.
        let line = format!("fill two.obj -o out.obj --force --may-cross {choice}");
        bench.hurmo(&line);
        assert_eq!(bench.audit("out.obj")["mesh"]["rims"], rims, "{choice}");
    }
    bench.hurmo("fill two.obj -o no.obj --part P9").code(2);
    bench.hurmo("fill two.obj -o no.obj --nearest 1,2").code(2);
    assert!(!bench.path("no.obj").exists());
}

#[test]
fn what_is_inside_or_loose_goes_only_by_name_and_is_listed() {
    let bench = Bench::new();
    let cube = |base: usize, low: f64, high: f64| {
        let mut text = String::new();
        for i in 0..8 {
            let at = |bit: usize| if i >> bit & 1 == 1 { high } else { low };
            text += &format!("v {} {} {}\n", at(0), at(1), at(2));
        }
        for face in [
            [1, 3, 4, 2],
            [5, 6, 8, 7],
            [1, 2, 6, 5],
            [3, 7, 8, 4],
            [1, 5, 7, 3],
            [2, 4, 8, 6],
        ] {
            let [a, b, c, d] = face.map(|v| v + base);
            text += &format!("f {a} {b} {c} {d}\n");
        }
        text
    };
    // A cube in a cube, a crumb, and a wall across the outer cube.
    let model = cube(0, 0.0, 10.0)
        + &cube(8, 2.0, 4.0)
        + &cube(16, 20.0, 20.1)
        + "v 7 0 0\nv 7 10 0\nv 7 10 10\nv 7 0 10\nf 25 26 27 28\n";
    bench.file("cubes.obj", model);
    for (clear, faces, words) in [
        ("all", 19, "nothing to do"),
        ("nested-parts", 13, "P2 (6 faces"),
        ("floating-parts", 13, "P3 (6 faces"),
        ("interior-faces", 12, "buried faces dropped"),
    ] {
        let line = format!("mend cubes.obj -o out.obj --force --clear {clear}");
        let report = bench.hurmo(&line).get_output().stdout.clone();
        let report = String::from_utf8(report).unwrap();
        assert!(report.contains(words), "{clear}: {report}");
        let after = bench.audit("out.obj");
        assert_eq!(after["mesh"]["faces"], faces, "{clear}");
        // A second time, nothing is left to do.
        let again = bench.hurmo(&format!(
            "mend out.obj -o again.obj --force --clear {clear}"
        ));
        let again = String::from_utf8(again.get_output().stdout.clone()).unwrap();
        assert!(again.contains("nothing to do"), "{clear}: {again}");
    }
}

#[test]
fn only_the_polygons_at_fault_are_cut() {
    let bench = Bench::new();
    bench.file(
        "quads.obj",
        "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 2 0 0\nv 2 1 0.4\nv 0.2 1.2 0\nv 0 3 0\n\
         f 1 2 3 4\nf 2 5 6 3\nf 4 3 7 8\n",
    );
    for (clear, faces) in [("non-planar-faces", 4), ("concave-faces", 4)] {
        bench.hurmo(&format!(
            "mend quads.obj -o out.obj --force --clear {clear}"
        ));
        let after = bench.audit("out.obj");
        assert_eq!(after["mesh"]["faces"], faces, "{clear}");
        let left = after["findings"].as_array().unwrap();
        let left = left.iter().find(|f| f["check"] == clear).unwrap();
        assert_eq!(left["count"], 0);
    }
}

#[test]
fn welds_are_tried_without_writing_and_auto_takes_the_best() {
    let bench = Bench::new();
    // Two quads that should share an edge, a hundredth apart.
    bench.file(
        "seam.obj",
        "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 1.01 0 0\nv 2 0 0\nv 2 1 0\nv 1.01 1 0\n\
         f 1 2 3 4\nf 5 6 7 8\n",
    );
    let report = bench.json("mend seam.obj --try-weld");
    let best = report["best"].as_f64().unwrap();
    assert!((0.01..0.03).contains(&best), "{best}");
    let trials = report["trials"].as_array().unwrap();
    assert_eq!(trials[0]["joined"], 0);
    assert_eq!(trials.last().unwrap()["closed"], 2);
    bench
        .hurmo("mend seam.obj --try-weld")
        .success()
        .stdout(predicates::str::contains("--near auto"));
    assert_eq!(bench.names(), ["seam.obj"]);
    bench.hurmo("mend seam.obj -o out.obj --near auto --seams-only");
    assert_eq!(bench.audit("out.obj")["mesh"]["vertices"], 6);
    bench.hurmo("mend seam.obj").code(2);
}

#[test]
fn what_is_suggested_can_be_run() {
    let bench = Bench::new();
    // Two sheets through each other, a face the wrong way round, a stray vertex, a scrap.
    bench.file(
        "sheets.obj",
        "v -1 -1 0\nv 1 -1 0\nv 1 1 0\nv -1 1 0\nv 0 -1 -1\nv 0 1 -1\nv 0 1 1\nv 0 -1 1\nv 9 9 9\n\
         v 1.2 0 0\nv 1.21 0 0\nv 1.2 0.01 0\nv 0 0 0\n\
         f 1 2 13\nf 2 3 13\nf 4 3 13\nf 4 1 13\nf 5 6 7\nf 5 7 8\nf 10 11 12\n",
    );
    let text = bench.hurmo("parts sheets.obj -o same.obj --drop-under 0 --for print --unit mm");
    let text = String::from_utf8(text.code(1).get_output().stdout.clone()).unwrap();
    let calls: Vec<&str> = text
        .lines()
        .filter_map(|line| line.trim_start().strip_prefix("hurmo "))
        .collect();
    let commands: Vec<&str> = calls
        .iter()
        .filter_map(|call| call.split_whitespace().next())
        .collect();
    for command in ["mend", "fill", "reskin", "parts"] {
        assert!(commands.contains(&command), "{command}: {text}");
    }
    for call in calls {
        let code = bench
            .hurmo(&format!("{call} --force"))
            .get_output()
            .status
            .code();
        assert!(matches!(code, Some(0 | 1)), "{call}: {code:?}");
    }
}
