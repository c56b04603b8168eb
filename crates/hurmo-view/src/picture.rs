//! A picture being drawn: views of scenes, words, and patches of colour.

use crate::camera::Projection;
use crate::color::{Color, PAPER, mixed};
use crate::raster::{SAMPLES, drawn};
use crate::scene::Scene;
use crate::text::{Type, cut, inked};

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
    width: u32,
    height: u32,
    /// Rows from the top, each from the left.
    pixels: Vec<[u8; 3]>,
}

/// A picture could not be encoded.
#[derive(Debug, thiserror::Error)]
#[error("the picture could not be made into a PNG: {0}")]
pub struct PictureError(#[from] png::EncodingError);

impl Picture {
    /// An empty picture of this size in pixels.
    pub fn new(width: u32, height: u32) -> Self {
        Self {
            width,
            height,
            pixels: vec![eight_bit(PAPER); width as usize * height as usize],
        }
    }

    /// Another picture of the same width below it.
    ///
    /// # Panics
    /// When the widths differ.
    pub fn above(mut self, other: Self) -> Self {
        assert_eq!(self.width, other.width, "pictures of one width");
        self.height += other.height;
        self.pixels.extend(other.pixels);
        self
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
        let room = kind.fits(self.width.saturating_sub(left));
        inked(&cut(words, room), kind, |x, y, ink| {
            let (x, y) = (left + x, top + y);
            if let Some(under) = self.at(x, y) {
                let under = under.map(|channel| f32::from(channel) / 255.0);
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
        if let Some(pixel) = self.at(x, y) {
            *pixel = eight_bit(color);
        }
    }

    fn at(&mut self, x: u32, y: u32) -> Option<&mut [u8; 3]> {
        let row = y as usize * self.width as usize;
        (x < self.width && y < self.height).then(|| &mut self.pixels[row + x as usize])
    }

    /// The colour at a place.
    #[cfg(test)]
    pub(crate) fn pixel(&self, x: u32, y: u32) -> Color {
        let pixel = self.pixels[(y * self.width + x) as usize];
        pixel.map(|channel| f32::from(channel) / 255.0)
    }

    /// The picture as a PNG file.
    ///
    /// # Errors
    /// When the encoder fails, which it does only without memory.
    pub fn png(&self) -> Result<Vec<u8>, PictureError> {
        let mut bytes = Vec::new();
        let mut encoder = png::Encoder::new(&mut bytes, self.width, self.height);
        encoder.set_color(png::ColorType::Rgb);
        encoder.set_depth(png::BitDepth::Eight);
        let mut writer = encoder.write_header()?;
        writer.write_image_data(self.pixels.as_flattened())?;
        writer.finish()?;
        Ok(bytes)
    }
}

fn eight_bit(color: Color) -> [u8; 3] {
    color.map(|channel| (channel.clamp(0.0, 1.0) * 255.0).round() as u8)
}
