//! Textures baked from one model onto another, and the package that a model is handed over in.

use crate::common::{Bench, CUBE, count, error_of, text_of};
use hurmo_core::scene::{ImageData, Scene};
use hurmo_core::uv::{Layout, Overlaps};
use hurmo_core::{Model, shapes};
use hurmo_formats::{WriteOptions, read};
use serde_json::Value;

fn model(bench: &Bench, file: &str) -> Model {
    read(&bench.path(file)).unwrap().model
}

fn write(bench: &Bench, name: &str, model: &Model) {
    hurmo_formats::write(&bench.path(name), model, WriteOptions::default()).unwrap();
}

fn scene(model: &Model) -> &Scene {
    model.attributes.scene.as_ref().unwrap()
}

fn lantern(bench: &Bench) {
    let all = hurmo::demo::models();
    let lantern = all
        .iter()
        .find(|model| model.file == "lantern.obj")
        .unwrap();
    write(bench, "lantern.obj", &lantern.model);
}

/// The pixels of a picture.
fn pixels(bench: &Bench, line: &str) -> Vec<[u8; 3]> {
    bench
        .hurmo(&format!(
            "picture {line} -o out.png --force --size 320x320 --view front"
        ))
        .code(0);
    let bytes = std::fs::read(bench.path("out.png")).unwrap();
    let picture = image::load_from_memory(&bytes).unwrap().into_rgb8();
    picture.pixels().map(|pixel| pixel.0).collect()
}

#[test]
fn a_rebuilt_lantern_looks_as_it_did() {
    let bench = Bench::new();
    lantern(&bench);
    bench.hurmo("reskin lantern.obj -o skin.ply --cell 1.2% --min-thickness 2.5%");
    let text = text_of(&bench, "bake lantern.obj skin.ply -o skin.glb --size 1024");
    assert!(
        text.contains("colours of lantern.obj in 1024 × 1024 pixels"),
        "{text}"
    );
    let skin = model(&bench, "skin.glb");
    let layout = Layout::of(&skin).unwrap();
    assert!(skin.mesh.face_ids().all(|face| layout.area(face).is_some()));
    assert!(!Overlaps::of(&layout, |_| 0).faces.contains(&true));
    let images = &scene(&skin).images;
    assert!(images.len() == 1 && matches!(images[0].data, ImageData::Embedded { .. }));
    // Seen from the front, but for rims and where the one is a little larger, every pixel is all but
    // the same; with nothing baked, hardly any is.
    let was = pixels(&bench, "lantern.obj --show look --up z");
    let is = pixels(&bench, "skin.glb --show look --up z");
    let plain = pixels(&bench, "skin.ply --show look --up z");
    assert!(share_off(&was, &is) < 0.1, "{}", share_off(&was, &is));
    assert!(share_off(&was, &plain) > 0.5, "{}", share_off(&was, &plain));
}

/// The share of pixels that differ, of those where both pictures show something.
fn share_off(was: &[[u8; 3]], is: &[[u8; 3]]) -> f64 {
    let far = |a: &[u8; 3], b: &[u8; 3]| (0..3).map(|i| a[i].abs_diff(b[i])).max().unwrap();
    let pairs = was.iter().zip(is);
    let both = pairs.filter(|(a, b)| **a != was[0] && **b != was[0]);
    let (all, off) = both.fold((0, 0), |(all, off), (a, b)| {
        (all + 1, off + u32::from(far(a, b) > 24))
    });
    assert!(all > 20_000);
    f64::from(off) / f64::from(all)
}

#[test]
fn a_brief_gives_a_rebuilt_model_its_look_back() {
    let bench = Bench::new();
    lantern(&bench);
    let brief = r#"
        extends = "engine"
        [[step]]
        do = "reskin"
        cell = "1.8%"
        min-thickness = "3.5%"
        [[step]]
        do = "convert"
        scale = 3
        [[step]]
        do = "decimate"
        to = "8k"
        [[step]]
        do = "bake"
        size = 1024
        normal-map = true
    "#;
    bench.file("again.toml", brief);
    let text = text_of(&bench, "prep lantern.obj -o low.glb --for again.toml");
    assert!(
        text.contains("colours and normals of the model as it was read in 1024"),
        "{text}"
    );
    assert!(
        text.contains("materials, in place of which is baked"),
        "{text}"
    );
    let low = model(&bench, "low.glb");
    assert!(low.mesh.face_count() <= 8000);
    assert_eq!(scene(&low).images.len(), 2);
    let was = pixels(&bench, "lantern.obj --show look --up z");
    let is = pixels(&bench, "low.glb --show look --up z");
    assert!(share_off(&was, &is) < 0.15, "{}", share_off(&was, &is));
    // Of a file, too; and a wrong key is an error.
    let of =
        "[[step]]\ndo = \"mend\"\n[[step]]\ndo = \"bake\"\nfrom = \"lantern.obj\"\nsize = 256\n";
    bench.file("of.toml", of);
    let text = text_of(&bench, "prep lantern.obj -o same.glb --for of.toml");
    assert!(text.contains("colours of lantern.obj in 256"), "{text}");
    bench.file("wrong.toml", "[[step]]\ndo = \"bake\"\nsise = 256\n");
    let error = error_of(&bench, "prep lantern.obj -o no.glb --for wrong.toml");
    assert!(error.contains("did you mean 'size'?"), "{error}");
}

#[test]
fn a_light_model_wears_the_detail_of_a_heavy_one() {
    let bench = Bench::new();
    write(
        &bench,
        "bumps.ply",
        &Model::from(shapes::bumpy_sphere(20_000)),
    );
    write(&bench, "ball.obj", &Model::from(shapes::sphere(1.0, 3)));
    let line = "bake bumps.ply ball.obj --normal-map --no-colours --size 256 --within 20%";
    bench.hurmo(&format!("{line} -o ball.glb")).code(0);
    let ball = model(&bench, "ball.glb");
    let material = scene(&ball).material("baked").unwrap();
    assert!(material.normal_texture.is_some() && material.color_texture.is_none());
    let audit = bench.audit("ball.glb");
    assert!(audit["mesh"]["uvs"]["islands"].as_u64().unwrap() > 3);
    for check in [
        "overlapping-uvs",
        "mirrored-uvs",
        "zero-area-uvs",
        "bad-normals",
        "missing-normals",
    ] {
        assert_eq!(count(&audit, check), 0, "{check}");
    }
    // As an OBJ with its texture beside it, the same.
    let text = text_of(&bench, &format!("{line} -o out.obj"));
    assert!(text.contains("normals of bumps.ply"), "{text}");
    assert!(bench.path("baked-normal.png").is_file() && bench.path("out.mtl").is_file());
    assert!(
        scene(&model(&bench, "out.obj"))
            .material("baked")
            .unwrap()
            .normal_texture
            .is_some()
    );
    // A second model, baked with colours as well, has both; the first one's texture stays.
    let bytes = std::fs::read(bench.path("baked-normal.png")).unwrap();
    bench.file(
        "red.obj",
        CUBE.replace("f 4 3", "usemtl red\nf 4 3")
            .replacen("v 0", "mtllib red.mtl\nv 0", 1),
    );
    bench.file("red.mtl", "newmtl red\nKd 1 0 0\n");
    bench
        .hurmo("bake red.obj ball.obj -o both.gltf --normal-map --size 64 --within 1000%")
        .code(0);
    assert_eq!(scene(&model(&bench, "both.gltf")).images.len(), 2);
    assert_eq!(
        std::fs::read(bench.path("baked-normal.png")).unwrap(),
        bytes
    );
}

#[test]
fn uvs_that_are_kept_are_baked_into() {
    let bench = Bench::new();
    lantern(&bench);
    // Its faults stay, and block.
    bench
        .hurmo("bake lantern.obj lantern.obj -o same.glb --uvs keep --size 512")
        .code(1);
    let (was, is) = (model(&bench, "lantern.obj"), model(&bench, "same.glb"));
    let uvs = |model: &Model| {
        let layer = model.attributes.uvs.as_ref().unwrap();
        let mut all: Vec<[i64; 2]> = (layer.values.iter())
            .map(|uv| (*uv * 1e5).round().as_i64vec2().to_array())
            .collect();
        all.sort_unstable();
        all.dedup();
        all
    };
    assert_eq!(uvs(&was), uvs(&is));
}

#[test]
fn what_cannot_be_baked_is_refused_and_nothing_written() {
    let bench = Bench::new();
    bench.file("cube.obj", CUBE);
    let far = CUBE.replace("v 0 ", "v 900 ").replace("v 1 ", "v 901 ");
    bench.file("far.obj", format!("mtllib red.mtl\nusemtl red\n{far}"));
    bench.file("red.mtl", "newmtl red\nKd 1 0 0\n");
    let before = bench.names();
    for (line, why) in [
        ("bake cube.obj cube.obj -o out.stl", "can't hold UVs"),
        ("bake cube.obj cube.obj -o out.glb", "no colours to give"),
        (
            "bake cube.obj cube.obj -o out.glb --uvs keep",
            "none to keep",
        ),
        (
            "bake cube.obj cube.obj -o out.glb --no-colours",
            "--normal-map",
        ),
        ("bake far.obj cube.obj -o out.glb", "--within"),
        ("bake none.obj cube.obj -o out.glb", "no such file"),
        (
            "bake cube.obj cube.obj -o cube.obj --force",
            "that is the input",
        ),
        (
            "bake far.obj cube.obj -o far.obj --force",
            "that is the input",
        ),
        (
            "bake cube.obj cube.obj -o out.glb --size 16 --margin 200",
            "do not fit",
        ),
        (
            "bake cube.obj cube.obj -o out.obj --textures embed",
            "--textures copy",
        ),
        (
            "bake cube.obj cube.obj -o out.glb --texture none.png",
            "no UVs",
        ),
    ] {
        let refused = error_of(&bench, line);
        assert!(refused.contains(why), "{line}: {refused}");
        assert_eq!(bench.names(), before, "{line}");
    }
}

#[test]
fn a_package_has_all_that_goes_with_a_model() {
    let bench = Bench::new();
    lantern(&bench);
    let text = text_of(
        &bench,
        "prep lantern.obj --for engine --unit m --up z --pack handoff --safe-names",
    );
    assert!(text.contains("packed in handoff"), "{text}");
    let at = |name: &str| bench.path("handoff").join(name);
    let mut names: Vec<String> = std::fs::read_dir(bench.path("handoff"))
        .unwrap()
        .map(|entry| entry.unwrap().file_name().into_string().unwrap())
        .collect();
    names.sort();
    let own = [
        "audit.json",
        "audit.png",
        "before-and-after.png",
        "ledger.json",
    ];
    let own = own.map(|name| format!("lantern-{name}"));
    let expected = [
        &["README.txt".to_string()][..],
        &own[..],
        &["lantern.glb".to_string()][..],
    ];
    assert_eq!(names, expected.concat());
    let page = std::fs::read_to_string(at("README.txt")).unwrap();
    for words in [
        "good to go for engine: nothing blocks.",
        "  size       0.4197 × 0.5 × 0.4499 m",
        "  up         y",
        "  texture    brass in the model's file, 512 × 512 pixels",
        "  materials  brass, glass",
        "  from lantern.obj",
        "lantern-ledger.json",
    ] {
        assert!(page.contains(words), "{words:?} in\n{page}");
    }
    assert!(
        page.lines().all(|line| line.chars().count() <= 80),
        "{page}"
    );
    let json = |name: &str| -> Value {
        serde_json::from_str(&std::fs::read_to_string(at(name)).unwrap()).unwrap()
    };
    assert_eq!(json("lantern-audit.json")["models"][0]["passes"], true);
    assert_eq!(json("lantern-ledger.json")["model"]["passes"], true);
    let run = json("lantern-ledger.json")["run"]["options"].to_string();
    assert!(
        run.contains("--safe-names") && run.contains("--up=z"),
        "{run}"
    );
    // Into a folder that has it already, only if asked; textures beside the model are in it, too.
    let before = std::fs::read(at("lantern.glb")).unwrap();
    let again = "prep lantern.obj --for engine --unit m --up z --pack handoff";
    assert!(error_of(&bench, again).contains("--force"));
    assert_eq!(std::fs::read(at("lantern.glb")).unwrap(), before);
    text_of(&bench, &format!("{again} -o lantern.gltf --force"));
    let page = std::fs::read_to_string(at("README.txt")).unwrap();
    for name in ["lantern.gltf", "lantern.bin", "brass.png"] {
        assert!(
            at(name).is_file() && page.contains(name),
            "{name} in\n{page}"
        );
    }
    for (line, why) in [
        (
            "prep lantern.obj --for engine --pack other -o a/b.glb",
            "without folders",
        ),
        ("prep none.obj --for engine --pack other", "no such file"),
        (
            "prep lantern.obj --for engine --pack lantern.obj",
            "not a folder",
        ),
        (
            "prep lantern.obj lantern.obj --for engine --pack other",
            "one model at a time",
        ),
        (
            "prep lantern.obj --for engine --pack other -o x.xyz",
            "x.xyz",
        ),
    ] {
        let refused = error_of(&bench, line);
        assert!(refused.contains(why), "{line}: {refused}");
        assert!(!bench.path("other").exists(), "{line}");
    }
    // What can't be done leaves no empty folder behind.
    bench.file("bad.obj", "f 1 2 3\n");
    assert!(error_of(&bench, "prep bad.obj --for engine --pack other").contains("bad.obj"));
    assert!(!bench.path("other").exists());
}
