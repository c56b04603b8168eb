//! Words in a picture: a monospaced face in two sizes, from bitmaps with soft edges.

use noto_sans_mono_bitmap::{FontWeight, RasterHeight, get_raster, get_raster_width};

/// How words are set.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Type {
    /// Small.
    Plain,
    /// Small and bold.
    Bold,
    /// Larger and bold.
    Title,
}

impl Type {
    fn raster(self) -> (FontWeight, RasterHeight) {
        match self {
            Type::Plain => (FontWeight::Regular, RasterHeight::Size16),
            Type::Bold => (FontWeight::Bold, RasterHeight::Size16),
            Type::Title => (FontWeight::Bold, RasterHeight::Size20),
        }
    }

    /// Height of a line, in pixels.
    pub fn line(self) -> u32 {
        self.raster().1.val() as u32 + 3
    }

    /// Width of a letter, in pixels.
    pub fn letter(self) -> u32 {
        let (weight, height) = self.raster();
        get_raster_width(weight, height) as u32
    }

    /// How many letters fit into a width.
    pub fn fits(self, width: u32) -> usize {
        (width / self.letter()) as usize
    }
}

/// Visits the pixels of a line of words: x, y, and how much ink, from 0 to 1.
pub(crate) fn inked(words: &str, kind: Type, mut visit: impl FnMut(u32, u32, f32)) {
    let (weight, height) = kind.raster();
    for (i, letter) in words.chars().enumerate() {
        let raster = get_raster(letter, weight, height)
            .or_else(|| get_raster('?', weight, height))
            .expect("the face has a question mark");
        for (y, row) in raster.rows().enumerate() {
            for (x, &ink) in row.iter().enumerate().filter(|(_, ink)| **ink > 0) {
                visit(
                    i as u32 * kind.letter() + x as u32,
                    y as u32,
                    f32::from(ink) / 255.0,
                );
            }
        }
    }
}

/// Words cut to this many letters, the last of which then are dots.
pub fn cut(words: &str, letters: usize) -> String {
    if words.chars().count() <= letters {
        return words.to_string();
    }
    let kept: String = words.chars().take(letters.saturating_sub(2)).collect();
    format!("{}..", kept.trim_end())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_leave_ink_within_their_width() {
        let mut ink = 0.0;
        inked("P1 × 2 é", Type::Bold, |x, y, amount| {
            assert!(x < 8 * Type::Bold.letter() && y < Type::Bold.line());
            ink += amount;
        });
        assert!(ink > 100.0);
        assert_eq!(cut("a long caption", 8), "a long..");
        assert_eq!(cut("short", 8), "short");
    }
}
