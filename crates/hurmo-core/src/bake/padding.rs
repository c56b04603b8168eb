//! Pixels beyond what was baked: drawn on from those beside them, so that nothing else shines through
//! where a texture is looked at between its pixels, or from far away.

use crate::parallel::mapped;

/// Draws on this many pixels far; what is farther away has the mean of all, or `none` where there is
/// nothing.
pub fn filled(
    mut pixels: Vec<Option<[f32; 4]>>,
    size: usize,
    far: usize,
    none: [f32; 4],
) -> Vec<[f32; 4]> {
    let mean = mean(&pixels).unwrap_or(none);
    for _ in 0..far {
        let before = pixels;
        let drawn = |at: usize| before[at].or_else(|| round(&before, size, at));
        pixels = mapped(before.len(), 4096, drawn);
    }
    pixels
        .into_iter()
        .map(|pixel| pixel.unwrap_or(mean))
        .collect()
}

/// The mean of the pixels round one, as far as there is something.
fn round(pixels: &[Option<[f32; 4]>], size: usize, at: usize) -> Option<[f32; 4]> {
    let (row, column) = (at / size, at % size);
    let near = |i: usize| i.saturating_sub(1)..(i + 2).min(size);
    let beside = near(row).flat_map(|row| near(column).map(move |column| row * size + column));
    let (mut sum, mut count) = ([0.0; 4], 0.0);
    for pixel in beside.filter_map(|at| pixels[at]) {
        sum.iter_mut()
            .zip(pixel)
            .for_each(|(sum, channel)| *sum += channel);
        count += 1.0;
    }
    (count > 0.0).then(|| sum.map(|channel| channel / count))
}

fn mean(pixels: &[Option<[f32; 4]>]) -> Option<[f32; 4]> {
    let (mut sum, mut count) = ([0.0f64; 4], 0.0);
    for pixel in pixels.iter().flatten() {
        sum.iter_mut()
            .zip(pixel)
            .for_each(|(sum, &channel)| *sum += f64::from(channel));
        count += 1.0;
    }
    (count > 0.0).then(|| sum.map(|channel| (channel / count) as f32))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pixels_are_drawn_on_as_far_as_asked() {
        let mut pixels = vec![None; 25];
        pixels[12] = Some([1.0, 0.0, 0.5, 1.0]);
        pixels[10] = Some([0.0, 1.0, 0.5, 1.0]);
        let one = filled(pixels.clone(), 5, 1, [0.0; 4]);
        assert_eq!(one[12], [1.0, 0.0, 0.5, 1.0]);
        assert_eq!(one[13], one[12]);
        assert_eq!(one[5], [0.0, 1.0, 0.5, 1.0]);
        // Between the two, both.
        assert_eq!(one[11], [0.5, 0.5, 0.5, 1.0]);
        // Two away, the mean.
        assert_eq!(one[14], [0.5, 0.5, 0.5, 1.0]);
        assert_eq!(filled(pixels, 5, 2, [0.0; 4])[14], [1.0, 0.0, 0.5, 1.0]);
        assert_eq!(filled(vec![None; 4], 2, 3, [0.25; 4]), vec![[0.25; 4]; 4]);
    }
}
