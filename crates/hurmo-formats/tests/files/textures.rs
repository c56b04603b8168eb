//! Textures on their way from one file to another: inside it, beside it, or where they are.

use hurmo_core::mesh::{Model, Tag};
use hurmo_core::scene::{Image, ImageData, ImageId, Material, Scene, TextureUse};
use hurmo_core::shapes;
use hurmo_formats::{Textures, WriteOptions, WriteReport, read, write};
use std::fs;
use std::io::Cursor;
use std::path::Path;
use std::sync::Arc;

fn picture(width: u32, height: u32, format: image::ImageFormat) -> Vec<u8> {
    let pixels = image::RgbImage::from_fn(width, height, |x, y| {
        image::Rgb([(x * 5) as u8, (y * 5) as u8, 90])
    });
    let mut file = Cursor::new(Vec::new());
    pixels.write_to(&mut file, format).unwrap();
    file.into_inner()
}

/// A cube of planks whose texture lies in a folder of textures.
fn crate_of(folder: &Path, name: &str, bytes: &[u8]) -> Model {
    let file = folder.join(name);
    fs::create_dir_all(file.parent().unwrap()).unwrap();
    fs::write(&file, bytes).unwrap();
    let mut model = Model::from(shapes::cuboid(glam::DVec3::ZERO, glam::DVec3::ONE, 1));
    model.attributes.tags.table = vec![Tag {
        material: Some("planks".into()),
        ..Tag::default()
    }];
    model.attributes.tags.of_face = vec![0; model.mesh.face_count()];
    model.attributes.scene = Some(Arc::new(Scene {
        materials: vec![Material {
            color_texture: Some(TextureUse::of(ImageId(0))),
            ..Material::named("planks")
        }],
        images: vec![Image {
            name: None,
            data: ImageData::File {
                name: name.into(),
                found: Some(file),
            },
            size: None,
        }],
        ..Scene::default()
    }));
    model
}

fn written(to: &Path, model: &Model, options: WriteOptions) -> WriteReport {
    fs::create_dir_all(to.parent().unwrap()).unwrap();
    write(to, model, options).unwrap()
}

fn image_of(path: &Path) -> Image {
    let loaded = read(path).unwrap();
    assert_eq!(loaded.notes, Vec::<String>::new(), "{}", path.display());
    loaded.model.attributes.scene.unwrap().images[0].clone()
}

fn is_named(image: &Image, wanted: &str) -> bool {
    matches!(&image.data, ImageData::File { name, found: Some(_) } if name == wanted)
}

#[test]
fn each_format_has_them_where_they_are_wished() {
    let folder = tempfile::tempdir().unwrap();
    let (from, to) = (folder.path().join("from"), folder.path().join("to"));
    let bytes = picture(40, 20, image::ImageFormat::Png);
    let model = crate_of(&from, "maps/wet wood.png", &bytes);
    let with = |textures| {
        let mut options = WriteOptions::default();
        options.textures = textures;
        options
    };
    // In another folder, the usual is beside it, and within where all is one file.
    for name in ["a.obj", "a.gltf"] {
        written(&to.join(name), &model, WriteOptions::default());
        assert!(
            is_named(&image_of(&to.join(name)), "wet wood.png"),
            "{name}"
        );
    }
    assert_eq!(fs::read(to.join("wet wood.png")).unwrap(), bytes);
    let within = |name: &str, options| {
        written(&to.join(name), &model, options);
        matches!(image_of(&to.join(name)).data, ImageData::Embedded { bytes: own, .. } if own[..] == bytes)
    };
    assert!(within("b.glb", WriteOptions::default()));
    assert!(within("b.gltf", with(Textures::Embed)));
    written(&to.join("c.glb"), &model, with(Textures::Copy));
    assert!(is_named(&image_of(&to.join("c.glb")), "wet wood.png"));
    let refused = write(&to.join("c.obj"), &model, with(Textures::Embed)).unwrap_err();
    assert!(refused.to_string().contains("--textures copy"), "{refused}");
    // Linked ones stay where they are: that they lie outside is reported when they are read.
    written(&to.join("d.gltf"), &model, with(Textures::Link));
    let loaded = read(&to.join("d.gltf")).unwrap();
    assert!(
        loaded.notes[0].contains("../from/maps/wet wood.png"),
        "{:?}",
        loaded.notes
    );
    // In the folder that they are below, nothing is copied.
    let report = written(&from.join("e.gltf"), &model, WriteOptions::default());
    assert!(is_named(
        &image_of(&from.join("e.gltf")),
        "maps/wet wood.png"
    ));
    assert!(!from.join("wet wood.png").exists());
    assert!(report.companions.contains(&from.join("maps/wet wood.png")));
}

#[test]
fn names_are_safe_and_pictures_small_if_asked() {
    let folder = tempfile::tempdir().unwrap();
    let (from, to) = (folder.path().join("from"), folder.path().join("to"));
    let mut options = WriteOptions::default();
    options.safe_names = true;
    options.texture_limit = Some(16);
    for (name, safe, format) in [
        ("brûlé 1.2.png", "brule_1_2.png", image::ImageFormat::Png),
        ("wet wood.JPG", "wet_wood.JPG", image::ImageFormat::Jpeg),
    ] {
        let model = crate_of(&from, name, &picture(40, 20, format));
        for file in ["f.obj", "f.gltf"] {
            let path = to.join(safe).with_extension("").join(file);
            let report = written(&path, &model, options);
            assert_eq!(report.shrunk, [name]);
            assert!(is_named(&image_of(&path), safe), "{file} {safe}");
            let small = fs::read(path.with_file_name(safe)).unwrap();
            assert_eq!(image::guess_format(&small).unwrap(), format);
            let small = image::load_from_memory(&small).unwrap().into_rgb8();
            assert_eq!(small.dimensions(), (16, 8));
            // Still darker on the left, brighter on the right.
            assert!(small.get_pixel(1, 4)[0] + 90 < small.get_pixel(14, 4)[0]);
        }
    }
    // One that is small enough stays to the byte.
    let bytes = picture(16, 16, image::ImageFormat::Png);
    let model = crate_of(&from, "small.png", &bytes);
    let report = written(&to.join("g.obj"), &model, options);
    assert!(report.shrunk.is_empty());
    assert_eq!(fs::read(to.join("small.png")).unwrap(), bytes);
}

#[test]
fn nothing_of_the_source_is_overwritten() {
    let folder = tempfile::tempdir().unwrap();
    let bytes = picture(40, 20, image::ImageFormat::Png);
    let model = crate_of(folder.path(), "planks.png", &bytes);
    let mut options = WriteOptions::default();
    options.may_overwrite = true;
    options.texture_limit = Some(16);
    let path = folder.path().join("crate.obj");
    written(&path, &model, options);
    assert_eq!(fs::read(folder.path().join("planks.png")).unwrap(), bytes);
    assert!(is_named(&image_of(&path), "planks-2.png"));
}
