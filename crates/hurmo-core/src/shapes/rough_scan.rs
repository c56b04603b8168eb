//! A surface as scanners give it: the zero set of a distance field that was sampled on a lattice,
//! contoured cell by cell, with coordinates rounded to a grid.
//!
//! ```text
//! blobs, noise ─▶ distances at lattice points ─▶ marching tetrahedra ─▶ rounded coordinates
//! ```
//!
//! Where the surface passes close by a lattice point, vertices crowd and triangles become needles,
//! as they do in every scan that was fused on a lattice (Curless & Levoy 1996, A volumetric method
//! for building complex models from range images). Contouring follows Doi & Koide 1991, An efficient
//! method of triangulating equi-valued surfaces by using tetrahedral cells.

use crate::mesh::{Mesh, VertexId};
use glam::DVec3;
use rustc_hash::FxHashMap;

/// Coordinates are rounded to this many steps across the shape.
const STEPS: f64 = 40_000.0;

/// Balls that run into each other: middle and radius.
const BLOBS: [([f64; 3], f64); 6] = [
    ([0.0, 0.0, 0.0], 0.42),
    ([0.45, 0.1, 0.05], 0.28),
    ([-0.4, 0.22, -0.08], 0.25),
    ([0.1, -0.45, 0.12], 0.22),
    ([0.72, 0.3, 0.1], 0.14),
    ([-0.15, 0.1, 0.5], 0.2),
];

/// A closed rough scan over a lattice of this many cells along each axis. Its triangles number about
/// 7 for each cell at the surface: some 20 times the square of `cells`.
pub fn rough_scan(cells: usize) -> Mesh {
    let lattice = Lattice::of(cells);
    let mut net = Net::default();
    for z in 0..cells {
        for y in 0..cells {
            for x in 0..cells {
                lattice.contour([x, y, z], &mut net);
            }
        }
    }
    let triangles: Vec<[VertexId; 3]> = net.triangles;
    Mesh::from_triangles(net.positions, &triangles).expect("a contour is sound")
}

/// The distance to the blobs, smoothly joined, and roughened.
fn distance(at: DVec3) -> f64 {
    let near: f64 = BLOBS
        .iter()
        .map(|&(middle, radius)| (-14.0 * (at.distance(middle.into()) - radius)).exp())
        .sum();
    let waves = (23.0 * at.x).sin() * (19.0 * at.y).sin() * (29.0 * at.z).sin();
    let grain = (181.0 * at.x + 67.0 * at.z).sin() * (149.0 * at.y - 83.0 * at.x).sin();
    -near.ln() / 14.0 + 0.006 * waves + 0.0004 * grain
}

struct Lattice {
    cells: usize,
    distances: Vec<f64>,
}

#[derive(Default)]
struct Net {
    positions: Vec<DVec3>,
    triangles: Vec<[VertexId; 3]>,
    /// By the two lattice points that it lies between.
    between: FxHashMap<[u32; 2], VertexId>,
}

impl Lattice {
    fn of(cells: usize) -> Self {
        let side = cells + 1;
        let place = |i: usize| Self::place_of(cells, i);
        Self {
            distances: (0..side * side * side)
                .map(|i| distance(place(i)))
                .collect(),
            cells,
        }
    }

    /// Where a lattice point is: from -1 to 1 along each axis.
    fn place_of(cells: usize, point: usize) -> DVec3 {
        let side = cells + 1;
        let at = [point % side, point / side % side, point / (side * side)];
        DVec3::from_array(at.map(|i| 2.0 * i as f64 / cells as f64 - 1.0))
    }

    /// The triangles of a cell, cut into six tetrahedra round its long diagonal.
    fn contour(&self, cell: [usize; 3], net: &mut Net) {
        let side = self.cells + 1;
        let corner = |bits: usize| {
            let [x, y, z] = [0, 1, 2].map(|k| cell[k] + (bits >> k & 1));
            (x + side * (y + side * z)) as u32
        };
        let corners = [0, 1, 2, 3, 4, 5, 6, 7].map(corner);
        let inside = corners.map(|c| self.distances[c as usize] < 0.0);
        if inside == [inside[0]; 8] {
            return;
        }
        for [b, c] in [[1, 3], [3, 2], [2, 6], [6, 4], [4, 5], [5, 1]] {
            self.contour_tetrahedron([0, b, c, 7].map(|k| corners[k]), net);
        }
    }

    fn contour_tetrahedron(&self, corners: [u32; 4], net: &mut Net) {
        let is_in = |c: &u32| self.distances[*c as usize] < 0.0;
        let (inside, outside): (Vec<u32>, Vec<u32>) = corners.into_iter().partition(is_in);
        let mut vertex = |a: u32, b: u32| self.vertex(a, b, net);
        let polygon: Vec<VertexId> = match (&inside[..], &outside[..]) {
            (&[a], &[b, c, d]) | (&[b, c, d], &[a]) => {
                vec![vertex(a, b), vertex(a, c), vertex(a, d)]
            }
            (&[a, b], &[c, d]) => vec![vertex(a, c), vertex(a, d), vertex(b, d), vertex(b, c)],
            _ => return,
        };
        let place = |c: u32| Self::place_of(self.cells, c as usize);
        let out = outside.iter().map(|&c| place(c)).sum::<DVec3>() / outside.len() as f64
            - inside.iter().map(|&c| place(c)).sum::<DVec3>() / inside.len() as f64;
        // By points halfway: those of the contour may fall together.
        let looks_in = self.looks_in(&inside, &outside, out);
        for i in 1..polygon.len() - 1 {
            let mut triangle = [polygon[0], polygon[i], polygon[i + 1]];
            if looks_in {
                triangle.swap(1, 2);
            }
            let [a, b, c] = triangle;
            if a != b && b != c && c != a {
                net.triangles.push(triangle);
            }
        }
    }

    /// Whether the polygon of a tetrahedron, in the order in which it is made, looks inward.
    fn looks_in(&self, inside: &[u32], outside: &[u32], out: DVec3) -> bool {
        let at = |a: u32, b: u32| {
            let [p, q] = [a, b].map(|c| Self::place_of(self.cells, c as usize));
            (p + q) / 2.0
        };
        let [p, q, r] = match (inside, outside) {
            (&[a], &[b, c, d]) | (&[b, c, d], &[a]) => [at(a, b), at(a, c), at(a, d)],
            (&[a, b], &[c, d]) => [at(a, c), at(a, d), at(b, d)],
            _ => return false,
        };
        (q - p).cross(r - p).dot(out) < 0.0
    }

    fn vertex(&self, a: u32, b: u32, net: &mut Net) -> VertexId {
        let key = [a.min(b), a.max(b)];
        *net.between.entry(key).or_insert_with(|| {
            let [p, q] = key.map(|c| Self::place_of(self.cells, c as usize));
            let [d, e] = key.map(|c| self.distances[c as usize]);
            let at = p.lerp(q, (d / (d - e)).clamp(0.0, 1.0));
            net.positions.push((at * STEPS / 2.0).round() * 2.0 / STEPS);
            VertexId::new(net.positions.len() - 1)
        })
    }
}
