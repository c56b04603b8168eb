//! A picture that lies on a surface, asked by UVs.

use glam::DVec2;

/// Rows of pixels from the top, as a file has them; channels are kept as they are stored, and not
/// made linear.
#[derive(Clone, Debug, PartialEq)]
pub struct Texture {
    size: [u32; 2],
    /// Red, green, blue, alpha.
    pixels: Vec<[u8; 4]>,
}

impl Texture {
    /// Of a size in pixels, and just as many pixels; `None` otherwise, and for none at all.
    pub fn new(size: [u32; 2], pixels: Vec<[u8; 4]>) -> Option<Self> {
        let [width, height] = size.map(|side| side as usize);
        let count = width.checked_mul(height)?;
        (count > 0 && pixels.len() == count).then_some(Self { size, pixels })
    }

    /// Width and height in pixels.
    pub fn size(&self) -> [u32; 2] {
        self.size
    }

    /// All pixels, row by row from the top: red, green, blue, alpha.
    pub fn pixels(&self) -> &[[u8; 4]] {
        &self.pixels
    }

    /// The colour at a UV: nought is the lower left corner, one the upper right, and beyond that
    /// it is repeated. Between the middles of four pixels it is mixed of them, by nearness, but not
    /// across the texture's own border, beyond which the other side of it would bleed in.
    pub fn at(&self, uv: DVec2) -> [f32; 4] {
        if !uv.is_finite() {
            return self.pixel([0, 0]);
        }
        let [width, height] = self.size.map(f64::from);
        let uv = uv - uv.floor();
        let at = DVec2::new(uv.x * width, (1.0 - uv.y) * height) - 0.5;
        let (low, share) = (at.floor(), at - at.floor());
        let [left, top] = [low.x as i64, low.y as i64];
        let mut mixed = [0.0; 4];
        for (right, down) in [(0, 0), (1, 0), (0, 1), (1, 1)] {
            let across = if right == 1 { share.x } else { 1.0 - share.x };
            let along = if down == 1 { share.y } else { 1.0 - share.y };
            let pixel = self.pixel([left + right, top + down]);
            for (sum, channel) in mixed.iter_mut().zip(pixel) {
                *sum += channel * (across * along) as f32;
            }
        }
        mixed
    }

    fn pixel(&self, [x, y]: [i64; 2]) -> [f32; 4] {
        let [width, height] = self.size.map(i64::from);
        let (x, y) = (x.clamp(0, width - 1), y.clamp(0, height - 1));
        let pixel = self.pixels[(y * width + x) as usize];
        pixel.map(|channel| f32::from(channel) / 255.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn close(a: [f32; 4], b: [f32; 4]) {
        assert!(
            a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-5),
            "{a:?} {b:?}"
        );
    }

    #[test]
    fn the_middle_of_a_pixel_is_its_colour_and_rows_begin_at_the_top() {
        let (red, green) = ([255, 0, 0, 255], [0, 255, 0, 255]);
        let (blue, white) = ([0, 0, 255, 255], [255; 4]);
        let texture = Texture::new([2, 2], vec![red, green, blue, white]).unwrap();
        let at = |u, v| texture.at(DVec2::new(u, v));
        close(at(0.25, 0.75), [1.0, 0.0, 0.0, 1.0]);
        close(at(0.75, 0.75), [0.0, 1.0, 0.0, 1.0]);
        close(at(0.25, 0.25), [0.0, 0.0, 1.0, 1.0]);
        // It is repeated, below nought too.
        close(at(-0.75, 1.75), [1.0, 0.0, 0.0, 1.0]);
        // No blue at the border, though it would follow.
        close(at(0.0, 0.999), [1.0, 0.0, 0.0, 1.0]);
        // Halfway between red and green, and in the middle of all.
        close(at(0.5, 0.75), [0.5, 0.5, 0.0, 1.0]);
        close(at(0.5, 0.5), [0.5, 0.5, 0.5, 1.0]);
    }

    #[test]
    fn a_picture_has_as_many_pixels_as_it_says() {
        assert!(Texture::new([2, 2], vec![[0; 4]; 3]).is_none());
        assert!(Texture::new([0, 7], vec![]).is_none());
        let one = Texture::new([1, 1], vec![[51, 102, 153, 255]]).unwrap();
        close(one.at(DVec2::new(f64::NAN, 0.0)), [0.2, 0.4, 0.6, 1.0]);
        close(one.at(DVec2::new(1e300, -1e300)), [0.2, 0.4, 0.6, 1.0]);
    }
}
