//! `hurmo remesh --into quads` through the program.

use crate::common::{Bench, CUBE, error_of, says, text_of};
use hurmo_core::Model;
use serde_json::Value;

fn read(bench: &Bench, name: &str) -> Model {
    hurmo_formats::read(&bench.path(name)).unwrap().model
}

/// A cube whose top is of another group and material, with UVs nowhere.
const TWO_GROUPS: &str = "\
v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\n\
g hull\nusemtl tar\nf 4 3 2 1\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n\
g lid\nusemtl brass\nf 5 6 7 8\n";

#[test]
fn a_budget_of_quads_is_met_and_groups_come_along() {
    let bench = Bench::new();
    bench.file("box.obj", TWO_GROUPS);
    let line = "remesh box.obj -o quads.obj --into quads --to 600";
    let text = text_of(&bench, line);
    assert!(text.contains("8 vertices irregular"), "{text}");
    let made = read(&bench, "quads.obj");
    assert!(made.mesh.faces().all(|(_, face)| face.len() == 4));
    assert!((made.mesh.face_count() as f64 / 600.0 - 1.0).abs() < 0.05);
    let tags = &made.attributes.tags;
    for face in made.mesh.face_ids() {
        let tag = &tags.table[tags.of_face[face.index()] as usize];
        let is_lid = made.mesh.face_middle(face).z > 1.0 - 1e-9;
        let [group, material] = if is_lid {
            ["lid", "brass"]
        } else {
            ["hull", "tar"]
        };
        assert_eq!(tag.group.as_deref(), Some(group));
        assert_eq!(tag.material.as_deref(), Some(material));
    }
    let json = bench.json(&format!("{line} --force"));
    assert!(says(&json["steps"][0]["did"], "into-quads"));
    assert_eq!(json["passes"], Value::Bool(true));
}

#[test]
fn what_quads_cannot_do_is_refused() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    let refused = |options: &str| {
        error_of(
            &bench,
            &format!("remesh cube.obj -o x.obj --into quads {options}"),
        )
    };
    assert!(
        refused("--edge 0.1 --follow seams").contains("'seams' is none of creases, rims, groups")
    );
    bench.file("dots.obj", "v 0 0 0\nv 1 0 0\n");
    assert!(refused("--edge 0.1 --guide dots.obj").contains("dots.obj has no line elements"));
    assert!(refused("--edge 0.1 --guide none.obj").contains("none.obj"));
    assert!(refused("--edge 0.1 --keep-rims exact").contains("needs --mostly-quads"));
    let both = "--edge 0.1 --mostly-quads --keep-rims exact --symmetry x";
    assert!(refused(both).contains("don't go together"));
    assert!(refused("--edge 0.1 --part P1").contains("rebuilds the whole model"));
    assert!(refused("").contains("say how fine"));
    let triangles = "remesh cube.obj -o x.obj --edge 0.1 --symmetry x";
    assert!(error_of(&bench, triangles).contains("--symmetry is for --into quads"));
    assert!(!bench.path("x.obj").exists());
}

#[test]
fn quads_run_along_guides_and_keep_a_symmetry() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    bench.file("lines.obj", "v 0.2 0.2 1\nv 0.8 0.6 1\nl 1 2\n");
    let line = "remesh cube.obj -o quads.obj --into quads --edge 0.05 --force";
    text_of(&bench, line);
    let plain = read(&bench, "quads.obj");
    let text = text_of(&bench, &format!("{line} --guide lines.obj"));
    assert!(
        text.contains("within 5° of the guides along 100.0%"),
        "{text}"
    );
    bench.file("far.obj", "v 5 5 5\nv 6 5 5\nl 1 2\n");
    let text = text_of(&bench, &format!("{line} --guide far.obj"));
    assert!(text.contains("no guide lies near the surface"), "{text}");
    text_of(&bench, &format!("{line} --guide lines.obj"));
    let guided = read(&bench, "quads.obj");
    assert_ne!(plain.mesh, guided.mesh);
    assert!(guided.mesh.faces().all(|(_, face)| face.len() == 4));
    let text = text_of(&bench, &format!("{line} --symmetry x"));
    assert!(text.contains("its own image across x = "), "{text}");
    let text = text_of(
        &bench,
        &format!("{line} --within 0.01").replace("--edge 0.05", ""),
    );
    assert!(text.contains("within 0.01 both ways: proved"), "{text}");
}

#[test]
fn levels_are_files_of_their_own() {
    let bench = Bench::new();
    bench.file("box.obj", TWO_GROUPS);
    let line = "remesh box.obj -o quads.ply --into quads --to 600 --levels 2";
    let text = text_of(&bench, line);
    assert!(text.contains("level 1   quads-level1.ply: 2,4"), "{text}");
    assert!(text.contains("2,400 quads, on the model"), "{text}");
    let [base, one, two] =
        ["quads.ply", "quads-level1.ply", "quads-level2.ply"].map(|name| read(&bench, name).mesh);
    assert_eq!(one.face_count(), 4 * base.face_count());
    assert_eq!(two.face_count(), 16 * base.face_count());
    // Vertices of the level before come first: corners of the box are the same ones.
    for (v, &at) in base.positions().iter().enumerate() {
        if at.to_array().iter().all(|&x| x == 0.0 || x == 1.0) {
            assert_eq!([one.positions()[v], two.positions()[v]], [at, at]);
        }
    }
    let json = bench.json(&format!("{line} --force"));
    assert_eq!(json["levels"][1]["quads"], two.face_count());
    assert_eq!(json["levels"][1]["blocks"].as_array().unwrap().len(), 0);
    // None is overwritten, and what is read is not.
    let refused = error_of(&bench, line);
    assert!(
        refused.contains("quads-level1.ply: is there already"),
        "{refused}"
    );
    bench.file("own-level1.obj", CUBE);
    let own = "remesh own-level1.obj -o own.obj --into quads --edge 0.2 --levels 1 --force";
    assert!(error_of(&bench, own).contains("that is the input"));
    let others = "remesh box.obj -o x.ply --edge 0.2 --levels 2";
    assert!(error_of(&bench, others).contains("--levels is for --into quads"));
    let skin = "reskin box.obj -o skin.ply --cell 0.1 --into quads --levels 1";
    assert!(text_of(&bench, skin).contains("level 1   skin-level1.ply"));
}

/// The step of a brief does the same.
#[test]
fn a_brief_rebuilds_with_quads() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    let brief = r#"
        extends = "sculpt"
        [[step]]
        do = "remesh"
        into = "quads"
        edge = 0.1
    "#;
    bench.file("quads.toml", brief);
    text_of(&bench, "prep cube.obj -o quads.obj --for quads.toml");
    let made = read(&bench, "quads.obj");
    assert_eq!(made.mesh.face_count(), 600);
}

/// Two groups with a ragged border on a sheet, and a crumb of one in the other.
fn ragged_sheet() -> String {
    let mut text = String::new();
    for y in 0..=12 {
        for x in 0..=12 {
            text += &format!("v {x} {y} 0\n");
        }
    }
    let corner = |x: usize, y: usize| 13 * y + x + 1;
    for group in ["left", "right"] {
        text += &format!("g {group}\n");
        for (x, y) in (0..12).flat_map(|x| (0..12).map(move |y| (x, y))) {
            let is_left = x < 6 + y % 2 || (x, y) == (9, 5);
            if is_left == (group == "left") {
                let [a, b] = [corner(x, y), corner(x, y + 1)];
                text += &format!("f {a} {} {} {b}\n", a + 1, b + 1);
            }
        }
    }
    text
}

#[test]
fn borders_of_groups_are_tidied_first() {
    let bench = Bench::new();
    bench.file("sheet.obj", ragged_sheet());
    let text = text_of(&bench, "smooth sheet.obj -o calm.obj --borders 5");
    assert!(text.contains("borders of groups relaxed: "), "{text}");
    let calm = read(&bench, "calm.obj");
    assert_eq!(
        (calm.mesh.vertex_count(), calm.mesh.face_count()),
        (169, 144)
    );
    let line = "remesh sheet.obj -o quads.obj --into quads --edge 1 --ignore-groups-under 2 --relax-borders 5";
    let text = text_of(&bench, line);
    assert!(text.contains("1 face of small patches"), "{text}");
    let quads = read(&bench, "quads.obj");
    let tags = &quads.attributes.tags;
    let strays = quads.mesh.face_ids().filter(|&face| {
        let tag = &tags.table[tags.of_face[face.index()] as usize];
        tag.group.as_deref() == Some("left") && quads.mesh.face_middle(face).x > 8.0
    });
    assert_eq!(strays.count(), 0);
    let refused = error_of(&bench, "smooth sheet.obj -o x.obj --borders 5 --group left");
    assert!(
        refused.contains("a region does not go with it"),
        "{refused}"
    );
}
