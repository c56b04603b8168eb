//! Files that are broken, absurd or hostile: one clear error, exit 2, nothing written.

use crate::common::{Bench, CUBE, count};

fn stl(count: u32, triangles: usize) -> Vec<u8> {
    let mut bytes = vec![b' '; 80];
    bytes.extend(count.to_le_bytes());
    for i in 0..triangles {
        for x in [
            0.0f32, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, i as f32,
        ] {
            bytes.extend(x.to_le_bytes());
        }
        bytes.extend([0, 0]);
    }
    bytes
}

fn noise(length: usize) -> Vec<u8> {
    let mut state = 7u32;
    (0..length)
        .map(|_| {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            (state >> 24) as u8
        })
        .collect()
}

#[test]
fn each_gives_one_error_that_says_where() {
    let mut not_finite = stl(1, 1);
    not_finite[84 + 12..84 + 16].copy_from_slice(&f32::NAN.to_le_bytes());
    let ply = |body: &str| format!("ply\nformat ascii 1.0\n{body}");
    let vertices = "property float x\nproperty float y\nproperty float z\n";
    let faces = "property list uchar int vertex_indices\nend_header\n";
    let points = "0 0 0\n1 0 0\n0 1 0\n";
    let cases: Vec<(&str, Vec<u8>, &str)> = vec![
        ("empty.obj", vec![], "the file is empty"),
        ("empty.stl", vec![], "the file is empty"),
        ("noise.obj", noise(5000), "zero byte"),
        ("noise.stl", noise(5000), "byte 80"),
        ("noise.ply", noise(5000), ""),
        ("zero.obj", format!("{CUBE}f 0 1 2\n").into(), "line 15: an index of 0"),
        ("past.obj", format!("{CUBE}f 1 2 9\n").into(), "line 15: vertex 9 is used, but there are only 8"),
        ("back.obj", format!("{CUBE}f 1 2 -9\n").into(), "line 15: a negative index"),
        ("nan.obj", b"v 0 0 0\nv 1 0 0\nv 0 nan 0\nf 1 2 3\n".to_vec(), "line 3: the coordinate 'nan'"),
        ("inf.obj", b"v 0 1e999 0\n".to_vec(), "line 1: the coordinate '1e999'"),
        ("words.obj", format!("{CUBE}v a b c\n").into(), "line 15: expected a number"),
        ("short.obj", format!("{CUBE}v 1 2\n").into(), "line 15: a vertex needs three"),
        ("nothing.obj", b"# only words\n".to_vec(), "no vertex"),
        ("four-billion.stl", stl(u32::MAX, 3), "promises 4294967295 triangles, but the file holds 3"),
        ("cut.stl", stl(3, 3)[..200].to_vec(), "promises 3 triangles, but the file holds 2"),
        ("nan.stl", not_finite, "byte 84: triangle 0"),
        ("cut-text.stl", b"solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\n".to_vec(), "ends inside a facet"),
        ("headless.ply", b"ply\nformat ascii 1.0\n".to_vec(), "end_header"),
        ("billions.ply", ply(&format!("element vertex 4000000000\n{vertices}element face 1\n{faces}{points}3 0 1 2\n")).into(), "promises 4000000000"),
        ("few.ply", ply(&format!("element vertex 3\n{vertices}element face 2\n{faces}{points}3 0 1 2\n")).into(), "promises 2 of element 'face'"),
        ("past.ply", ply(&format!("element vertex 3\n{vertices}element face 1\n{faces}{points}3 0 1 3\n")).into(), "line 13: vertex 3 is used, but there are only 3"),
        ("minus.ply", ply(&format!("element vertex 3\n{vertices}element face 1\n{faces}{points}3 0 1 -2\n")).into(), "line 13: -2 is no vertex index"),
        ("nan.ply", ply(&format!("element vertex 3\n{vertices}element face 1\n{faces}0 0 nan\n1 0 0\n0 1 0\n3 0 1 2\n")).into(), "line 10: vertex 0"),
        ("what.xyz", b"neither".to_vec(), "neither name nor content"),
    ];
    let bench = Bench::new();
    for (name, content, message) in &cases {
        bench.file(name, content);
        let names = bench.names();
        for line in [
            format!("audit {name}"),
            format!("mend {name} -o out.obj"),
            format!("prep {name} -o out.stl --for print"),
        ] {
            let output = bench.hurmo(&line).code(2).get_output().clone();
            let error = String::from_utf8(output.stderr).unwrap();
            assert!(error.contains(message), "{line}: {error}");
            assert!(error.contains(name), "{line}: {error}");
            assert_eq!(error.lines().count(), 1, "{line}: {error}");
            assert!(output.stdout.is_empty());
        }
        assert_eq!(bench.names(), names, "nothing is written");
        assert_eq!(&std::fs::read(bench.path(name)).unwrap(), content);
    }
}

#[test]
fn coordinates_that_are_no_numbers_are_a_finding_that_mend_clears() {
    let bench = Bench::new();
    // A cube, a triangle that hangs on a corner that is nowhere, and one that no face uses.
    let off = "OFF\n5 3 0\n0 0 0\n1 0 0\n0 1 0\n0 0 1\n0 inf 0\n3 0 2 1\n3 0 1 3\n3 0 1 4\n";
    let mut stl = stl(3, 3);
    stl[84 + 12..84 + 16].copy_from_slice(&f32::NAN.to_le_bytes());
    let ply = "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\n\
               property float z\nelement face 2\nproperty list uchar int vertex_indices\n\
               end_header\n0 0 0\n1 0 0\n0 1 0\n0 0 nan\n3 0 1 2\n3 0 1 3\n";
    let text = "solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\n\
                vertex 0 1 0\nendloop\nendfacet\nfacet normal 0 0 1\nouter loop\n\
                vertex 0 0 0\nvertex 1 0 -nan(ind)\nvertex 0 1 0\nendloop\nendfacet\nendsolid\n";
    let files: [(&str, Vec<u8>, u64, u64); 5] = [
        (
            "cube.obj",
            format!("{CUBE}v 1 -1.#IND 0\nv nan 0 0\nf 1 2 9\n").into(),
            2,
            6,
        ),
        ("tin.off", off.into(), 1, 2),
        ("tin.stl", stl, 1, 2),
        ("tin.ply", ply.into(), 1, 1),
        ("text.stl", text.into(), 1, 1),
    ];
    for (name, content, vertices, faces) in files {
        bench.file(name, content);
        let audit = bench.audit(name);
        assert_eq!(count(&audit, "unusable-vertices"), vertices, "{name}");
        // It is one fault, and one finding.
        for other in ["duplicate-vertices", "zero-area-faces"] {
            assert_eq!(count(&audit, other), 0, "{name}: {other}");
        }
        bench.hurmo(&format!("audit {name}")).code(1);
        let line = format!("mend {name} -o out.obj --force");
        let output = bench.hurmo(&line).get_output().stdout.clone();
        let words = String::from_utf8(output).unwrap();
        assert!(words.contains("without usable coordinates"), "{words}");
        let after = bench.audit("out.obj");
        assert_eq!(count(&after, "unusable-vertices"), 0);
        assert_eq!(after["mesh"]["faces"].as_u64(), Some(faces), "{name}");
        assert_eq!(count(&after, "stray-vertices"), 0, "{name}");
    }
}

#[test]
fn folders_and_missing_files_are_told_apart() {
    let bench = Bench::new();
    std::fs::create_dir(bench.path("folder.obj")).unwrap();
    bench.file("cube.obj", CUBE);
    let said = |line: &str| {
        let output = bench.hurmo(line).code(2).get_output().clone();
        String::from_utf8(output.stderr).unwrap()
    };
    assert!(said("audit folder.obj").contains("there is no model file"));
    assert!(said("mend folder.obj -o out.obj").contains("this is a folder"));
    assert!(said("audit missing.obj").contains("no such file"));
    assert!(said("mend cube.obj -o folder.obj").contains("this is a folder"));
    assert!(said("mend cube.obj -o cube.obj --force").contains("that is the input"));
    assert!(said("mend cube.obj -o nowhere/out.obj").contains("there is no folder"));
    assert!(said("mend cube.obj -o out.doc").contains("the name says no format"));
    bench.file("there.obj", "mine");
    assert!(said("mend cube.obj -o there.obj").contains("--force"));
    assert_eq!(std::fs::read(bench.path("there.obj")).unwrap(), b"mine");
    bench.hurmo("mend cube.obj -o there.obj --force").code(0);
}

#[test]
fn every_cut_of_a_good_file_is_read_or_refused_but_never_a_crash() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    bench.hurmo("convert cube.obj -o cube.ply").code(0);
    bench.hurmo("convert cube.obj -o cube.stl -q").code(0);
    for name in ["cube.ply", "cube.stl", "cube.obj"] {
        let whole = std::fs::read(bench.path(name)).unwrap();
        for length in 0..whole.len() {
            let format = hurmo_formats::Format::of_name(name.as_ref());
            let _ = hurmo_formats::read_bytes(&whole[..length], format);
        }
        for at in (0..whole.len()).step_by(3) {
            let mut spoilt = whole.clone();
            spoilt[at] ^= 0x5a;
            let format = hurmo_formats::Format::of_name(name.as_ref());
            if let Ok(loaded) = hurmo_formats::read_bytes(&spoilt, format) {
                hurmo_core::audit::audit(&loaded.model, &Default::default(), &()).unwrap();
            }
        }
    }
}

#[test]
fn a_face_of_two_corners_is_a_finding() {
    let bench = Bench::new();
    bench.file("two.obj", format!("{CUBE}f 1 2\n"));
    bench.hurmo("audit two.obj").code(1);
    assert_eq!(
        crate::common::count(&bench.audit("two.obj"), "zero-area-faces"),
        1
    );
    bench.hurmo("mend two.obj -o out.obj").code(0);
    assert_eq!(bench.audit("out.obj")["mesh"]["faces"], 6);
}

/// What fuzzing found once (`fuzz/cases`): all work on it ends, and says what it left.
#[test]
fn what_was_found_once_is_mended_as_far_as_it_can_be() {
    let cases = concat!(env!("CARGO_MANIFEST_DIR"), "/../../fuzz/cases");
    for case in std::fs::read_dir(cases).unwrap() {
        let case = case.unwrap().path();
        let bench = Bench::new();
        let name = case.file_name().unwrap().to_str().unwrap();
        bench.file(name, std::fs::read(&case).unwrap());
        let also = "nonmanifold-edges,sliver-faces,ngons,intersecting-faces";
        let ended = bench.hurmo(&format!("mend {name} -o out.obj --also {also}"));
        ended.code(predicates::ord::le(1));
        assert_eq!(
            count(&bench.audit("out.obj"), "intersecting-faces"),
            0,
            "{name}"
        );
    }
}
