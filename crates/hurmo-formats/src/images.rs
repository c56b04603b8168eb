//! Pictures as pixels: PNG and JPEG read within bounds, PNG written.

use crate::plain;
use hurmo_core::paint::Texture;
use hurmo_core::scene::{Image, ImageData};
use std::io::{BufReader, Cursor};
use std::path::Path;

/// The most memory that a texture may take while it is decoded.
const MOST_MEMORY: u64 = 2 << 30;

/// An image's width and height, by the head of its file.
pub(crate) fn size_of(image: &Image) -> Option<[u32; 2]> {
    let size = match &image.data {
        ImageData::Embedded { bytes, .. } => decoder(bytes).ok()?.into_dimensions(),
        ImageData::File { found, .. } => {
            let file = BufReader::new(plain::open(found.as_ref()?).ok()?);
            let reader = image::ImageReader::new(file).with_guessed_format();
            reader.ok()?.into_dimensions()
        }
    };
    size.ok().map(|(width, height)| [width, height])
}

/// Reads a texture from a file: PNG or JPEG.
///
/// # Errors
/// Why it can't be, in words.
pub fn texture(file: &Path) -> Result<Texture, String> {
    let bytes = plain::read(file).map_err(|error| plain::words(&error))?;
    decoded(&bytes)
}

/// What decodes a picture, within bounds.
pub(crate) fn decoder(bytes: &[u8]) -> std::io::Result<image::ImageReader<Cursor<&[u8]>>> {
    let mut reader = image::ImageReader::new(Cursor::new(bytes));
    let mut limits = image::Limits::default();
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    reader.with_guessed_format()
}

/// A picture's pixels, or why it has none.
pub(crate) fn decoded(bytes: &[u8]) -> Result<Texture, String> {
    let image = decoder(bytes)
        .map_err(|error| error.to_string())?
        .decode()
        .map_err(|error| format!("it can't be read as PNG or JPEG: {error}"))?;
    let image = image.into_rgba8();
    let size = [image.width(), image.height()];
    let pixels = image.pixels().map(|pixel| pixel.0).collect();
    Texture::new(size, pixels).ok_or_else(|| "it has no pixels".into())
}

/// A texture's file, as PNG.
pub fn png(texture: &Texture) -> Vec<u8> {
    let [width, height] = texture.size();
    let pixels = texture.pixels().as_flattened().to_vec();
    let image =
        image::RgbaImage::from_raw(width, height, pixels).expect("as many as the size says");
    let mut file = Cursor::new(Vec::new());
    image
        .write_to(&mut file, image::ImageFormat::Png)
        .expect("memory takes whatever is written");
    file.into_inner()
}
