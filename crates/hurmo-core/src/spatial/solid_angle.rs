//! Solid angles of triangles (van Oosterom & Strackee 1983), and sums of them.

use glam::DVec3;
use std::f64::consts::PI;

/// The signed solid angle of a triangle seen from a point: positive from behind.
#[inline]
pub fn solid_angle(corners: [DVec3; 3], point: DVec3) -> f64 {
    let [rest, volume] = half_angle(corners, point);
    if volume == 0.0 {
        return 0.0;
    }
    2.0 * volume.atan2(rest)
}

/// A complex number whose angle is half the solid angle of a triangle seen from a point (Van Oosterom
/// & Strackee 1983).
#[inline]
fn half_angle(corners: [DVec3; 3], point: DVec3) -> [f64; 2] {
    let [a, b, c] = corners.map(|corner| corner - point);
    let (la, lb, lc) = (a.length(), b.length(), c.length());
    let volume = a.dot(b.cross(c));
    let rest = la * lb * lc + a.dot(b) * lc + b.dot(c) * la + c.dot(a) * lb;
    [rest, volume]
}

/// A sum of angles, kept as a product of complex numbers and whole turns: one arc tangent is enough
/// for all.
pub struct AngleSum {
    product: [f64; 2],
    turns: f64,
}

impl Default for AngleSum {
    fn default() -> Self {
        Self {
            product: [1.0, 0.0],
            turns: 0.0,
        }
    }
}

impl AngleSum {
    /// Adds half the solid angle of a triangle seen from a point.
    #[inline]
    pub fn add_seen(&mut self, corners: [DVec3; 3], point: DVec3) {
        let factor = half_angle(corners, point);
        // Seen edge-on it has no angle, whichever way it lies.
        if factor[1] != 0.0 {
            self.add(factor);
        }
    }

    /// Adds the angle of a complex number, more than minus half a turn and at most half a turn.
    #[inline]
    fn add(&mut self, [x, y]: [f64; 2]) {
        let [re, im] = self.product;
        let [new_re, new_im] = [re * x - im * y, re * y + im * x];
        // Two angles up to half a turn that go on to below it have passed it.
        if im >= 0.0 && y >= 0.0 && new_im < 0.0 {
            self.turns += 1.0;
        } else if im < 0.0 && y < 0.0 && new_im >= 0.0 {
            self.turns -= 1.0;
        }
        let size = new_re.abs() + new_im.abs();
        self.product = match (1e-100..1e100).contains(&size) {
            true => [new_re, new_im],
            false if size > 0.0 => [new_re / size, new_im / size],
            false => [1.0, 0.0],
        };
    }

    /// The sum.
    pub fn total(&self) -> f64 {
        let [re, im] = self.product;
        // A zero below would be half a turn backward.
        (im + 0.0).atan2(re) + self.turns * 2.0 * PI
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sum_of_angles_is_what_their_sum_is() {
        let mut state = 3u64;
        let mut number = || {
            state = state
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1);
            (state >> 11) as f64 / (1u64 << 52) as f64 - 1.0
        };
        for lean in [-0.9, 0.0, 0.9] {
            let (mut sum, mut plain) = (AngleSum::default(), 0.0);
            for i in 0..2000 {
                let size = 10f64.powi(i % 40 - 20);
                let [x, y] = [number() * size, (number() + lean) * size];
                sum.add([x, y]);
                plain += y.atan2(x);
            }
            assert!((sum.total() - plain).abs() < 1e-9, "{lean}: {plain}");
        }
    }
}
