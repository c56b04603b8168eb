//! How a model's materials look: the plain colours and the textures that its scene names.
//!
//! What can't be read is a note, and its material has no texture.

use crate::gltf;
use crate::images::{decoded, texture};
use hurmo_core::Model;
use hurmo_core::paint;
use hurmo_core::paint::{Look, Texture};
use hurmo_core::scene::{Image, ImageData, ImageId, Material, Scene};
use std::collections::HashMap;
use std::sync::Arc;

/// How materials look.
#[derive(Clone, Debug, Default)]
pub struct Looks {
    /// For every tag in the model's table its look, if it has one.
    pub of_tags: Vec<Option<Look>>,
    /// What a person should know: what could not be read or followed.
    pub notes: Vec<String>,
}

/// The looks of a model's materials.
pub fn looks(model: &Model) -> Looks {
    let mut found = Looks::default();
    let none = Scene::default();
    let scene = model.attributes.scene.as_deref().unwrap_or(&none);
    let mut textures: HashMap<ImageId, Option<Arc<Texture>>> = HashMap::new();
    for tag in &model.attributes.tags.table {
        let material = tag.material.as_ref().and_then(|name| scene.material(name));
        let look = material.and_then(|material| {
            let used = material.color_texture.as_ref();
            let texture = used.and_then(|used| {
                let read = || texture_of(&scene.images[used.image.0 as usize], &mut found.notes);
                let texture = textures.entry(used.image).or_insert_with(read).clone()?;
                Some(Look::Texture {
                    texture,
                    uv_set: used.uv_set as usize,
                })
            });
            // White that a texture was to be multiplied with is no colour.
            let is_plain = used.is_none() || material.color != [1.0; 4];
            let plain = is_plain.then(|| plain(material));
            texture.or(plain)
        });
        found.of_tags.push(look);
    }
    let uses = scene
        .materials
        .iter()
        .filter_map(|material| material.color_texture.as_ref());
    let mut placed: Vec<String> = uses
        .filter(|used| used.is_placed)
        .map(|used| scene.images[used.image.0 as usize].display_name())
        .collect();
    placed.sort_unstable();
    placed.dedup();
    for name in placed {
        found.notes.push(format!(
            "{name}: options that move or scale it are not followed"
        ));
    }
    found
}

/// Takes materials and textures off a model's scene, with all that its file said of them. Tags keep their
/// names of materials.
pub fn forget_looks(model: &mut Model) {
    let Some(scene) = &mut model.attributes.scene else {
        return;
    };
    let scene = Arc::make_mut(scene);
    scene.materials.clear();
    scene.images.clear();
    scene.rest = scene
        .rest
        .take()
        .and_then(|rest| gltf::without_looks(&rest));
}

/// The same everywhere, as on a screen.
fn plain(material: &Material) -> Look {
    let [r, g, b, a] = material.color;
    let [r, g, b] = [r, g, b].map(paint::on_screen);
    Look::Plain([r, g, b, a])
}

/// An image's pixels; why there are none is noted, unless it was when the model was read.
fn texture_of(image: &Image, notes: &mut Vec<String>) -> Option<Arc<Texture>> {
    let read = match &image.data {
        ImageData::Embedded { bytes, .. } => decoded(bytes),
        ImageData::File {
            found: Some(path), ..
        } => texture(path),
        ImageData::File { found: None, .. } => return None,
    };
    let noted = |why: &String| notes.push(format!("{}: {why}", image.display_name()));
    read.inspect_err(noted).ok().map(Arc::new)
}

#[cfg(test)]
mod tests {
    use super::*;
    use hurmo_core::mesh::Tag;
    use hurmo_core::scene::TextureUse;
    use std::io::Cursor;

    #[test]
    fn looks_are_found_and_what_is_not_is_told() {
        let mut png = Cursor::new(Vec::new());
        let green = image::RgbaImage::from_pixel(2, 1, image::Rgba([0, 255, 0, 255]));
        green.write_to(&mut png, image::ImageFormat::Png).unwrap();
        let embedded = |bytes: &[u8]| Image {
            name: Some("weed".into()),
            data: ImageData::Embedded {
                media_type: "image/png".into(),
                bytes: bytes.into(),
            },
            size: None,
        };
        let material = |name: &str, image: Option<u32>| Material {
            color: [0.0, 0.0, 0.0, 0.5],
            color_texture: image.map(|image| TextureUse::of(ImageId(image))),
            ..Material::named(name)
        };
        let mut model = Model::default();
        model.attributes.scene = Some(Arc::new(Scene {
            images: vec![embedded(png.get_ref()), embedded(&png.get_ref()[..40])],
            materials: vec![
                material("weed", Some(0)),
                material("tar", Some(1)),
                material("rope", None),
            ],
            ..Scene::default()
        }));
        let tag = |name: &str| Tag {
            material: Some(name.into()),
            ..Tag::default()
        };
        model.attributes.tags.table = ["weed", "tar", "rope", "unknown", "weed"].map(tag).into();
        let found = looks(&model);
        let Some(Look::Texture { texture, .. }) = &found.of_tags[0] else {
            panic!("{:?}", found.of_tags)
        };
        assert_eq!(texture.at(glam::DVec2::splat(0.3)), [0.0, 1.0, 0.0, 1.0]);
        // A texture that can't be read leaves the plain colour.
        let black = Some(Look::Plain([0.0, 0.0, 0.0, 0.5]));
        assert_eq!(found.of_tags[1..4], [black.clone(), black, None]);
        assert_eq!(found.of_tags[4], found.of_tags[0]);
        assert_eq!(found.notes.len(), 1, "{:?}", found.notes);
        assert!(found.notes[0].starts_with("weed: it can't be read as PNG or JPEG"));
    }
}
