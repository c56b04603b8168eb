//! What constructions are worked out in: balls, residues, or whole numbers without limit.

use super::ball::Ball;
use super::residue::{Residue, parts};
use dashu_int::IBig;

/// Sums, differences and products, and what a coordinate is.
pub(super) trait Ring: Clone {
    /// A finite coordinate, in units of 2^`unit`, of which it must be a multiple (where that matters).
    fn of(coordinate: f64, unit: i32) -> Self;
    fn plus(&self, other: &Self) -> Self;
    fn minus(&self, other: &Self) -> Self;
    fn times(&self, other: &Self) -> Self;
}

/// A ring of numbers that know their sums, differences and products, and need no unit.
macro_rules! ring {
    ($number:ty, $of:path) => {
        impl Ring for $number {
            #[inline]
            fn of(coordinate: f64, _: i32) -> Self {
                $of(coordinate)
            }

            #[inline]
            fn plus(&self, other: &Self) -> Self {
                *self + *other
            }

            #[inline]
            fn minus(&self, other: &Self) -> Self {
                *self - *other
            }

            #[inline]
            fn times(&self, other: &Self) -> Self {
                *self * *other
            }
        }
    };
}

ring!(Ball, Ball::exactly);
ring!(Residue, Residue::of);

impl Ring for IBig {
    fn of(coordinate: f64, unit: i32) -> Self {
        let (mantissa, exponent) = parts(coordinate);
        match mantissa {
            0 => IBig::ZERO,
            _ => IBig::from(mantissa) << (exponent - unit) as usize,
        }
    }

    fn plus(&self, other: &Self) -> Self {
        self + other
    }

    fn minus(&self, other: &Self) -> Self {
        self - other
    }

    fn times(&self, other: &Self) -> Self {
        self * other
    }
}

/// Three numbers of a ring.
pub(super) type Triple<R> = [R; 3];

pub(super) fn minus<R: Ring>(a: &Triple<R>, b: &Triple<R>) -> Triple<R> {
    [0, 1, 2].map(|i| a[i].minus(&b[i]))
}

pub(super) fn plus<R: Ring>(a: &Triple<R>, b: &Triple<R>) -> Triple<R> {
    [0, 1, 2].map(|i| a[i].plus(&b[i]))
}

pub(super) fn scaled<R: Ring>(a: &Triple<R>, by: &R) -> Triple<R> {
    [0, 1, 2].map(|i| a[i].times(by))
}

pub(super) fn dot<R: Ring>(a: &Triple<R>, b: &Triple<R>) -> R {
    let [x, y, z] = [0, 1, 2].map(|i| a[i].times(&b[i]));
    x.plus(&y).plus(&z)
}

pub(super) fn cross<R: Ring>(a: &Triple<R>, b: &Triple<R>) -> Triple<R> {
    [(1, 2), (2, 0), (0, 1)].map(|(i, j)| a[i].times(&b[j]).minus(&a[j].times(&b[i])))
}
