//! Closest points on a surface.
//!
//! In: triangles. The tree sorts them along a space-filling curve (Morton 1966) and bounds
//! runs of four, then pairs of runs, and so on up: a complete binary tree in one array, built
//! bottom-up in parallel (the linear hierarchy of Lauterbach et al. 2009, without its splits).
//! A query goes down the nearer child first and skips what lies further away than the best so
//! far. Cost: O(n log n) to build, about log n a query; 40 bytes a triangle.

use glam::{DVec3, Vec3};
use rayon::prelude::*;

const LEAF: usize = 4;

/// A hierarchy over triangles.
pub struct TriangleTree {
    /// The triangles' corners, in curve order.
    corners: Vec<[DVec3; 3]>,
    /// Their indices in the input.
    source: Vec<u32>,
    /// For every triangle of the input, where it stands in curve order.
    place: Vec<u32>,
    /// Bounds, heap-like: the children of `n` are `2n + 1` and `2n + 2`.
    bounds: Vec<[Vec3; 2]>,
    leaves: usize,
}

/// What a query found.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Closest {
    /// The point on the surface.
    pub point: DVec3,
    /// Squared distance from the query point.
    pub distance_squared: f64,
    /// Which triangle of the input it is on.
    pub triangle: u32,
}

impl TriangleTree {
    /// Builds the tree over triangles given by their corners.
    pub fn new(triangles: impl IndexedParallelIterator<Item = [DVec3; 3]>) -> Self {
        let input: Vec<[DVec3; 3]> = triangles.collect();
        let (low, high) = input
            .par_iter()
            .map(|t| (t[0].min(t[1]).min(t[2]), t[0].max(t[1]).max(t[2])))
            .reduce(
                || (DVec3::INFINITY, DVec3::NEG_INFINITY),
                |a, b| (a.0.min(b.0), a.1.max(b.1)),
            );
        let scale = DVec3::splat(2_097_151.0) / (high - low).max(DVec3::splat(f64::MIN_POSITIVE));
        let mut order: Vec<(u64, u32)> = input
            .par_iter()
            .enumerate()
            .map(|(i, t)| {
                let at = ((t[0] + t[1] + t[2]) / 3.0 - low) * scale;
                let code =
                    spread(at.x as u64) | spread(at.y as u64) << 1 | spread(at.z as u64) << 2;
                (code, i as u32)
            })
            .collect();
        order.par_sort_unstable();
        let corners: Vec<_> = order.par_iter().map(|&(_, i)| input[i as usize]).collect();
        let leaves = corners.len().div_ceil(LEAF).next_power_of_two();
        let nothing = [Vec3::INFINITY, Vec3::NEG_INFINITY];
        let mut bounds = vec![nothing; 2 * leaves - 1];
        bounds[leaves - 1..]
            .par_iter_mut()
            .zip(corners.par_chunks(LEAF))
            .for_each(|(bound, run)| *bound = bounds_of(run));
        for node in (0..leaves - 1).rev() {
            let ([a, b], [c, d]) = (bounds[2 * node + 1], bounds[2 * node + 2]);
            bounds[node] = [a.min(c), b.max(d)];
        }
        let mut place = vec![0u32; order.len()];
        for (at, &(_, i)) in order.iter().enumerate() {
            place[i as usize] = at as u32;
        }
        Self {
            corners,
            source: order.into_iter().map(|(_, i)| i).collect(),
            place,
            bounds,
            leaves,
        }
    }

    /// The closest point of the surface, found sooner when triangle `hint` of the input is
    /// near.
    pub fn closest_from(&self, to: DVec3, hint: u32) -> Option<Closest> {
        let Some(&at) = self.place.get(hint as usize) else {
            return self.closest(to);
        };
        let point = closest_on_triangle(to, self.corners[at as usize]);
        let start = Closest {
            point,
            distance_squared: point.distance_squared(to),
            triangle: hint,
        };
        let nearer = self.nearer_than(to, start.distance_squared);
        nearer.or(Some(start))
    }

    /// The closest point of the surface; `None` when there are no triangles.
    pub fn closest(&self, to: DVec3) -> Option<Closest> {
        self.closest_within(to, f64::INFINITY)
    }

    /// The closest point of the surface nearer than `limit`.
    pub fn closest_within(&self, to: DVec3, limit: f64) -> Option<Closest> {
        self.nearer_than(to, limit * limit)
    }

    fn nearer_than(&self, to: DVec3, limit_squared: f64) -> Option<Closest> {
        let mut best = limit_squared;
        let mut found = None;
        let mut stack = [(0.0f64, 0usize); 64];
        let mut depth = 1;
        stack[0] = (self.distance_to(0, to), 0);
        while depth > 0 {
            depth -= 1;
            let (distance, node) = stack[depth];
            if distance >= best {
                continue;
            }
            if node + 1 >= self.leaves {
                let from = (node + 1 - self.leaves) * LEAF;
                let upto = (from + LEAF).min(self.corners.len());
                for i in from..upto {
                    let point = closest_on_triangle(to, self.corners[i]);
                    let distance_squared = point.distance_squared(to);
                    if distance_squared < best {
                        best = distance_squared;
                        found = Some(Closest {
                            point,
                            distance_squared,
                            triangle: self.source[i],
                        });
                    }
                }
                continue;
            }
            let (left, right) = (2 * node + 1, 2 * node + 2);
            let mut near = (self.distance_to(left, to), left);
            let mut far = (self.distance_to(right, to), right);
            if far.0 < near.0 {
                std::mem::swap(&mut near, &mut far);
            }
            stack[depth] = far;
            stack[depth + 1] = near;
            depth += 2;
        }
        found
    }

    fn distance_to(&self, node: usize, to: DVec3) -> f64 {
        let [low, high] = self.bounds[node];
        if low.x > high.x {
            return f64::INFINITY;
        }
        let nearest = to.clamp(low.as_dvec3(), high.as_dvec3());
        nearest.distance_squared(to)
    }
}

/// Bounds rounded outward to single precision.
fn bounds_of(run: &[[DVec3; 3]]) -> [Vec3; 2] {
    let points = run.iter().flatten();
    let low = points.clone().fold(DVec3::INFINITY, |a, &p| a.min(p));
    let high = points.fold(DVec3::NEG_INFINITY, |a, &p| a.max(p));
    [
        Vec3::from_array(low.as_vec3().to_array().map(f32::next_down)),
        Vec3::from_array(high.as_vec3().to_array().map(f32::next_up)),
    ]
}

/// Puts two zero bits between the low 21 bits of `x`.
fn spread(mut x: u64) -> u64 {
    x &= 0x1f_ffff;
    x = (x | x << 32) & 0x001f_0000_0000_ffff;
    x = (x | x << 16) & 0x001f_0000_ff00_00ff;
    x = (x | x << 8) & 0x100f_00f0_0f00_f00f;
    x = (x | x << 4) & 0x10c3_0c30_c30c_30c3;
    (x | x << 2) & 0x1249_2492_4924_9249
}

/// The point of a triangle closest to `p`, by the region of the plane that `p` lies over
/// (the seven regions as in Ericson 2005, §5.1.5).
pub fn closest_on_triangle(p: DVec3, [a, b, c]: [DVec3; 3]) -> DVec3 {
    let (ab, ac, ap) = (b - a, c - a, p - a);
    let (d1, d2) = (ab.dot(ap), ac.dot(ap));
    if d1 <= 0.0 && d2 <= 0.0 {
        return a;
    }
    let bp = p - b;
    let (d3, d4) = (ab.dot(bp), ac.dot(bp));
    if d3 >= 0.0 && d4 <= d3 {
        return b;
    }
    let vc = d1 * d4 - d3 * d2;
    if vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0 && d1 > d3 {
        return a + ab * (d1 / (d1 - d3));
    }
    let cp = p - c;
    let (d5, d6) = (ab.dot(cp), ac.dot(cp));
    if d6 >= 0.0 && d5 <= d6 {
        return c;
    }
    let vb = d5 * d2 - d1 * d6;
    if vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0 && d2 > d6 {
        return a + ac * (d2 / (d2 - d6));
    }
    let va = d3 * d6 - d5 * d4;
    let (e, f) = (d4 - d3, d5 - d6);
    if va <= 0.0 && e >= 0.0 && f >= 0.0 && e + f > 0.0 {
        return b + (c - b) * (e / (e + f));
    }
    let sum = va + vb + vc;
    if sum > 0.0 {
        a + ab * (vb / sum) + ac * (vc / sum)
    } else {
        a
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::FaceId;
    use crate::shapes;

    #[test]
    fn finds_what_trying_every_triangle_finds() {
        let mesh = shapes::bumpy_sphere(900);
        let triangle = |f: usize| {
            let face = mesh.face(FaceId::new(f));
            [0, 1, 2].map(|i| mesh.position(face[i]))
        };
        let tree = TriangleTree::new((0..mesh.face_count()).into_par_iter().map(triangle));
        for i in 0..300 {
            let t = i as f64;
            let query = DVec3::new((t * 0.7).sin(), (t * 1.3).cos(), (t * 0.37).sin()) * 1.7;
            let best = (0..mesh.face_count())
                .map(|f| closest_on_triangle(query, triangle(f)).distance(query))
                .fold(f64::INFINITY, f64::min);
            let found = tree.closest(query).unwrap();
            assert!((found.distance_squared.sqrt() - best).abs() < 1e-12);
            for hint in [0, 17, u32::MAX] {
                let hinted = tree.closest_from(query, hint).unwrap();
                assert_eq!(hinted.distance_squared, found.distance_squared);
            }
        }
    }

    #[test]
    fn an_empty_tree_finds_nothing() {
        let tree = TriangleTree::new(Vec::new().into_par_iter());
        assert_eq!(tree.closest(DVec3::ZERO), None);
    }

    #[test]
    fn degenerate_triangles_have_closest_points() {
        let point = DVec3::new(1.0, 2.0, 3.0);
        assert_eq!(closest_on_triangle(DVec3::ZERO, [point; 3]), point);
        let line = [DVec3::ZERO, DVec3::X, DVec3::X * 2.0];
        let near = closest_on_triangle(DVec3::new(1.5, 1.0, 0.0), line);
        assert!(near.distance(DVec3::new(1.5, 0.0, 0.0)) < 1e-12, "{near}");
    }
}
