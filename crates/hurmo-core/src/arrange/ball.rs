//! Numbers that know how far off they may be: a middle and a radius (midpoint-radius interval
//! arithmetic, Rump 1999). A sign that the radius leaves open is worked out exactly elsewhere.

use std::cmp::Ordering::{self, Greater, Less};
use std::ops::{Add, Div, Mul, Neg, Sub};

/// Over half the distance from 1 to the next number: no rounding errs by more, in proportion.
const ROUNDING: f64 = 1.2e-16;
/// Makes up for the rounding of the radii themselves.
const GROWN: f64 = 1.0 + 1e-14;

/// All numbers within `radius` of `middle`.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(super) struct Ball {
    pub middle: f64,
    pub radius: f64,
}

impl Ball {
    /// One number.
    pub fn exactly(middle: f64) -> Self {
        Self {
            middle,
            radius: 0.0,
        }
    }

    /// The sign of all its numbers, if they have one.
    #[inline]
    pub fn sign(self) -> Option<Ordering> {
        if self.middle > self.radius {
            Some(Greater)
        } else if self.middle < -self.radius {
            Some(Less)
        } else if self.middle == 0.0 && self.radius == 0.0 {
            Some(Ordering::Equal)
        } else {
            None
        }
    }

    #[inline]
    fn is_zero(self) -> bool {
        self.middle == 0.0 && self.radius == 0.0
    }

    #[inline]
    fn rounded(middle: f64, radius: f64) -> Self {
        // What underflows errs by more than in proportion.
        let rounding = middle.abs() * ROUNDING + f64::MIN_POSITIVE;
        Self {
            middle,
            radius: (radius + rounding) * GROWN,
        }
    }
}

impl Add for Ball {
    type Output = Self;

    #[inline]
    fn add(self, other: Self) -> Self {
        let middle = self.middle + other.middle;
        // What rounding took from the sum, exactly (Knuth): nothing where coordinates are short.
        let part = middle - self.middle;
        let lost = (self.middle - (middle - part)) + (other.middle - part);
        let radius = self.radius + other.radius + lost.abs();
        Self {
            middle,
            radius: radius * GROWN,
        }
    }
}

impl Neg for Ball {
    type Output = Self;

    #[inline]
    fn neg(self) -> Self {
        Self {
            middle: -self.middle,
            radius: self.radius,
        }
    }
}

impl Sub for Ball {
    type Output = Self;

    #[inline]
    fn sub(self, other: Self) -> Self {
        self + -other
    }
}

impl Mul for Ball {
    type Output = Self;

    #[inline]
    fn mul(self, other: Self) -> Self {
        if self.is_zero() || other.is_zero() {
            return Self::default();
        }
        let middle = self.middle * other.middle;
        let radius =
            self.middle.abs() * other.radius + self.radius * (other.middle.abs() + other.radius);
        Self::rounded(middle, radius)
    }
}

impl Div for Ball {
    type Output = Self;

    /// Without bound where the divisor may be zero.
    fn div(self, by: Self) -> Self {
        let least = by.middle.abs() - by.radius;
        // A divisor that is hardly known leaves everything open.
        if least.is_nan() || least <= by.middle.abs() * 1e-3 {
            return Self {
                middle: 0.0,
                radius: f64::INFINITY,
            };
        }
        let middle = self.middle / by.middle;
        let radius = (self.radius + middle.abs() * by.radius) / least;
        Self::rounded(middle, radius * GROWN)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use dashu_int::IBig;
    use proptest::prelude::*;

    fn ball(middle: i32, radius: i32) -> Ball {
        Ball {
            middle: f64::from(middle),
            radius: f64::from(radius),
        }
    }

    #[test]
    fn whole_numbers_add_up_exactly_and_zero_takes_all() {
        let sum = Ball::exactly(3.0) + Ball::exactly(4.0) - Ball::exactly(7.0);
        assert_eq!(sum.sign(), Some(Ordering::Equal));
        let none = Ball::exactly(0.0) * ball(5, 900);
        assert_eq!(none.sign(), Some(Ordering::Equal));
        let third = Ball::exactly(1.0) / Ball::exactly(3.0);
        let one = third + third + third;
        assert!(one.radius > 0.0 && (one - Ball::exactly(1.0)).sign().is_none());
        assert_eq!((third / ball(1, 2)).sign(), None);
    }

    proptest! {
        /// Numbers too long for a double, worked out exactly beside it.
        #[test]
        fn the_exact_value_lies_in_the_ball(
            numbers in prop::collection::vec(any::<i64>(), 6),
        ) {
            let exact: Vec<IBig> = numbers.iter().map(|&n| IBig::from(n)).collect();
            let balls: Vec<Ball> = numbers
                .iter()
                .map(|&n| Ball { middle: n as f64, radius: 1024.0 })
                .collect();
            let value = &exact[0] * &exact[1] - &exact[2] * &exact[3] + &exact[4] * &exact[5];
            let computed = balls[0] * balls[1] - balls[2] * balls[3] + balls[4] * balls[5];
            let off = (value - IBig::try_from(computed.middle).unwrap()).to_f64().value().abs();
            prop_assert!(off <= computed.radius);
            let quotient = balls[0] / balls[1];
            if quotient.radius.is_finite() {
                let back = quotient * balls[1] - balls[0];
                prop_assert!(back.middle.abs() <= back.radius);
            }
        }
    }
}
