//! Colours: few, and different in lightness as well as in hue, so that any colour vision will
//! do.

/// Red, green, blue, from 0 to 1.
pub type Color = [f32; 3];

/// A colour from its eight-bit channels.
pub const fn rgb(r: u8, g: u8, b: u8) -> Color {
    [r as f32 / 255.0, g as f32 / 255.0, b as f32 / 255.0]
}

/// Behind everything.
pub const PAPER: Color = rgb(237, 239, 234);
/// Words and lines.
pub const INK: Color = rgb(38, 42, 48);
/// Words of less weight.
pub const FAINT_INK: Color = rgb(108, 114, 120);
/// The front of a face.
pub const CLAY: Color = rgb(200, 195, 182);
/// The front of a face among marked ones.
pub const PALE_CLAY: Color = rgb(216, 215, 208);
/// The frame of what is shown again from close by.
pub const FRAME: Color = CRIMSON;
/// The back of a face.
pub const BACK: Color = rgb(132, 76, 158);

const ORANGE: Color = rgb(226, 112, 8);
const NAVY: Color = rgb(18, 32, 112);
const VIOLET: Color = rgb(126, 70, 156);
const CRIMSON: Color = rgb(182, 20, 62);
const TEAL: Color = rgb(0, 128, 122);
const GOLD: Color = rgb(212, 170, 0);
const SKY: Color = rgb(70, 160, 222);
const ROSE: Color = rgb(222, 130, 170);
const BROWN: Color = rgb(112, 74, 44);

/// The colour of a check's marks. Checks of a kind share one.
pub fn of_check(check: &str) -> Color {
    match check {
        "open-edges" | "no-thickness" | "uvs-outside-tile" => ORANGE,
        "nonmanifold-edges" | "pinched-vertices" | "nonmanifold-uvs" => NAVY,
        "reversed-faces" | "misoriented-edges" | "mirrored-uvs" => VIOLET,
        "intersecting-faces" | "crossing-parts" | "overlapping-uvs" => CRIMSON,
        "interior-faces" | "nested-parts" | "mirror-plane-faces" => TEAL,
        "lamina-faces" | "zero-area-faces" | "zero-length-edges" | "zero-area-uvs" => GOLD,
        "stray-vertices" | "stray-edges" | "floating-parts" | "uneven-texel-density" => SKY,
        "duplicate-vertices" | "thin-walls" | "overhangs" => ROSE,
        _ => BROWN,
    }
}

/// The colour of a vertex at which not four quads meet, and of the edges that lead from it.
pub fn of_irregular(faces: usize) -> Color {
    match faces {
        3 => ORANGE,
        5 => NAVY,
        _ => CRIMSON,
    }
}

/// The colour of the `i`-th part.
pub fn of_part(i: usize) -> Color {
    const PARTS: [Color; 10] = [
        rgb(196, 188, 168),
        rgb(74, 122, 150),
        rgb(214, 148, 74),
        rgb(92, 84, 120),
        rgb(150, 178, 120),
        rgb(160, 66, 60),
        rgb(142, 196, 206),
        rgb(230, 204, 120),
        rgb(58, 88, 74),
        rgb(206, 160, 184),
    ];
    PARTS[i % PARTS.len()]
}

/// From small (dark blue) over middling (pale) to large (dark orange); `t` from -1 to 1.
pub fn of_density(t: f32) -> Color {
    let (low, middle, high) = (rgb(24, 54, 120), rgb(232, 230, 220), rgb(170, 74, 6));
    match t < 0.0 {
        true => mixed(middle, low, -t),
        false => mixed(middle, high, t),
    }
}

/// From nothing (pale) to the most there is (dark red); `t` from 0 to 1.
pub fn of_deviation(t: f32) -> Color {
    let (none, half, most) = (rgb(226, 226, 220), rgb(226, 160, 60), rgb(128, 12, 44));
    match t < 0.5 {
        true => mixed(none, half, t * 2.0),
        false => mixed(half, most, t * 2.0 - 1.0),
    }
}

/// A colour on the way from one to another.
pub fn mixed(from: Color, to: Color, share: f32) -> Color {
    let share = share.clamp(0.0, 1.0);
    [0, 1, 2].map(|i| from[i] + (to[i] - from[i]) * share)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// How light a colour is to the eye (CIE 1976 L*).
    fn lightness(color: Color) -> f32 {
        let linear = color.map(|c| {
            if c <= 0.04045 {
                c / 12.92
            } else {
                ((c + 0.055) / 1.055).powf(2.4)
            }
        });
        let y = 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2];
        116.0 * y.cbrt() - 16.0
    }

    #[test]
    fn colours_that_share_a_hue_for_some_differ_in_lightness() {
        // Pairs that people with a red-green weakness confuse by hue.
        for (a, b) in [
            (ORANGE, CRIMSON),
            (ORANGE, BROWN),
            (GOLD, ORANGE),
            (TEAL, ROSE),
        ] {
            assert!((lightness(a) - lightness(b)).abs() > 8.0, "{a:?} {b:?}");
        }
        // And with a blue weakness.
        for (a, b) in [(NAVY, TEAL), (SKY, TEAL), (VIOLET, SKY)] {
            assert!((lightness(a) - lightness(b)).abs() > 8.0, "{a:?} {b:?}");
        }
        for check in [
            "open-edges",
            "reversed-faces",
            "lamina-faces",
            "stray-vertices",
        ] {
            assert!(
                (lightness(of_check(check)) - lightness(PALE_CLAY)).abs() > 12.0,
                "{check}"
            );
        }
    }
}
