//! Polygons into triangles.
//!
//! ```text
//! quad   ─▶ the diagonal that lies inside and gives the better worst triangle
//! n-gon  ─▶ flattened along its vector area ─▶ ears cut off (Meisters 1975), best first
//!        ─▶ diagonals flipped while the worse triangle of a pair gets better (Lawson 1977)
//! ```
//!
//! Whether a corner is convex and whether a point lies in an ear is decided exactly, so that a
//! simple flat polygon, however concave, is covered once and nothing outside it. A polygon
//! that crosses itself has no right answer; it still gets `n - 2` triangles over its corners.
//! Cost: O(n²) for a polygon of n corners.

mod ears;
mod quads;

pub(crate) use ears::flip_to_better;
pub use quads::quads_and_triangles;

use crate::mesh::{FaceId, Mesh, Model, Rebuild};
use crate::predicates::{flatten, side_of_line};
use glam::{DVec2, DVec3};
use std::cmp::Ordering;

/// Which polygons to cut up.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Which {
    /// Faces of five or more sides.
    Ngons,
    /// Every face of more than three.
    All,
}

impl Which {
    fn includes(self, sides: usize) -> bool {
        match self {
            Which::Ngons => sides >= 5,
            Which::All => sides >= 4,
        }
    }
}

/// What polygons are cut into.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Pieces {
    /// Triangles.
    Triangles,
    /// Quads where these come out well, and triangles.
    Quads,
}

/// Cuts up the polygons of a model; returns how many there were. UVs, groups and materials
/// come along.
pub fn model(model: &Model, which: Which) -> (Model, usize) {
    let affected = |face: FaceId| which.includes(model.mesh.face(face).len());
    some(model, Pieces::Triangles, affected)
}

/// The same of the faces that `affected` says so of.
pub fn some(model: &Model, pieces: Pieces, affected: impl Fn(FaceId) -> bool) -> (Model, usize) {
    let count = model.mesh.face_ids().filter(|&f| affected(f)).count();
    if count == 0 {
        return (model.clone(), 0);
    }
    let mut rebuild = Rebuild::new(model);
    let mut points = Vec::new();
    for face in model.mesh.face_ids() {
        if !affected(face) {
            rebuild.keep(face);
            continue;
        }
        points.clear();
        points.extend(model.mesh.face_points(face));
        let first = model.mesh.face_range(face).start;
        let mut add = |piece: &[u32]| {
            rebuild.piece(face, piece.iter().map(|&i| first + i as usize));
        };
        match pieces {
            Pieces::Triangles => polygon(&points).iter().for_each(|piece| add(piece)),
            Pieces::Quads => quads_and_triangles(&points)
                .iter()
                .for_each(|piece| add(piece)),
        }
    }
    (rebuild.finish(), count)
}

/// The triangles of a mesh: its own, and its polygons cut up; with the face each came from.
pub fn all_triangles(mesh: &Mesh) -> (Vec<[crate::mesh::VertexId; 3]>, Vec<FaceId>) {
    let mut triangles = Vec::with_capacity(mesh.face_count());
    let mut from = Vec::with_capacity(mesh.face_count());
    let mut points = Vec::new();
    for (face, corners) in mesh.faces() {
        match *corners {
            [] | [_] | [_, _] => continue,
            [a, b, c] => triangles.push([a, b, c]),
            _ => {
                points.clear();
                points.extend(mesh.face_points(face));
                let cut = polygon(&points);
                triangles.extend(cut.iter().map(|t| t.map(|i| corners[i as usize])));
            }
        }
        from.resize(triangles.len(), face);
    }
    (triangles, from)
}

/// Cuts a polygon into `n - 2` triangles over its corners, wound like it.
pub fn polygon(points: &[DVec3]) -> Vec<[u32; 3]> {
    match points.len() {
        0..3 => Vec::new(),
        3 => vec![[0, 1, 2]],
        4 => quad([points[0], points[1], points[2], points[3]]).to_vec(),
        _ => {
            let flat: Vec<DVec2> = flattened(points);
            let mut triangles = ears::cut_off_ears(points, &flat);
            ears::flip_inside(points, &flat, &mut triangles);
            triangles
        }
    }
}

fn flattened(points: &[DVec3]) -> Vec<DVec2> {
    let normal = crate::measure::vector_area_of(points.iter().copied());
    let flat = flatten(normal);
    points.iter().map(|&p| flat(p - points[0])).collect()
}

fn quad(points: [DVec3; 4]) -> [[u32; 3]; 2] {
    let flat = flattened(&points);
    let fit = |cut: [[u32; 3]; 2]| {
        let sound = cut.iter().all(|t| {
            let [a, b, c] = t.map(|i| flat[i as usize]);
            side_of_line(a, b, c) == Ordering::Greater
        });
        let worst = cut
            .iter()
            .map(|t| quality(t.map(|i| points[i as usize])))
            .fold(f64::INFINITY, f64::min);
        (sound, worst)
    };
    let (even, odd) = ([[0, 1, 2], [0, 2, 3]], [[1, 2, 3], [1, 3, 0]]);
    match fit(odd).partial_cmp(&fit(even)) {
        Some(Ordering::Greater) => odd,
        _ => even,
    }
}

/// How near a triangle is to an even one: 1 for an even one, 0 for one without area.
#[inline]
pub fn quality([a, b, c]: [DVec3; 3]) -> f64 {
    let twice_area = (b - a).cross(c - a).length();
    let sides = a.distance_squared(b) + b.distance_squared(c) + c.distance_squared(a);
    if sides > 0.0 {
        twice_area * (2.0 * 3f64.sqrt()) / sides
    } else {
        0.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::measure::vector_area_of;
    use proptest::prelude::*;

    fn area_of(points: &[DVec3], triangles: &[[u32; 3]]) -> f64 {
        let triangle = |t: &[u32; 3]| vector_area_of(t.map(|i| points[i as usize]).into_iter());
        triangles.iter().map(|t| triangle(t).length()).sum()
    }

    fn assert_covers(points: &[DVec3]) {
        let triangles = polygon(points);
        assert_eq!(triangles.len(), points.len() - 2);
        let whole = vector_area_of(points.iter().copied()).length();
        let sum = area_of(points, &triangles);
        assert!((sum - whole).abs() <= 1e-9 * whole, "{sum} of {whole}");
    }

    #[test]
    fn an_even_strip_becomes_quads_and_a_pentagon_a_quad_and_a_triangle() {
        let strip: Vec<_> = (0..=6)
            .map(|i| (f64::from(i), 0.0))
            .chain((0..=6).rev().map(|i| (f64::from(i), 1.0)))
            .collect();
        let pieces = quads_and_triangles(&flat(&strip));
        assert_eq!(pieces.len(), 6);
        assert!(pieces.iter().all(|piece| piece.len() == 4));
        let house = flat(&[(0., 0.), (2., 0.), (2., 2.), (1., 3.), (0., 2.)]);
        let mut sides: Vec<_> = quads_and_triangles(&house).iter().map(Vec::len).collect();
        sides.sort_unstable();
        assert_eq!(sides, [3, 4]);
    }

    fn flat(points: &[(f64, f64)]) -> Vec<DVec3> {
        points.iter().map(|&(x, y)| DVec3::new(x, y, 2.0)).collect()
    }

    #[test]
    fn a_concave_quad_takes_the_inner_diagonal() {
        let dart = flat(&[(0., 0.), (4., -2.), (1., 0.), (4., 2.)]);
        assert_eq!(polygon(&dart), [[0, 1, 2], [0, 2, 3]]);
        let turned = [dart[1], dart[2], dart[3], dart[0]];
        assert_covers(&turned);
    }

    #[test]
    fn a_comb_is_covered_once() {
        let mut comb = vec![(0.0, 0.0), (20.0, 0.0)];
        for tooth in (0..10).rev() {
            comb.push((tooth as f64 * 2.0 + 1.9, 9.0));
            comb.push((tooth as f64 * 2.0 + 1.0, 1.0));
            comb.push((tooth as f64 * 2.0 + 0.1, 9.0));
        }
        assert_covers(&flat(&comb));
    }

    #[test]
    fn points_along_a_side_leave_no_empty_triangle() {
        let points = flat(&[(0., 0.), (1., 0.), (2., 0.), (3., 0.), (3., 3.), (0., 3.)]);
        assert_covers(&points);
        for triangle in polygon(&points) {
            assert!(quality(triangle.map(|i| points[i as usize])) > 0.1);
        }
    }

    #[test]
    fn a_polygon_that_crosses_itself_still_gets_its_triangles() {
        let star: Vec<_> = (0..5)
            .map(|i| f64::from(i * 2) * std::f64::consts::TAU / 5.0)
            .map(|turn| (turn.cos(), turn.sin()))
            .collect();
        assert_eq!(polygon(&flat(&star)).len(), 3);
    }

    proptest! {
        #[test]
        fn star_shaped_polygons_are_covered(
            radii in prop::collection::vec(0.2..3.0f64, 5..60),
            tilt in -1.0..1.0f64,
        ) {
            let count = radii.len() as f64;
            let points: Vec<_> = radii
                .iter()
                .enumerate()
                .map(|(i, r)| {
                    let turn = std::f64::consts::TAU * i as f64 / count;
                    let (x, y) = (r * turn.cos(), r * turn.sin());
                    DVec3::new(x, y, tilt * x)
                })
                .collect();
            assert_covers(&points);
            let pieces = quads_and_triangles(&points);
            let corners: usize = pieces.iter().map(|piece| piece.len() - 2).sum();
            prop_assert_eq!(corners, points.len() - 2);
            let area = |piece: &Vec<u32>| {
                let corners = piece.iter().map(|&i| points[i as usize]);
                let normal = vector_area_of(points.iter().copied()).normalize();
                vector_area_of(corners).dot(normal)
            };
            let areas: Vec<f64> = pieces.iter().map(area).collect();
            prop_assert!(areas.iter().all(|&area| area > -1e-9));
            let whole = vector_area_of(points.iter().copied()).length();
            prop_assert!((areas.iter().sum::<f64>() - whole).abs() <= 1e-9 * whole);
        }
    }
}
