//! Ways to see what an audit found: the marked model, and pictures.

use crate::common::{Bench, PROP, error_of};
use std::collections::BTreeSet;

#[test]
fn marks_are_read_by_another_reader_and_named_after_the_checks() {
    let bench = Bench::new();
    bench.file("prop.obj", PROP);
    bench.hurmo("audit prop.obj --mark prop.glb").code(0);
    let bytes = std::fs::read(bench.path("prop.glb")).unwrap();
    let gltf::Gltf { document, blob } = gltf::Gltf::from_slice(&bytes).unwrap();
    let model = bench.audit("prop.obj");
    let found: BTreeSet<String> = model["findings"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|f| f["count"].as_u64().unwrap() > 0)
        .map(|f| f["check"].as_str().unwrap().to_string())
        .collect();
    let nodes: BTreeSet<String> = document
        .nodes()
        .map(|n| n.name().unwrap().to_string())
        .collect();
    let mut expected = found.clone();
    expected.insert("sound".into());
    assert_eq!(nodes, expected);
    let corners = |name: &str, mode| -> usize {
        let node = document.nodes().find(|n| n.name() == Some(name)).unwrap();
        let mesh = node.mesh().unwrap();
        let primitives = mesh.primitives().filter(|p| p.mode() == mode);
        let read = |p: gltf::Primitive<'_>| {
            let reader = p.reader(|_| blob.as_deref());
            let positions: Vec<[f32; 3]> = reader.read_positions().unwrap().collect();
            let bounds = p.bounding_box();
            for at in &positions {
                assert!((0..3).all(|i| bounds.min[i] <= at[i] && at[i] <= bounds.max[i]));
            }
            positions.len()
        };
        primitives.map(read).sum()
    };
    use gltf::mesh::Mode;
    assert_eq!(corners("intersecting-faces", Mode::Triangles), 6);
    assert_eq!(corners("open-edges", Mode::Lines), 2 * (4 + 6));
    assert_eq!(corners("stray-vertices", Mode::Triangles), 24);
    assert_eq!(corners("sound", Mode::Triangles), 5 * 2 * 3);
    bench.hurmo("audit prop.obj --mark prop.glb").code(2);
}

#[test]
fn pictures_of_every_kind_are_drawn() {
    let bench = Bench::new();
    bench.file("prop.obj", PROP);
    let size = |name: &str| {
        let bytes = std::fs::read(bench.path(name)).unwrap();
        assert_eq!(&bytes[1..4], b"PNG");
        let side = |at: usize| u32::from_be_bytes(bytes[at..at + 4].try_into().unwrap());
        (side(16), side(20))
    };
    let mut seen = BTreeSet::new();
    for show in [
        "plain", "wire", "through", "faults", "parts", "density", "sides",
    ] {
        let name = format!("{show}.png");
        bench
            .hurmo(&format!(
                "picture prop.obj -o {name} --show {show} --view 30,20 --size 200x160"
            ))
            .code(0);
        assert_eq!(size(&name), (200, 160));
        seen.insert(std::fs::read(bench.path(&name)).unwrap());
    }
    assert!(seen.len() >= 6, "the ways to show a model differ");
    bench.hurmo("picture prop.obj -o sheet.png").code(0);
    assert_eq!(
        (size("sheet.png"), size("sheet-places.png")),
        ((1280, 800), (1280, 800))
    );
    bench.hurmo("audit prop.obj --picture audit.png").code(0);
    assert_eq!(size("audit.png"), (1280, 800));
    assert_eq!(
        std::fs::read(bench.path("audit-places.png")).unwrap(),
        std::fs::read(bench.path("sheet-places.png")).unwrap()
    );
    for wrong in [
        "--view up",
        "--view 30",
        "--show all",
        "--size 1x1",
        "--up w",
    ] {
        bench
            .hurmo(&format!("picture prop.obj -o no.png {wrong}"))
            .code(2);
    }
    assert!(error_of(&bench, "audit prop.obj prop.obj --picture two.jpg").contains(".png"));
    bench.file("empty.obj", "v 0 0 0\n");
    bench.hurmo("picture empty.obj -o empty.png").code(0);
}
