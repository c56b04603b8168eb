//! Models to pixels: a camera and a rasteriser in software.
//!
//! ```text
//! mesh ─▶ Scene (triangles with colours, lines on faulty edges)
//!            └─ View ─▶ rows of pixels, four samples each ─▶ Picture ─▶ PNG
//! ```
//!
//! Fronts of faces are pale, backs violet, so that a reversed or open face shows; open edges
//! are orange, non-manifold ones dark blue. The three are told apart with any colour vision,
//! since they differ in lightness too.

mod raster;
mod scene;

pub use scene::{Scene, View};

use image::{ImageFormat, RgbImage};
use raster::Samples;
use std::io::Cursor;

const BACKGROUND: [f32; 3] = [0.93, 0.94, 0.92];

/// A picture being drawn.
pub struct Picture {
    image: RgbImage,
}

/// A picture could not be encoded.
#[derive(Debug, thiserror::Error)]
#[error("the picture could not be made into a PNG: {0}")]
pub struct PictureError(#[from] image::ImageError);

impl Picture {
    /// An empty picture of this size in pixels.
    pub fn new(width: u32, height: u32) -> Self {
        let background = image::Rgb(BACKGROUND.map(|c| (c * 255.0) as u8));
        Self {
            image: RgbImage::from_pixel(width, height, background),
        }
    }

    /// Draws a scene into a frame (left, top, width, height in pixels), filling it but for a
    /// margin.
    pub fn draw(&mut self, scene: &Scene, view: View, [left, top, width, height]: [u32; 4]) {
        let samples = Samples::of(scene, view, width as usize, height as usize);
        for y in 0..height {
            for x in 0..width {
                let color = samples.pixel(x as usize, y as usize);
                let pixel = image::Rgb(color.map(|c| (c.clamp(0.0, 1.0) * 255.0).round() as u8));
                if left + x < self.image.width() && top + y < self.image.height() {
                    self.image.put_pixel(left + x, top + y, pixel);
                }
            }
        }
    }

    /// The pixels.
    pub fn image(&self) -> &RgbImage {
        &self.image
    }

    /// The picture as a PNG file.
    ///
    /// # Errors
    /// When the encoder fails, which it does only without memory.
    pub fn png(&self) -> Result<Vec<u8>, PictureError> {
        let mut bytes = Cursor::new(Vec::new());
        self.image.write_to(&mut bytes, ImageFormat::Png)?;
        Ok(bytes.into_inner())
    }
}
