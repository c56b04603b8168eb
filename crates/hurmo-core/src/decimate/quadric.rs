//! Quadric errors: the weighted sum of squared distances to planes (Garland & Heckbert 1997).

use glam::{DMat3, DVec3};
use std::ops::{Add, AddAssign};

/// `xᵀAx + 2bᵀx + c`, with `A` symmetric: in units of area times squared length.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(super) struct Quadric {
    /// xx, xy, xz, yy, yz, zz.
    a: [f64; 6],
    b: DVec3,
    c: f64,
}

impl Quadric {
    /// The squared distance to the plane through `point` with this unit normal.
    pub fn plane(normal: DVec3, point: DVec3, weight: f64) -> Self {
        let n = normal;
        let d = -n.dot(point);
        Self {
            a: [
                n.x * n.x,
                n.x * n.y,
                n.x * n.z,
                n.y * n.y,
                n.y * n.z,
                n.z * n.z,
            ]
            .map(|x| x * weight),
            b: n * (d * weight),
            c: d * d * weight,
        }
    }

    /// The squared distance to a point.
    pub fn place(point: DVec3, weight: f64) -> Self {
        Self {
            a: [weight, 0.0, 0.0, weight, 0.0, weight],
            b: point * -weight,
            c: point.length_squared() * weight,
        }
    }

    /// The error at a point.
    #[inline]
    pub fn at(&self, p: DVec3) -> f64 {
        let [xx, xy, xz, yy, yz, zz] = self.a;
        let ax = DVec3::new(
            xx * p.x + xy * p.y + xz * p.z,
            xy * p.x + yy * p.y + yz * p.z,
            xz * p.x + yz * p.y + zz * p.z,
        );
        (p.dot(ax + 2.0 * self.b) + self.c).max(0.0)
    }

    /// Sum of the weights of all planes.
    #[inline]
    pub fn weight(&self) -> f64 {
        self.a[0] + self.a[3] + self.a[5]
    }

    /// The point of least error. Where the planes leave it free, it stays by `near`: a faint
    /// pull towards that point makes the system solvable and decides what is left open.
    #[inline]
    pub fn least_near(&self, near: DVec3) -> Option<DVec3> {
        let pull = self.weight() * 1e-5;
        if pull <= 0.0 {
            return None;
        }
        let [xx, xy, xz, yy, yz, zz] = self.a;
        let matrix = DMat3::from_cols(
            DVec3::new(xx + pull, xy, xz),
            DVec3::new(xy, yy + pull, yz),
            DVec3::new(xz, yz, zz + pull),
        );
        // Solved for the way from `near`, so that nothing is lost far from the origin.
        let ax = DVec3::new(
            xx * near.x + xy * near.y + xz * near.z,
            xy * near.x + yy * near.y + yz * near.z,
            xz * near.x + yz * near.y + zz * near.z,
        );
        let way = matrix.inverse() * -(ax + self.b);
        let point = near + way;
        point.is_finite().then_some(point)
    }
}

impl Add for Quadric {
    type Output = Self;

    #[inline]
    fn add(mut self, other: Self) -> Self {
        self += other;
        self
    }
}

impl AddAssign for Quadric {
    #[inline]
    fn add_assign(&mut self, other: Self) {
        for (x, y) in self.a.iter_mut().zip(other.a) {
            *x += y;
        }
        self.b += other.b;
        self.c += other.c;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_corner_of_three_planes_is_found() {
        let corner = DVec3::new(1.0, -2.0, 3.0);
        let sum = [DVec3::X, DVec3::Y, DVec3::new(0.6, 0.0, 0.8)]
            .map(|normal| Quadric::plane(normal, corner, 2.0))
            .into_iter()
            .fold(Quadric::default(), Add::add);
        let found = sum.least_near(corner + DVec3::splat(1e-3)).unwrap();
        assert!(found.distance(corner) < 1e-6, "{found}");
        assert!(sum.at(corner) < 1e-12);
        assert!((sum.at(corner + DVec3::Y) - 2.0).abs() < 1e-9);
    }

    #[test]
    fn one_plane_leaves_the_point_where_it_was() {
        let plane = Quadric::plane(DVec3::Z, DVec3::ZERO, 1.0);
        let found = plane.least_near(DVec3::new(5.0, 7.0, 1.0)).unwrap();
        assert!(found.distance(DVec3::new(5.0, 7.0, 0.0)) < 1e-4);
    }
}
