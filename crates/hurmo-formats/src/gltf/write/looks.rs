//! Materials, textures and images: the file's own as they were, others behind them.

use super::bytes::Buffer;
use crate::Target;
use crate::gltf::document::{Kept, list};
use crate::objects::materials;
use crate::textures::{Placed, Textures, placed};
use hurmo_core::Model;
use hurmo_core::scene::{Alpha, Image, ImageData, Material, Scene, TextureUse};
use percent_encoding::{AsciiSet, CONTROLS, utf8_percent_encode};
use rustc_hash::FxHashMap;
use serde_json::{Map, Value, json};
use std::io;

/// What a file name may not have in a URI.
const NOT_IN_NAMES: &AsciiSet = &CONTROLS
    .add(b' ')
    .add(b'%')
    .add(b'#')
    .add(b'?')
    .add(b'"')
    .add(b'<')
    .add(b'>');

/// Writes all looks into the document; the number of every material by its name.
pub fn looks(
    model: &Model,
    scene: &Scene,
    kept: &Kept,
    (json, buffer): (&mut Map<String, Value>, &mut Buffer),
    to: &mut Target<'_>,
) -> io::Result<FxHashMap<String, usize>> {
    let mut numbers = FxHashMap::default();
    images(scene, json, buffer, to)?;
    let own = kept
        .json
        .get("materials")
        .and_then(Value::as_array)
        .map_or(0, Vec::len);
    for material in materials(model, scene) {
        let number = match material.source {
            Some(number) if (number as usize) < own => {
                let number = number as usize;
                list(json, "materials")[number]["name"] = material.name.clone().into();
                number
            }
            _ => {
                let value = value(&material, json);
                let materials = list(json, "materials");
                materials.push(value);
                materials.len() - 1
            }
        };
        numbers.insert(material.name, number);
    }
    Ok(numbers)
}

/// A material in the format's words; what is as it is without saying so is not said.
fn value(material: &Material, json: &mut Map<String, Value>) -> Value {
    let mut metal = json!({
        "baseColorFactor": material.color,
        "metallicFactor": material.metallic,
        "roughnessFactor": material.roughness,
    });
    let mut value = json!({"name": material.name});
    let mut texture = |used: &Option<TextureUse>, strength: Option<&str>| -> Option<Value> {
        let used = used.as_ref()?;
        let mut info = json!({"index": texture_of(used, json)});
        if used.uv_set > 0 {
            info["texCoord"] = used.uv_set.into();
        }
        if let Some(word) = strength.filter(|_| used.strength != 1.0) {
            info[word] = used.strength.into();
        }
        Some(info)
    };
    if let Some(info) = texture(&material.color_texture, None) {
        metal["baseColorTexture"] = info;
    }
    if let Some(info) = texture(&material.roughness_texture, None) {
        metal["metallicRoughnessTexture"] = info;
    }
    value["pbrMetallicRoughness"] = metal;
    let others = [
        ("normalTexture", &material.normal_texture, Some("scale")),
        (
            "occlusionTexture",
            &material.occlusion_texture,
            Some("strength"),
        ),
        ("emissiveTexture", &material.glow_texture, None),
    ];
    for (word, used, strength) in others {
        if let Some(info) = texture(used, strength) {
            value[word] = info;
        }
    }
    if material.glow != [0.0; 3] {
        value["emissiveFactor"] = json!(material.glow.map(|share| share.clamp(0.0, 1.0)));
    }
    match material.alpha {
        Alpha::Opaque => {}
        Alpha::Blend => value["alphaMode"] = "BLEND".into(),
        Alpha::Cut(cutoff) => {
            value["alphaMode"] = "MASK".into();
            value["alphaCutoff"] = cutoff.into();
        }
    }
    if material.double_sided {
        value["doubleSided"] = true.into();
    }
    value
}

/// The number of a texture that shows an image, made if there is none.
fn texture_of(used: &TextureUse, json: &mut Map<String, Value>) -> usize {
    let textures = list(json, "textures");
    let source = Value::from(used.image.0);
    let shows = |texture: &Value| {
        texture.get("source") == Some(&source) && texture.get("sampler").is_none()
    };
    textures.iter().position(shows).unwrap_or_else(|| {
        textures.push(json!({"source": source}));
        textures.len() - 1
    })
}

/// Puts images into the buffer, or beside the model; those that are in no file stay names.
fn images(
    scene: &Scene,
    json: &mut Map<String, Value>,
    buffer: &mut Buffer,
    to: &mut Target<'_>,
) -> io::Result<()> {
    let usual = match to.options.ascii {
        true => Textures::Copy,
        false => Textures::Embed,
    };
    for (number, image) in scene.images.iter().enumerate() {
        let images = list(json, "images");
        if images.len() <= number {
            images.resize(number + 1, json!({}));
        }
        let value = &mut images[number];
        if let Some(name) = image.name.clone().or_else(|| stem(image)) {
            value["name"] = name.into();
        }
        if let Some(about) = value.as_object_mut() {
            about.remove("uri");
            about.remove("mimeType");
        }
        match placed(image, number, usual, to.options, to.companions)? {
            Placed::Within { media_type, bytes } => {
                value["bufferView"] = buffer.file(&bytes).into();
                value["mimeType"] = media_type.into();
            }
            Placed::Named(name) => value["uri"] = uri(&name).into(),
        }
    }
    Ok(())
}

/// What an image is called by its file.
fn stem(image: &Image) -> Option<String> {
    match &image.data {
        ImageData::File { name, .. } => {
            let name = name.rsplit(['/', '\\']).next()?;
            Some(name.rsplit_once('.').map_or(name, |(stem, _)| stem).into())
        }
        ImageData::Embedded { .. } => None,
    }
}

/// A file's name as a URI.
pub fn uri(name: &str) -> String {
    utf8_percent_encode(name, NOT_IN_NAMES).to_string()
}
