//! Numbers modulo the prime 2⁶¹ - 1: equal points have equal residues, so that one table finds
//! all that may be equal (fingerprints by modular arithmetic; Rabin 1981, Freivalds 1977). Whether
//! they are is then worked out exactly.

use std::ops::{Add, Mul, Sub};

const PRIME: u64 = (1 << 61) - 1;

/// A number modulo 2⁶¹ - 1.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub(super) struct Residue(u64);

impl Residue {
    /// The residue of a finite number: a power of two only turns its bits round.
    pub fn of(number: f64) -> Self {
        let (mantissa, exponent) = parts(number);
        let turn = i64::from(exponent).rem_euclid(61) as u32;
        let size = Self::reduced(u128::from(mantissa.unsigned_abs()) << turn);
        match mantissa < 0 {
            true => Self(0) - size,
            false => size,
        }
    }

    /// What it takes to one; 0 for 0.
    pub fn inverse(self) -> Self {
        // Fermat: the power by two less than the prime.
        let (mut power, mut square, mut left) = (Self(1), self, PRIME - 2);
        while left > 0 {
            if left & 1 == 1 {
                power = power * square;
            }
            square = square * square;
            left >>= 1;
        }
        power
    }

    fn reduced(wide: u128) -> Self {
        let folded = (wide & u128::from(PRIME)) + (wide >> 61);
        let folded = (folded & u128::from(PRIME)) as u64 + (folded >> 61) as u64;
        Self(if folded >= PRIME {
            folded - PRIME
        } else {
            folded
        })
    }
}

/// A finite number as a whole number and the power of two to multiply it by.
pub(super) fn parts(number: f64) -> (i64, i32) {
    let bits = number.to_bits();
    let exponent = ((bits >> 52) & 0x7ff) as i32;
    let fraction = (bits & ((1 << 52) - 1)) as i64;
    let (size, exponent) = match exponent {
        0 => (fraction, -1074),
        _ => (fraction | (1 << 52), exponent - 1075),
    };
    if size == 0 {
        return (0, 0);
    }
    let even = size.trailing_zeros();
    let odd = size >> even;
    let sign = if bits >> 63 == 1 { -1 } else { 1 };
    (sign * odd, exponent + even as i32)
}

impl Add for Residue {
    type Output = Self;

    fn add(self, other: Self) -> Self {
        let sum = self.0 + other.0;
        Self(if sum >= PRIME { sum - PRIME } else { sum })
    }
}

impl Sub for Residue {
    type Output = Self;

    fn sub(self, other: Self) -> Self {
        self + Self(if other.0 == 0 { 0 } else { PRIME - other.0 })
    }
}

impl Mul for Residue {
    type Output = Self;

    fn mul(self, other: Self) -> Self {
        Self::reduced(u128::from(self.0) * u128::from(other.0))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn fractions_behave_as_numbers_do() {
        let of = Residue::of;
        assert_eq!(of(0.75) + of(0.25), of(1.0));
        assert_eq!(of(-0.5) * of(6.0), of(-3.0));
        assert_eq!(of(3.0) * of(3.0).inverse(), of(1.0));
        assert_eq!(of(0.0), of(-0.0));
        assert_eq!(of(2f64.powi(-61)), of(1.0));
        assert_eq!(of(5e-324) * of(2f64.powi(500)), of(2f64.powi(-574)));
    }

    proptest! {
        #[test]
        fn a_number_is_its_parts(number in any::<f64>().prop_filter("finite", |n| n.is_finite())) {
            let (mantissa, exponent) = parts(number);
            let half = exponent / 2;
            let back = mantissa as f64 * 2f64.powi(half) * 2f64.powi(exponent - half);
            prop_assert_eq!(back, number);
        }

        #[test]
        fn sums_and_products_agree_with_whole_numbers(
            a in -(1i64 << 30)..1 << 30, b in -(1i64 << 30)..1 << 30,
        ) {
            let [x, y] = [a, b].map(|n| Residue::of(n as f64));
            let whole = |n: i64| {
                let (high, low) = (n >> 30, n & ((1 << 30) - 1));
                Residue::of(high as f64) * Residue::of((1u64 << 30) as f64) + Residue::of(low as f64)
            };
            prop_assert_eq!(x * y, whole(a * b));
            prop_assert_eq!(x - y, whole(a - b));
        }
    }
}
