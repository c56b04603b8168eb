use super::*;
use crate::WriteOptions;
use crate::companions::Companions;
use hurmo_core::Model;
use std::fs;

const TEXT: &str = "# boards\nnewmtl tar\nKd 0.1 0.2 0.3 # dark\nd 0.5\nNs 98\n\nnewmtl old plank\r\n\
    map_Kd -s 1 1 1 -clamp on wet planks.png\r\nmap_Ka other.png\nmap_Bump -bm 2 bumps.png\nPr 0.25\nPm 1\nNs 3\n\
    newmtl rope\nmap_Kd -o 0.5 0 -bm 2 rope.jpg\nKd nothing\nmap_Pr packed.png\nmap_Pm packed.png\nnorm n.png\nKe 1 0 0\n";

fn read(folder: &Path, remarks: &mut Remarks) -> Scene {
    remarks.folder = Some(folder.to_path_buf());
    scene(&["quay.mtl".into(), "none.mtl".into()], remarks).unwrap()
}

fn texture<'s>(scene: &'s Scene, used: &Option<TextureUse>) -> &'s str {
    match &scene.images[used.as_ref().unwrap().image.0 as usize].data {
        ImageData::File { name, .. } => name,
        other => panic!("{other:?}"),
    }
}

#[test]
fn a_material_file_says_colours_and_textures() {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("quay.mtl"), TEXT).unwrap();
    fs::write(folder.path().join("wet planks.png"), "png").unwrap();
    let mut remarks = Remarks::default();
    let scene = read(folder.path(), &mut remarks);
    let [tar, plank, rope] = &scene.materials[..] else {
        panic!("{:?}", scene.materials)
    };
    let on_screen = [0, 1, 2].map(|i| paint::on_screen(tar.color[i]));
    assert!(
        (on_screen.iter().zip([0.1, 0.2, 0.3])).all(|(a, b): (&f32, f32)| (a - b).abs() < 1e-6)
    );
    assert_eq!((tar.color[3], tar.alpha), (0.5, Alpha::Blend));
    assert!((tar.roughness - 0.02f32.sqrt()).abs() < 1e-6);
    assert_eq!(plank.name, "old plank");
    assert_eq!(texture(&scene, &plank.color_texture), "wet planks.png");
    assert!(!plank.color_texture.as_ref().unwrap().is_placed);
    assert_eq!((plank.roughness, plank.metallic), (0.25, 1.0));
    assert_eq!(texture(&scene, &rope.color_texture), "rope.jpg");
    assert!(rope.color_texture.as_ref().unwrap().is_placed);
    assert_eq!(texture(&scene, &rope.roughness_texture), "packed.png");
    assert_eq!(texture(&scene, &rope.normal_texture), "n.png");
    assert_eq!((rope.glow, rope.color), ([1.0, 0.0, 0.0], [1.0; 4]));
    let missing = ["rope.jpg", "packed.png", "n.png"];
    let missing = missing.map(|name| format!("the texture {name}: there is no such file"));
    assert_eq!(remarks.notes[..3], missing);
    assert_eq!(remarks.notes[3..], ["none.mtl: there is no such file"]);
    let kept = scene.rest.as_ref().unwrap().0.downcast_ref::<Kept>();
    assert_eq!(kept.unwrap().untranslated(), ["map_Bump"]);
}

fn with(scene: Scene) -> Model {
    let mut model = Model::default();
    model.attributes.material_libraries = vec!["quay.mtl".into()];
    model.attributes.scene = Some(Arc::new(scene));
    model
}

#[test]
fn materials_and_textures_go_where_the_model_goes() {
    let (here, there) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    fs::write(here.path().join("quay.mtl"), TEXT).unwrap();
    fs::create_dir(here.path().join("maps")).unwrap();
    fs::write(here.path().join("wet planks.png"), "png").unwrap();
    let model = with(read(here.path(), &mut Remarks::default()));
    // Beside the file that it has already there is nothing to do.
    let mut all = Companions::of(&here.path().join("boat.obj"), false);
    assert_eq!(
        companions(&model, WriteOptions::default(), &mut all).unwrap(),
        ["quay.mtl"]
    );
    assert!(all.written.is_empty());
    // Elsewhere another texture has the name already.
    fs::write(there.path().join("wet planks.png"), "another").unwrap();
    let mut all = Companions::of(&there.path().join("boat.obj"), false);
    assert_eq!(
        companions(&model, WriteOptions::default(), &mut all).unwrap(),
        ["boat.mtl"]
    );
    let names = ["wet planks-2.png", "boat.mtl"].map(|name| there.path().join(name));
    assert_eq!(all.written, names);
    let text = fs::read_to_string(there.path().join("boat.mtl")).unwrap();
    let renamed = TEXT
        .replace("on wet planks.png", "on wet planks-2.png")
        .replace(" # dark", "");
    let plain = |text: &str| -> Vec<String> {
        let lines = text
            .lines()
            .filter(|line| !line.is_empty() && !line.starts_with('#'));
        lines.map(String::from).collect()
    };
    assert_eq!(plain(&text), plain(&renamed));
}

#[test]
fn materials_of_other_formats_are_told_in_words_of_material_files() {
    let there = tempfile::tempdir().unwrap();
    let mut scene = Scene::default();
    scene.images.push(Image {
        name: Some("wet/wood".into()),
        data: ImageData::Embedded {
            media_type: "image/png".into(),
            bytes: b"png"[..].into(),
        },
        size: None,
    });
    scene.materials.push(Material {
        color: [1.0, 0.0, 0.5, 0.25],
        color_texture: Some(TextureUse::of(ImageId(0))),
        roughness_texture: Some(TextureUse::of(ImageId(0))),
        roughness: 0.5,
        glow: [0.0, 0.5, 0.0],
        alpha: Alpha::Blend,
        ..Material::named("wood")
    });
    let was = scene.materials[0].clone();
    let mut all = Companions::of(&there.path().join("boat.obj"), false);
    let libraries = companions(&with(scene), WriteOptions::default(), &mut all).unwrap();
    assert_eq!(fs::read(there.path().join("wet_wood.png")).unwrap(), b"png");
    let mut remarks = Remarks {
        folder: Some(there.path().to_path_buf()),
        ..Remarks::default()
    };
    let again = super::scene(&libraries, &mut remarks).unwrap();
    assert_eq!(remarks.notes, Vec::<String>::new());
    let is = &again.materials[0];
    let near = |a: &[f32], b: &[f32]| a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-6);
    assert!(
        near(&is.color, &was.color) && near(&is.glow, &was.glow),
        "{is:?}"
    );
    assert_eq!(
        (is.roughness, is.metallic, is.alpha),
        (0.5, 0.0, Alpha::Blend)
    );
    assert_eq!(texture(&again, &is.color_texture), "wet_wood.png");
    assert_eq!(is.roughness_texture, is.color_texture);
}
