//! How a model's materials look: the plain colours and the textures that its material files (MTL)
//! name.
//!
//! A file that can't be found or read is told in a note, and its material has no look. Only what
//! lies in the model's own folder, or below it, is opened.

use crate::beside::below;
use hurmo_core::Model;
use hurmo_core::paint::{Look, Texture};
use std::collections::HashMap;
use std::io::Cursor;
use std::path::Path;
use std::sync::Arc;

/// The most memory that a texture may take while it is decoded.
const MOST_MEMORY: u64 = 2 << 30;
/// The longest material file that is read.
const LONGEST: u64 = 64 << 20;

/// How materials look.
#[derive(Clone, Debug, Default)]
pub struct Looks {
    /// For every tag in the model's table its look, if it has one.
    pub of_tags: Vec<Option<Look>>,
    /// What a person should know: what could not be found, read or followed.
    pub notes: Vec<String>,
}

/// What a material file says of a material.
#[derive(Clone, Debug, Default, PartialEq)]
struct Material {
    color: Option<[f32; 3]>,
    opacity: Option<f32>,
    texture: Option<String>,
    /// Whether options move or scale the texture, or take a part of it.
    is_placed: bool,
}

/// The looks of a model's materials, which was read from this file.
pub fn looks(model: &Model, file: &Path) -> Looks {
    let mut found = Looks::default();
    let folder = file.parent().unwrap_or(Path::new(""));
    let attributes = &model.attributes;
    let mut materials: HashMap<String, Material> = HashMap::new();
    for library in &attributes.material_libraries {
        match text_of(folder, library) {
            Ok(text) => materials.extend(parsed(&text)),
            Err(why) => found.notes.push(format!("{library}: {why}")),
        }
    }
    let mut textures: HashMap<&str, Option<Arc<Texture>>> = HashMap::new();
    for tag in &attributes.tags.table {
        let material = tag.material.as_ref().and_then(|name| materials.get(name));
        let Some(material) = material else {
            found.of_tags.push(None);
            continue;
        };
        let texture = material.texture.as_deref().and_then(|name| {
            let read = || match texture_in(folder, name) {
                Ok(texture) => Some(Arc::new(texture)),
                Err(why) => {
                    found.notes.push(format!("{name}: {why}"));
                    None
                }
            };
            textures.entry(name).or_insert_with(read).clone()
        });
        let plain = material.color.map(|[r, g, b]| {
            let opacity = material.opacity.unwrap_or(1.0);
            Look::Plain([r, g, b, opacity])
        });
        found.of_tags.push(texture.map(Look::Texture).or(plain));
    }
    let mut placed: Vec<&String> = (materials.values())
        .filter(|material| material.is_placed)
        .filter_map(|material| material.texture.as_ref())
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

/// Reads a texture from a file: PNG or JPEG.
///
/// # Errors
/// Why it can't be, in words.
pub fn texture(file: &Path) -> Result<Texture, String> {
    let bytes = std::fs::read(file).map_err(|error| crate::file::error_words(&error))?;
    let mut reader = image::ImageReader::new(Cursor::new(bytes));
    let mut limits = image::Limits::default();
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    let reader = reader
        .with_guessed_format()
        .map_err(|error| error.to_string())?;
    let image = reader
        .decode()
        .map_err(|error| format!("it can't be read as PNG or JPEG: {error}"))?;
    let image = image.into_rgba8();
    let size = [image.width(), image.height()];
    let pixels = image.pixels().map(|pixel| pixel.0).collect();
    Texture::new(size, pixels).ok_or_else(|| "it has no pixels".into())
}

fn texture_in(folder: &Path, name: &str) -> Result<Texture, String> {
    texture(&below(folder, name)?)
}

fn text_of(folder: &Path, name: &str) -> Result<String, String> {
    let file = below(folder, name)?;
    let about = std::fs::metadata(&file).map_err(|error| crate::file::error_words(&error))?;
    if !about.is_file() || about.len() > LONGEST {
        return Err("this is no material file".into());
    }
    let bytes = std::fs::read(&file).map_err(|error| crate::file::error_words(&error))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// The materials of a material file, by name.
fn parsed(text: &str) -> HashMap<String, Material> {
    let mut materials = HashMap::new();
    let mut name: Option<String> = None;
    for line in text.lines() {
        let line = line.split('#').next().unwrap_or("").trim();
        let Some((word, rest)) = line.split_once(char::is_whitespace) else {
            continue;
        };
        let rest = rest.trim();
        if word.eq_ignore_ascii_case("newmtl") {
            materials.entry(rest.to_string()).or_default();
            name = Some(rest.to_string());
            continue;
        }
        let Some(material) = name.as_ref().and_then(|name| materials.get_mut(name)) else {
            continue;
        };
        let material: &mut Material = material;
        let number = || numbers(rest).first().copied();
        match word.to_ascii_lowercase().as_str() {
            "kd" => {
                if let [r, g, b, ..] = numbers(rest)[..] {
                    material.color = Some([r, g, b]);
                }
            }
            "d" => material.opacity = number(),
            "tr" => material.opacity = number().map(|clear| 1.0 - clear),
            "map_kd" => {
                let (options, file) = options_and_name(rest);
                material.is_placed = options.iter().any(|option| option.moves());
                material.texture = (!file.is_empty()).then(|| file.to_string());
            }
            _ => {}
        }
    }
    materials
}

/// The numbers that a text begins with, each from nought to one.
fn numbers(text: &str) -> Vec<f32> {
    let words = text.split_whitespace();
    words
        .map_while(|word| word.parse::<f32>().ok().filter(|number| number.is_finite()))
        .map(|number| number.clamp(0.0, 1.0))
        .collect()
}

/// An option before a texture's name.
struct TextureOption<'t> {
    name: &'t str,
    values: Vec<f64>,
}

impl TextureOption<'_> {
    /// Whether it makes the texture lie elsewhere.
    fn moves(&self) -> bool {
        match self.name {
            "-o" | "-t" => self.values.iter().any(|&value| value != 0.0),
            "-s" => self.values.iter().any(|&value| value != 1.0),
            _ => false,
        }
    }
}

/// The options that a texture's name comes after, and the name, which may have spaces in it.
fn options_and_name(text: &str) -> (Vec<TextureOption<'_>>, &str) {
    let mut options = Vec::new();
    let mut rest = text.trim_start();
    while let Some(word) = rest.split_whitespace().next() {
        // How many values it takes, at least and at most.
        let (least, most) = match word {
            "-o" | "-s" | "-t" => (1, 3),
            "-mm" => (2, 2),
            "-blendu" | "-blendv" | "-cc" | "-clamp" | "-texres" | "-imfchan" | "-boost"
            | "-bm" | "-type" => (1, 1),
            _ => break,
        };
        let name = word;
        rest = rest[word.len()..].trim_start();
        let mut values = Vec::new();
        for count in 0..most {
            let Some(word) = rest.split_whitespace().next() else {
                break;
            };
            let value = word.parse::<f64>();
            if count >= least && value.is_err() {
                break;
            }
            values.extend(value);
            rest = rest[word.len()..].trim_start();
        }
        options.push(TextureOption { name, values });
    }
    (options, rest.trim_end())
}

#[cfg(test)]
mod tests {
    use super::*;
    use hurmo_core::mesh::Tag;

    #[test]
    fn a_material_file_says_colours_and_textures() {
        let text = "# boards\nnewmtl tar\nKd 0.1 0.2 0.3 # dark\nd 0.5\n\nnewmtl old plank\r\n\
                    map_Kd -s 1 1 1 -clamp on wet planks.png\r\nmap_Ka other.png\n\
                    newmtl rope\nmap_Kd -o 0.5 0 -bm 2 rope.jpg\nKd nothing\n";
        let materials = parsed(text);
        assert_eq!(materials.len(), 3);
        assert_eq!(materials["tar"].color, Some([0.1, 0.2, 0.3]));
        assert_eq!(materials["tar"].opacity, Some(0.5));
        let plank = &materials["old plank"];
        assert_eq!(plank.texture.as_deref(), Some("wet planks.png"));
        assert!(!plank.is_placed);
        assert_eq!(materials["rope"].texture.as_deref(), Some("rope.jpg"));
        assert!(materials["rope"].is_placed && materials["rope"].color.is_none());
    }

    #[test]
    fn looks_are_found_and_what_is_not_is_told() {
        let folder = tempfile::tempdir().unwrap();
        let write = |name: &str, bytes: &[u8]| {
            std::fs::write(folder.path().join(name), bytes).unwrap();
        };
        let mut png = Cursor::new(Vec::new());
        let green = image::RgbaImage::from_pixel(2, 1, image::Rgba([0, 255, 0, 255]));
        green.write_to(&mut png, image::ImageFormat::Png).unwrap();
        write("weed.png", png.get_ref());
        write("cut.png", &png.get_ref()[..40]);
        write(
            "quay.mtl",
            b"newmtl weed\nmap_Kd weed.png\nnewmtl tar\nKd 0 0 0\nmap_Kd cut.png\nnewmtl gone\nmap_Kd gone.png\n",
        );
        let mut model = Model::default();
        model.attributes.material_libraries = vec!["quay.mtl".into(), "none.mtl".into()];
        let tag = |name: &str| Tag {
            material: Some(name.into()),
            ..Tag::default()
        };
        model.attributes.tags.table = ["weed", "tar", "gone", "unknown", "weed"].map(tag).into();
        let found = looks(&model, &folder.path().join("quay.obj"));
        let Some(Look::Texture(texture)) = &found.of_tags[0] else {
            panic!("{:?}", found.of_tags)
        };
        assert_eq!(texture.at(glam::DVec2::splat(0.3)), [0.0, 1.0, 0.0, 1.0]);
        // A texture that can't be read leaves the plain colour.
        assert_eq!(found.of_tags[1], Some(Look::Plain([0.0, 0.0, 0.0, 1.0])));
        assert_eq!(found.of_tags[2..4], [None, None]);
        assert_eq!(found.of_tags[4], found.of_tags[0]);
        assert_eq!(found.notes.len(), 3, "{:?}", found.notes);
        assert!(found.notes[0].contains("none.mtl: there is no such file"));
    }
}
