//! Textures on their way into a file that is written: inside it, beside it, or where they are.

use crate::WriteOptions;
use crate::companions::Companions;
use crate::images::decoder;
use crate::plain;
use hurmo_core::scene::{Image, ImageData, safe_name};
use image::ImageFormat;
use image::codecs::jpeg::JpegEncoder;
use image::imageops::FilterType;
use std::borrow::Cow;
use std::io::{self, Cursor};
use std::path::{Path, PathBuf};

/// What becomes of textures.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Textures {
    /// What is usual in the format: inside it where it is one file, else beside it.
    #[default]
    Usual,
    /// Their files are copied beside the model.
    Copy,
    /// They are put into the model's own file, in formats that can.
    Embed,
    /// They stay where they are, and are named by the way there.
    Link,
}

/// Where a texture is found in the new file.
pub(crate) enum Placed<'a> {
    /// In it.
    Within {
        media_type: String,
        bytes: Cow<'a, [u8]>,
    },
    /// In a file of this name.
    Named(String),
}

/// How good a JPEG is that is written anew, in percent.
const QUALITY: u8 = 92;

/// Puts a texture where it is wished: `usual` if nothing is; `number` names one that
/// has no name.
pub(crate) fn placed<'a>(
    image: &'a Image,
    number: usize,
    usual: Textures,
    options: WriteOptions,
    companions: &mut Companions,
) -> io::Result<Placed<'a>> {
    let (bytes, found) = match &image.data {
        ImageData::Embedded { bytes, .. } => (Cow::Borrowed(&bytes[..]), None),
        ImageData::File { name, found: None } => return Ok(Placed::Named(name.clone())),
        ImageData::File {
            found: Some(path), ..
        } => match plain::read(path) {
            Ok(bytes) => (Cow::Owned(bytes), Some(path)),
            Err(error) => {
                let why = format!("{}: {}", path.display(), plain::words(&error));
                return Err(io::Error::new(error.kind(), why));
            }
        },
    };
    let changes = options.safe_names || options.texture_limit.is_some();
    if let (Textures::Usual, Textures::Copy, Some(path), false) =
        (options.textures, usual, found, changes)
        && let Some(way) = way_below(companions.folder(), path)
    {
        companions.is_there(path.clone());
        return Ok(Placed::Named(way));
    }
    let wish = match (options.textures, found) {
        (Textures::Link, Some(path)) => return Ok(Placed::Named(way(companions.folder(), path))),
        (Textures::Usual | Textures::Link, _) => usual,
        (wish, _) => wish,
    };
    let file_name = plain_name(image, number, companions.stem());
    let bytes = match options
        .texture_limit
        .and_then(|limit| shrunk(&bytes, limit))
    {
        Some(smaller) => {
            companions.shrunk.push(file_name.clone());
            Cow::Owned(smaller)
        }
        None => bytes,
    };
    let media_type = match &image.data {
        ImageData::Embedded { media_type, .. } => Some(media_type.clone()),
        ImageData::File { .. } => {
            let format = image::guess_format(&bytes).ok();
            format.map(|format| format.to_mime_type().to_string())
        }
    };
    if let (Textures::Embed, Some(media_type)) = (wish, media_type) {
        return Ok(Placed::Within { media_type, bytes });
    }
    let name = match options.safe_names || found.is_none() {
        true => safe_file_name(&file_name),
        false => file_name,
    };
    companions.add(&name, &bytes).map(Placed::Named)
}

/// What an image's file is called, without folders.
fn plain_name(image: &Image, number: usize, stem: &str) -> String {
    match &image.data {
        ImageData::File { name, .. } => {
            let name = name.replace('\\', "/");
            name.rsplit('/').next().unwrap_or_default().to_string()
        }
        ImageData::Embedded { media_type, .. } => {
            let plain = image.name.clone();
            let plain = plain.unwrap_or_else(|| format!("{stem}-{}", number + 1));
            let ending = match media_type.as_str() {
                "image/jpeg" => "jpg",
                other => other.strip_prefix("image/").unwrap_or("bin"),
            };
            match plain.to_ascii_lowercase().ends_with(&format!(".{ending}")) {
                true => plain,
                false => format!("{plain}.{ending}"),
            }
        }
    }
}

/// A file name that every program takes, with the ending that it has.
fn safe_file_name(name: &str) -> String {
    let (stem, ending) = name.rsplit_once('.').unwrap_or((name, ""));
    match ending {
        "" => safe_name(stem),
        // Dots within would be taken for endings.
        _ => format!(
            "{}.{}",
            safe_name(&stem.replace('.', "_")),
            safe_name(ending)
        ),
    }
}

/// The way from a folder to a file; the file itself where there is none.
fn way(folder: &Path, file: &Path) -> String {
    let real = |path: &Path| {
        let path = if path == Path::new("") {
            Path::new(".")
        } else {
            path
        };
        path.canonicalize().unwrap_or_else(|_| path.to_path_buf())
    };
    let way: Option<PathBuf> = pathdiff::diff_paths(real(file), real(folder));
    let way = way.unwrap_or_else(|| file.to_path_buf());
    way.to_string_lossy().replace('\\', "/")
}

/// The same of a file in the folder or below it.
fn way_below(folder: &Path, file: &Path) -> Option<String> {
    let way = way(folder, file);
    (!way.starts_with("..") && Path::new(&way).is_relative()).then_some(way)
}

/// A picture's file anew, so that neither side has more pixels than this; none where none has, or it
/// can't be read.
fn shrunk(bytes: &[u8], limit: u32) -> Option<Vec<u8>> {
    let reader = decoder(bytes).ok()?;
    let format = reader.format()?;
    let picture = reader.decode().ok()?;
    if picture.width().max(picture.height()) <= limit {
        return None;
    }
    let picture = picture.resize(limit, limit, FilterType::Lanczos3);
    let mut file = Cursor::new(Vec::new());
    match format {
        ImageFormat::Jpeg => {
            let encoder = JpegEncoder::new_with_quality(&mut file, QUALITY);
            picture.write_with_encoder(encoder)
        }
        _ => picture.write_to(&mut file, format),
    }
    .ok()?;
    Some(file.into_inner())
}
