//! Colours as light has them, linear, and as screens have them (IEC 61966-2-1).

/// A linear share of light, as on a screen.
pub fn on_screen(linear: f32) -> f32 {
    match linear <= 0.003_130_8 {
        true => linear * 12.92,
        false => (1.055 * f64::from(linear).powf(1.0 / 2.4) - 0.055) as f32,
    }
}

/// The other way.
pub fn linear(on_screen: f32) -> f32 {
    match on_screen <= 0.040_45 {
        true => on_screen / 12.92,
        false => ((f64::from(on_screen) + 0.055) / 1.055).powf(2.4) as f32,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_is_the_other_backwards() {
        for i in 0..=1000 {
            let share = i as f32 / 1000.0;
            assert!((linear(on_screen(share)) - share).abs() < 1e-6);
        }
        assert!((on_screen(0.5) - 0.735_36).abs() < 1e-4);
        assert_eq!([0.0, 1.0].map(on_screen), [0.0, 1.0]);
        assert_eq!([0.0, 1.0].map(linear), [0.0, 1.0]);
    }
}
