//! How even a surface's triangles are.
//!
//! Polygons count as the triangles that they are cut into. Angles are in degrees. A vertex has
//! six neighbours when six triangles, each joined to the next by an edge, go round it; vertices
//! on rims and where sheets branch are not counted.

use crate::mesh::{Mesh, VertexId};
use crate::parallel::of_runs;
use crate::triangulate::triangles;
use glam::DVec3;

/// Angles of even triangles lie between these, in degrees.
pub const EVEN: [f64; 2] = [35.0, 85.0];
/// Angles under this, in degrees, are narrow.
pub const NARROW: f64 = 15.0;

/// Figures of evenness.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct Evenness {
    /// How many triangles.
    pub triangles: usize,
    /// The shortest edge, in model units.
    pub shortest_edge: f64,
    /// The mean length of edges.
    pub mean_edge: f64,
    /// The longest edge.
    pub longest_edge: f64,
    /// The standard deviation of edge lengths, as a share of their mean.
    pub edge_spread: f64,
    /// The smallest angle.
    pub smallest_angle: f64,
    /// The mean of the triangles' smallest angles.
    pub mean_smallest_angle: f64,
    /// The share of angles from 35 to 85 degrees.
    pub even_angles: f64,
    /// How many angles are under 15 degrees.
    pub narrow_angles: usize,
    /// Of the vertices inside the surface, the share that has six neighbours.
    pub six_neighbours: f64,
}

/// What is summed up over triangles.
#[derive(Clone, Copy)]
struct Sums {
    shortest: f64,
    longest: f64,
    /// Of lengths and of their squares, by side of a face.
    lengths: [f64; 2],
    sides: f64,
    smallest: f64,
    smallest_sum: f64,
    even: usize,
    narrow: usize,
}

/// The angles that others are held against, by sine and cosine.
struct Angles {
    even: [(f64, f64); 2],
    narrow: (f64, f64),
}

impl Angles {
    fn new() -> Self {
        let both = |angle: f64| angle.to_radians().sin_cos();
        Self {
            even: EVEN.map(both),
            narrow: both(NARROW),
        }
    }
}

impl Sums {
    const NONE: Self = Self {
        shortest: f64::INFINITY,
        longest: 0.0,
        lengths: [0.0; 2],
        sides: 0.0,
        smallest: 180.0,
        smallest_sum: 0.0,
        even: 0,
        narrow: 0,
    };

    fn with(mut self, [a, b, c]: [DVec3; 3], angles: &Angles) -> Self {
        let sides = [b - a, c - b, a - c];
        let twice_area = sides[0].cross(sides[1]).length();
        let mut greatest: f64 = f64::NEG_INFINITY;
        for i in 0..3 {
            let length = sides[i].length();
            self.shortest = self.shortest.min(length);
            self.longest = self.longest.max(length);
            self.lengths[0] += length;
            self.lengths[1] += length * length;
            self.sides += 1.0;
            // The sine and the cosine of the angle at a corner, times the same length.
            let along = -sides[i].dot(sides[(i + 2) % 3]);
            let over = |(sine, cosine): (f64, f64)| twice_area * cosine - along * sine;
            let is_flat = twice_area == 0.0;
            let [least, most] = angles.even.map(over);
            let is_even = !is_flat && least >= 0.0 && most <= 0.0;
            let is_narrow = over(angles.narrow) < 0.0 || (is_flat && along == 0.0);
            greatest = greatest.max(along);
            self.even += usize::from(is_even);
            self.narrow += usize::from(is_narrow);
        }
        // The smallest angle has the greatest cotangent.
        let least = twice_area.atan2(greatest).to_degrees();
        self.smallest = self.smallest.min(least);
        self.smallest_sum += least;
        self
    }

    fn and(self, other: Self) -> Self {
        Self {
            shortest: self.shortest.min(other.shortest),
            longest: self.longest.max(other.longest),
            lengths: [0, 1].map(|i| self.lengths[i] + other.lengths[i]),
            sides: self.sides + other.sides,
            smallest: self.smallest.min(other.smallest),
            smallest_sum: self.smallest_sum + other.smallest_sum,
            even: self.even + other.even,
            narrow: self.narrow + other.narrow,
        }
    }
}

impl Evenness {
    /// Of a surface; `None` without faces.
    pub fn of(mesh: &Mesh) -> Option<Self> {
        let triangles = triangles(mesh);
        if triangles.is_empty() {
            return None;
        }
        let place = |v: VertexId| mesh.position(v);
        let angles = Angles::new();
        // In pieces of a fixed size, summed up in order: the same for any number of threads.
        let pieces: Vec<Sums> = of_runs(triangles.len(), 8192, |few| {
            let each = triangles[few].iter().map(|t| t.map(place));
            each.fold(Sums::NONE, |sums, triangle| sums.with(triangle, &angles))
        });
        let sums = pieces.into_iter().fold(Sums::NONE, Sums::and);
        let mean = sums.lengths[0] / sums.sides;
        let variance = (sums.lengths[1] / sums.sides - mean * mean).max(0.0);
        let count = triangles.len() as f64;
        Some(Self {
            triangles: triangles.len(),
            shortest_edge: sums.shortest,
            mean_edge: mean,
            longest_edge: sums.longest,
            edge_spread: if mean > 0.0 {
                variance.sqrt() / mean
            } else {
                0.0
            },
            smallest_angle: sums.smallest,
            mean_smallest_angle: sums.smallest_sum / count,
            even_angles: sums.even as f64 / (3.0 * count),
            narrow_angles: sums.narrow,
            six_neighbours: six_neighbours(mesh, &triangles),
        })
    }
}

fn six_neighbours(mesh: &Mesh, triangles: &[[VertexId; 3]]) -> f64 {
    let vertices = mesh.vertex_count();
    // Round a vertex inside a sheet the ways out and the ways in are the same vertices: sums of
    // their numbers agree, of their squares too. Where they don't, it is no such vertex.
    let mut count = vec![0u32; vertices];
    let mut balance = vec![[0i64; 2]; vertices];
    for triangle in triangles {
        for i in 0..3 {
            let [v, x, y] = [0, 1, 2].map(|k| triangle[(i + k) % 3].index());
            count[v] += 1;
            balance[v][0] += x as i64 - y as i64;
            balance[v][1] = balance[v][1]
                .wrapping_add((x as i64).wrapping_mul(x as i64))
                .wrapping_sub((y as i64).wrapping_mul(y as i64));
        }
    }
    let inside = (0..vertices).filter(|&v| count[v] > 0 && balance[v] == [0, 0]);
    let (mut all, mut six) = (0usize, 0usize);
    for v in inside {
        all += 1;
        six += usize::from(count[v] == 6);
    }
    six as f64 / all.max(1) as f64
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;

    #[test]
    fn a_grid_of_squares_is_known() {
        let grid = shapes::grid(4, 4, 4.0, 4.0);
        let even = Evenness::of(&grid).unwrap();
        assert_eq!(even.triangles, 32);
        assert_eq!((even.shortest_edge, even.longest_edge), (1.0, 2f64.sqrt()));
        assert!((even.smallest_angle - 45.0).abs() < 1e-9);
        assert!((even.mean_smallest_angle - 45.0).abs() < 1e-9);
        // Two of three angles have 45 degrees, one has 90.
        assert!((even.even_angles - 2.0 / 3.0).abs() < 1e-9);
        assert_eq!(even.narrow_angles, 0);
        let (one, diagonal) = (2.0 / 3.0, 2f64.sqrt() / 3.0);
        assert!((even.mean_edge - one - diagonal).abs() < 1e-12);
    }

    #[test]
    fn neighbours_are_counted_inside_only() {
        // An icosahedron divided once: twelve vertices of five neighbours, thirty of six.
        let sphere = Evenness::of(&shapes::sphere(1.0, 1)).unwrap();
        assert!((sphere.six_neighbours - 30.0 / 42.0).abs() < 1e-12);
        let triangle = Mesh::from_triangles(
            vec![DVec3::ZERO, DVec3::X, DVec3::Y],
            &[[VertexId(0), VertexId(1), VertexId(2)]],
        );
        assert_eq!(
            Evenness::of(&triangle.unwrap()).unwrap().six_neighbours,
            0.0
        );
        assert_eq!(Evenness::of(&Mesh::default()), None);
    }
}
