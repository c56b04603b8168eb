//! Names from files that would steer the terminal, or end a line of another file.

use crate::common::{Bench, text_of};
use serde_json::json;

/// A tetrahedron, everything in which has this name.
fn named(name: &str) -> String {
    let points: [[f32; 3]; 4] = [[0.0; 3], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]];
    let corners: [u16; 12] = [0, 2, 1, 0, 1, 3, 1, 2, 3, 0, 3, 2];
    let mut bytes: Vec<u8> = points
        .as_flattened()
        .iter()
        .flat_map(|x| x.to_le_bytes())
        .collect();
    bytes.extend(corners.iter().flat_map(|i| i.to_le_bytes()));
    let digits: String = bytes.iter().map(|byte| format!("%{byte:02x}")).collect();
    json!({
        "asset": {"version": "2.0"},
        "buffers": [{"byteLength": 72, "uri": format!("data:application/octet-stream,{digits}")}],
        "bufferViews": [
            {"buffer": 0, "byteOffset": 0, "byteLength": 48},
            {"buffer": 0, "byteOffset": 48, "byteLength": 24},
        ],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3",
             "min": [0, 0, 0], "max": [1, 1, 1]},
            {"bufferView": 1, "componentType": 5123, "count": 12, "type": "SCALAR"},
        ],
        "materials": [{"name": name}],
        "meshes": [{"name": name, "primitives": [
            {"attributes": {"POSITION": 0}, "indices": 1, "material": 0}]}],
        "nodes": [{"mesh": 0, "name": name}],
        "scenes": [{"nodes": [0]}],
        "scene": 0,
    })
    .to_string()
}

const HOSTILE: &str = "quay\nf 1 2 3\nv 9 9 9\u{1b}[31mtar\u{1b}]0;x\u{7}\u{202e}gnp\u{9b}";

/// Whether text has what steers a terminal.
fn steers(text: &str) -> bool {
    let steers = |c: char| (c.is_control() && c != '\n') || ('\u{202a}'..='\u{202e}').contains(&c);
    text.chars().any(steers)
}

#[test]
fn names_end_no_statement_of_an_obj_file() {
    let bench = Bench::new();
    bench.file("hostile.gltf", named(HOSTILE));
    bench.hurmo("convert hostile.gltf -o hostile.obj").code(0);
    let text = std::fs::read_to_string(bench.path("hostile.obj")).unwrap();
    let count = |statement: &str| {
        text.lines()
            .filter(|line| line.starts_with(statement))
            .count()
    };
    assert_eq!([count("v "), count("f "), count("usemtl ")], [4, 4, 1]);
    let text = std::fs::read_to_string(bench.path("hostile.mtl")).unwrap();
    assert!(
        text.lines()
            .all(|line| !line.starts_with("f ") && !line.starts_with("v "))
    );
    bench
        .hurmo("compare hostile.gltf hostile.obj --at-most 0.001")
        .code(0);
}

#[test]
fn names_do_not_steer_the_terminal() {
    let bench = Bench::new();
    bench.file("hostile.gltf", named(HOSTILE));
    for line in [
        "audit hostile.gltf -v",
        "parts hostile.gltf",
        "parts hostile.gltf --json",
    ] {
        let output = bench.hurmo(line).code(0).get_output().clone();
        for text in [output.stdout, output.stderr] {
            let text = String::from_utf8(text).unwrap();
            assert!(!steers(&text), "{line}: {text:?}");
        }
    }
    let parts = bench.json("parts hostile.gltf");
    let text = serde_json::to_string(&parts).unwrap();
    assert!(text.contains("\u{202e}gnp"), "JSON keeps the name: {text}");
}

#[test]
fn xml_has_no_character_that_steers() {
    let bench = Bench::new();
    bench.file("hostile.gltf", named(HOSTILE));
    bench.hurmo("convert hostile.gltf -o hostile.3mf").code(0);
    let file = std::fs::File::open(bench.path("hostile.3mf")).unwrap();
    let mut package = zip::ZipArchive::new(file).unwrap();
    let mut text = String::new();
    let mut model = package.by_name("3D/3dmodel.model").unwrap();
    std::io::Read::read_to_string(&mut model, &mut text).unwrap();
    assert!(!steers(&text));
    assert!(text.contains("&#x202E;gnp"), "the name is kept: {text}");
    let name = "tar\u{1b}[31m\u{202e}.gltf";
    bench.file(name, named("tar"));
    let output = assert_cmd::Command::cargo_bin("hurmo")
        .unwrap()
        .current_dir(bench.folder.path())
        .args(["audit", name, "--junit", "checks.xml"])
        .assert();
    let shown = String::from_utf8(output.get_output().stdout.clone()).unwrap();
    assert!(!steers(&shown), "{shown:?}");
    assert!(!steers(
        &std::fs::read_to_string(bench.path("checks.xml")).unwrap()
    ));
    assert!(text_of(&bench, "audit hostile.3mf").contains("hostile.3mf"));
}
