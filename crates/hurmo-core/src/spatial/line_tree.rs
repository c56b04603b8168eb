//! The closest of many straight pieces of lines.

use super::closest::{Closest, TriangleTree};
use glam::DVec3;

/// Cosine of what two directions that run alike may differ by: 60 degrees.
const ALIKE: f64 = 0.5;

/// Pieces of lines, sorted by place.
pub struct LineTree {
    pieces: Vec<[DVec3; 2]>,
    /// Each piece as a triangle without width.
    tree: TriangleTree,
}

impl LineTree {
    /// Sorts pieces.
    pub fn of(pieces: Vec<[DVec3; 2]>) -> Self {
        let corners = |i: usize| {
            let [a, b] = pieces[i];
            [a, b, b]
        };
        Self {
            tree: TriangleTree::new(pieces.len(), corners),
            pieces,
        }
    }

    /// The closest point nearer than `limit`, with the number of its piece in place of a triangle's.
    pub fn closest_within(&self, to: DVec3, limit: f64) -> Option<Closest> {
        self.tree.closest_within(to, limit)
    }

    /// The closest point nearer than `limit`, if its piece runs along `way` one way or the other.
    pub fn closest_along(&self, to: DVec3, limit: f64, way: DVec3) -> Option<DVec3> {
        let found = self.closest_within(to, limit)?;
        let [a, b] = self.pieces[found.triangle as usize];
        let own = b - a;
        let is_alike = own.dot(way).abs() >= ALIKE * own.length() * way.length();
        is_alike.then_some(found.point)
    }

    /// The piece of this number, or the last.
    pub fn piece(&self, number: usize) -> [DVec3; 2] {
        self.pieces[number.min(self.pieces.len() - 1)]
    }

    /// The closest point, and how far along it lies: the number of its piece, and the share of that before it.
    pub fn closest_and_how_far(&self, to: DVec3) -> Option<(DVec3, f64)> {
        let found = self.closest_within(to, f64::INFINITY)?;
        let [a, b] = self.pieces[found.triangle as usize];
        let share = match a.distance(b) {
            0.0 => 0.0,
            length => a.distance(found.point) / length,
        };
        Some((found.point, f64::from(found.triangle) + share))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_closest_piece_is_found_and_how_far_along_it() {
        let corners = [DVec3::ZERO, DVec3::X * 2.0, DVec3::new(2.0, 1.0, 0.0)];
        let tree = LineTree::of(vec![[corners[0], corners[1]], [corners[1], corners[2]]]);
        let (point, along) = tree
            .closest_and_how_far(DVec3::new(0.5, -0.3, 0.0))
            .unwrap();
        assert!(point.distance(DVec3::X * 0.5) < 1e-12 && (along - 0.25).abs() < 1e-12);
        let (point, along) = tree.closest_and_how_far(DVec3::new(9.0, 0.5, 0.0)).unwrap();
        assert!(point.distance(DVec3::new(2.0, 0.5, 0.0)) < 1e-12 && (along - 1.5).abs() < 1e-12);
        let near = DVec3::new(0.5, 0.1, 0.0);
        assert!(tree.closest_along(near, 1.0, DVec3::NEG_X).is_some());
        assert!(tree.closest_along(near, 1.0, DVec3::Y).is_none());
        assert!(tree.closest_along(near, 0.05, DVec3::X).is_none());
        assert!(LineTree::of(Vec::new()).closest_and_how_far(near).is_none());
    }
}
