//! Material files (MTL): what they say of materials, as this library has them, and back.
//!
//! Plain colours there are as on a screen, here linear. What has no counterpart is kept for the next
//! material file, and reported where the model goes to another format.

mod statements;
mod write;

pub(crate) use write::companions;

use crate::Remarks;
use crate::beside::below;
use crate::plain;
use hurmo_core::paint;
use hurmo_core::scene::{Alpha, Image, ImageData, ImageId, Material, Rest, Scene, TextureUse};
use statements::{Statement, materials_in, name_and_options};
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// The longest material file that is read.
const LONGEST: u64 = 64 << 20;

/// Statements about textures that have a counterpart.
const TEXTURES: [&str; 6] = ["map_kd", "map_pr", "map_pm", "map_ke", "norm", "map_norm"];

/// What a model's material files said.
#[derive(Clone, Debug, Default, PartialEq)]
pub(crate) struct Kept {
    /// Where they are.
    folder: PathBuf,
    /// By number of the material its name.
    names: Vec<String>,
    /// By number of the material what is said of it, in order.
    of_materials: Vec<Vec<Statement>>,
}

impl Kept {
    /// Statements that have no counterpart, by word, in order.
    pub fn untranslated(&self) -> Vec<&str> {
        let all = self.of_materials.iter().flatten();
        let words = all.map(|statement| &statement.word[..]);
        let mut words: Vec<&str> = words.filter(|word| is_untranslated(word)).collect();
        words.sort_unstable();
        words
    }
}

/// Textures of other kinds. Colours of kinds that physically based shading does not have say nothing
/// that is lost.
fn is_untranslated(word: &str) -> bool {
    let word = word.to_ascii_lowercase();
    let is_texture =
        word.starts_with("map_") || ["bump", "disp", "decal", "refl"].contains(&&word[..]);
    is_texture && !TEXTURES.contains(&&word[..]) && word != "map_ka"
}

/// The materials that these files know, as a scene without nodes. None without any.
pub(crate) fn scene(libraries: &[String], remarks: &mut Remarks) -> Option<Scene> {
    let folder = remarks.folder.clone()?;
    let mut scene = Scene::default();
    let mut kept = Kept {
        folder: folder.clone(),
        ..Kept::default()
    };
    for library in libraries {
        match text_of(&folder, library) {
            Err(why) => remarks.notes.push(format!("{library}: {why}")),
            Ok(text) => {
                for (name, statements) in materials_in(&text) {
                    if scene.material(&name).is_some() {
                        continue;
                    }
                    let number = kept.of_materials.len() as u32;
                    let material = material(&name, &statements, &mut scene.images, remarks);
                    scene.materials.push(Material {
                        source: Some(number),
                        ..material
                    });
                    kept.names.push(name);
                    kept.of_materials.push(statements);
                }
            }
        }
    }
    scene.rest = Some(Rest(Arc::new(kept)));
    (!scene.materials.is_empty()).then_some(scene)
}

fn text_of(folder: &Path, library: &str) -> Result<String, String> {
    let file = below(folder, library)?;
    let words = |error: std::io::Error| plain::words(&error);
    let about = std::fs::metadata(&file).map_err(words)?;
    if !about.is_file() || about.len() > LONGEST {
        return Err("this is no material file".into());
    }
    let bytes = plain::read(&file).map_err(words)?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// What statements say, in order: later ones count.
fn material(
    name: &str,
    statements: &[Statement],
    images: &mut Vec<Image>,
    remarks: &mut Remarks,
) -> Material {
    let mut material = Material::named(name);
    let mut shine = None;
    let mut has_roughness = false;
    let mut maps: [Option<TextureUse>; 2] = [None, None];
    for statement in statements {
        let numbers = statement.numbers();
        let first = numbers.first().copied();
        let mut texture = || used(&statement.rest, images, remarks);
        match statement.word.to_ascii_lowercase().as_str() {
            "kd" => {
                if let [r, g, b, ..] = numbers[..] {
                    let [r, g, b] = [r, g, b].map(|c| paint::linear(c.clamp(0.0, 1.0)));
                    material.color = [r, g, b, material.color[3]];
                }
            }
            "ke" => {
                if let [r, g, b, ..] = numbers[..] {
                    material.glow = [r, g, b].map(|c| paint::linear(c.clamp(0.0, 1.0)));
                }
            }
            "d" => material.color[3] = first.unwrap_or(1.0).clamp(0.0, 1.0),
            "tr" => material.color[3] = 1.0 - first.unwrap_or(0.0).clamp(0.0, 1.0),
            "ns" => shine = first.filter(|&shine| shine >= 0.0),
            "pr" => {
                material.roughness = first.unwrap_or(1.0).clamp(0.0, 1.0);
                has_roughness = true;
            }
            "pm" => material.metallic = first.unwrap_or(0.0).clamp(0.0, 1.0),
            "map_kd" => material.color_texture = texture(),
            "map_ke" => material.glow_texture = texture(),
            "map_pr" => maps[0] = texture(),
            "map_pm" => maps[1] = texture(),
            "norm" | "map_norm" => material.normal_texture = texture(),
            _ => {}
        }
    }
    // The exponent of a highlight, as the roughness that gives one as wide.
    if let Some(shine) = shine.filter(|_| !has_roughness) {
        material.roughness = (2.0 / (shine + 2.0)).sqrt();
    }
    // One picture for both is what the trade packs them in.
    if let [Some(rough), Some(metal)] = &maps
        && rough.image == metal.image
    {
        material.roughness_texture = maps[0].clone();
    }
    if material.color[3] < 1.0 {
        material.alpha = Alpha::Blend;
    }
    material
}

/// The texture that a statement names.
fn used(rest: &str, images: &mut Vec<Image>, remarks: &mut Remarks) -> Option<TextureUse> {
    let (options, name) = name_and_options(rest);
    if name.is_empty() {
        return None;
    }
    let is_it =
        |image: &Image| matches!(&image.data, ImageData::File { name: own, .. } if own == name);
    let number = images.iter().position(is_it).unwrap_or_else(|| {
        images.push(Image {
            name: None,
            data: ImageData::File {
                found: remarks.found(name),
                name: name.to_string(),
            },
            size: None,
        });
        images.len() - 1
    });
    Some(TextureUse {
        is_placed: options.iter().any(|option| option.moves()),
        ..TextureUse::of(ImageId(number as u32))
    })
}

#[cfg(test)]
mod tests;
