//! How square the quads of a mesh are that has mostly these, and where it is irregular.

use crate::geometry::corner_angle;
use crate::mesh::{EdgeId, Mesh, VertexId};
use crate::topology::Edges;

/// Angles of square faces lie between these, in degrees.
pub const SQUARE: [f64; 2] = [60.0, 120.0];
/// Angles under the first are sharp, and over the second flat, in degrees.
pub const SHARP_OR_FLAT: [f64; 2] = [25.0, 160.0];

/// Figures of quads. Vertices on rims are never irregular.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct QuadShape {
    /// How many quads.
    pub quads: usize,
    /// How many other faces.
    pub others: usize,
    /// The shortest side, in model units.
    pub shortest_edge: f64,
    /// The mean length of sides.
    pub mean_edge: f64,
    /// The longest side.
    pub longest_edge: f64,
    /// The standard deviation of the lengths of sides, as a share of their mean.
    pub edge_spread: f64,
    /// The smallest angle.
    pub smallest_angle: f64,
    /// The largest angle.
    pub largest_angle: f64,
    /// The share of angles from 60 to 120 degrees.
    pub square_angles: f64,
    /// How many angles are under 25 or over 160 degrees.
    pub sharp_or_flat_angles: usize,
    /// Vertices inside the surface at which three faces meet.
    pub of_three: usize,
    /// At which five meet.
    pub of_five: usize,
    /// At which two meet, or more than five.
    pub of_others: usize,
}

impl QuadShape {
    /// Measures; `None` of a mesh in which no more than half of the faces are quads.
    pub fn of(mesh: &Mesh) -> Option<Self> {
        let quads = mesh.faces().filter(|(_, face)| face.len() == 4).count();
        if 2 * quads <= mesh.face_count() {
            return None;
        }
        let edges = Edges::of(mesh);
        let mut made = Self {
            quads,
            others: mesh.face_count() - quads,
            ..Self::default()
        };
        made.measure_sides(mesh, &edges);
        made.measure_angles(mesh);
        made.count_irregular(mesh, &edges);
        Some(made)
    }

    fn measure_sides(&mut self, mesh: &Mesh, edges: &Edges) {
        let length = |edge: EdgeId| {
            let [a, b] = edges.ends(edge).map(|v| mesh.position(v));
            a.distance(b)
        };
        let count = edges.len() as f64;
        let (mut shortest, mut longest, mut sum, mut squares) = (f64::INFINITY, 0.0f64, 0.0, 0.0);
        for length in edges.ids().map(length) {
            shortest = shortest.min(length);
            longest = longest.max(length);
            sum += length;
            squares += length * length;
        }
        self.shortest_edge = shortest;
        self.longest_edge = longest;
        self.mean_edge = sum / count;
        let variance = (squares / count - self.mean_edge.powi(2)).max(0.0);
        if self.mean_edge > 0.0 {
            self.edge_spread = variance.sqrt() / self.mean_edge;
        }
    }

    fn measure_angles(&mut self, mesh: &Mesh) {
        let (mut square, mut smallest, mut largest) = (0usize, 180.0f64, 0.0f64);
        for (_, face) in mesh.faces().filter(|(_, face)| face.len() == 4) {
            let at = |i: usize| mesh.position(face[i % 4]);
            for i in 0..4 {
                let angle = corner_angle(at(i), [at(i + 1), at(i + 3)]).to_degrees();
                square += usize::from((SQUARE[0]..=SQUARE[1]).contains(&angle));
                let is_between = (SHARP_OR_FLAT[0]..=SHARP_OR_FLAT[1]).contains(&angle);
                self.sharp_or_flat_angles += usize::from(!is_between);
                smallest = smallest.min(angle);
                largest = largest.max(angle);
            }
        }
        self.square_angles = square as f64 / (4 * self.quads) as f64;
        self.smallest_angle = smallest;
        self.largest_angle = largest;
    }

    fn count_irregular(&mut self, mesh: &Mesh, edges: &Edges) {
        let mut quads = vec![0u32; mesh.vertex_count()];
        let mut is_inside = vec![true; mesh.vertex_count()];
        mesh.corners().iter().for_each(|v| quads[v.index()] += 1);
        for edge in edges.ids().filter(|&edge| edges.sides(edge).len() != 2) {
            for vertex in edges.ends(edge) {
                is_inside[vertex.index()] = false;
            }
        }
        let inside = mesh
            .vertex_ids()
            .filter(|v: &VertexId| is_inside[v.index()]);
        for vertex in inside {
            match quads[vertex.index()] {
                0 | 4 => {}
                3 => self.of_three += 1,
                5 => self.of_five += 1,
                _ => self.of_others += 1,
            }
        }
    }

    /// How many vertices are irregular.
    pub fn irregular(&self) -> usize {
        self.of_three + self.of_five + self.of_others
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;
    use glam::DVec3;

    #[test]
    fn a_cube_of_squares_is_irregular_at_its_corners_only() {
        let mut cube = shapes::cuboid(DVec3::ZERO, DVec3::splat(2.0), 4);
        let shape = QuadShape::of(&cube).unwrap();
        assert_eq!((shape.of_three, shape.irregular(), shape.quads), (8, 8, 96));
        assert!((shape.shortest_edge - 0.5).abs() < 1e-12 && shape.edge_spread < 1e-6);
        assert!((shape.smallest_angle - 90.0).abs() < 1e-9);
        assert_eq!((shape.square_angles, shape.sharp_or_flat_angles), (1.0, 0));
        // Sheared to 45 degrees, two corners of every face that stands along are out of bounds.
        cube.positions_mut().iter_mut().for_each(|at| at.x += at.y);
        let shape = QuadShape::of(&cube).unwrap();
        assert!((shape.smallest_angle - 45.0).abs() < 1e-9);
        assert!((shape.square_angles - 4.0 / 6.0).abs() < 1e-9);
        assert!(QuadShape::of(&shapes::sphere(1.0, 1)).is_none());
    }
}
