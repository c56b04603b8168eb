//! A picture being drawn: views of scenes, words, and patches of colour.

use crate::camera::Projection;
use crate::color::{Color, PAPER, mixed};
use crate::raster::{SAMPLES, drawn};
use crate::scene::Scene;
use crate::text::{Type, cut, inked};
use image::{ImageFormat, Rgb, RgbImage};
use std::io::Cursor;

/// A part of a picture, in pixels.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Frame {
    /// First column.
    pub left: u32,
    /// First row.
    pub top: u32,
    /// Columns.
    pub width: u32,
    /// Rows.
    pub height: u32,
}

impl Frame {
    /// The size of its samples' grid.
    pub(crate) fn samples(&self) -> [f64; 2] {
        [self.width, self.height].map(|side| f64::from(side) * SAMPLES as f64)
    }
}

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
        Self {
            image: RgbImage::from_pixel(width, height, eight_bit(PAPER)),
        }
    }

    /// Draws a scene into a frame.
    pub fn draw(&mut self, scene: &Scene<'_>, projection: &Projection, frame: Frame) {
        let (width, height) = (frame.width as usize, frame.height as usize);
        let pixels = drawn(scene, projection, [width, height]);
        for (i, color) in pixels.into_iter().enumerate() {
            let (x, y) = (
                frame.left + (i % width) as u32,
                frame.top + (i / width) as u32,
            );
            self.put(x, y, color);
        }
    }

    /// Writes words from a point on, cut where they would leave the picture.
    pub fn words(&mut self, words: &str, kind: Type, color: Color, [left, top]: [u32; 2]) {
        let room = kind.fits(self.image.width().saturating_sub(left));
        inked(&cut(words, room), kind, |x, y, ink| {
            let (x, y) = (left + x, top + y);
            if let Some(under) = self.image.get_pixel_checked(x, y) {
                let under = under.0.map(|channel| f32::from(channel) / 255.0);
                self.put(x, y, mixed(under, color, ink));
            }
        });
    }

    /// Fills a frame with a colour.
    pub fn fill(&mut self, frame: Frame, color: Color) {
        for y in frame.top..frame.top + frame.height {
            for x in frame.left..frame.left + frame.width {
                self.put(x, y, color);
            }
        }
    }

    fn put(&mut self, x: u32, y: u32, color: Color) {
        if x < self.image.width() && y < self.image.height() {
            self.image.put_pixel(x, y, eight_bit(color));
        }
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

fn eight_bit(color: Color) -> Rgb<u8> {
    Rgb(color.map(|channel| (channel.clamp(0.0, 1.0) * 255.0).round() as u8))
}
