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
//! Where there is a choice, no diagonal is taken that is an edge elsewhere in the mesh, which
//! would get too many sides.
//! Cost: near-linear in corners for convex polygons and for most others; O(n²) for the worst.

mod diagonals;
mod ears;
mod quads;

pub(crate) use ears::flip_to_better;
pub use quads::quads_and_triangles;

use crate::mesh::{FaceId, Mesh, Model, Rebuild, VertexId};
use crate::predicates::{flatten, side_of_line};
use diagonals::Diagonals;
use glam::{DVec2, DVec3};
use std::borrow::Cow;
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
    let mut diagonals = Diagonals::of(&model.mesh);
    let mut points = Vec::new();
    for face in model.mesh.face_ids() {
        if !affected(face) {
            rebuild.keep(face);
            continue;
        }
        points.clear();
        points.extend(model.mesh.face_points(face));
        let corners = model.mesh.face(face);
        let first = model.mesh.face_range(face).start;
        let ends = |i: u32, j: u32| [i, j].map(|i| corners[i as usize]);
        let taken = |i: u32, j: u32| diagonals.is_taken(face, ends(i, j));
        let mut place = |diagonals: &mut Diagonals<'_>, piece: &[u32]| {
            rebuild.piece(face, piece.iter().map(|&i| first + i as usize));
            take_diagonals(diagonals, face, corners, piece);
        };
        match pieces {
            Pieces::Triangles => {
                let cut = polygon_beside(&points, taken);
                cut.iter().for_each(|piece| place(&mut diagonals, piece));
            }
            Pieces::Quads => {
                let cut = quads::quads_beside(&points, taken);
                cut.iter().for_each(|piece| place(&mut diagonals, piece));
            }
        }
    }
    (rebuild.finish(), count)
}

/// Marks the diagonals along which a piece of a face was cut off.
fn take_diagonals(
    diagonals: &mut Diagonals<'_>,
    face: FaceId,
    corners: &[VertexId],
    piece: &[u32],
) {
    let next = piece.iter().cycle().skip(1);
    for (&i, &j) in piece.iter().zip(next) {
        let apart = i.abs_diff(j) as usize;
        if i < j && apart != 1 && apart != corners.len() - 1 {
            diagonals.take(face, [i, j].map(|i| corners[i as usize]));
        }
    }
}

/// The triangles of a mesh: its own corners where it has no others, else its polygons cut up.
pub fn triangles(mesh: &Mesh) -> Cow<'_, [[VertexId; 3]]> {
    match mesh.is_all_triangles() {
        true => Cow::Borrowed(mesh.corners().as_chunks().0),
        false => Cow::Owned(all_triangles(mesh).0),
    }
}

/// The triangles of a mesh: its own, and its polygons cut up; with the face each came from.
pub fn all_triangles(mesh: &Mesh) -> (Vec<[VertexId; 3]>, Vec<FaceId>) {
    if mesh.is_all_triangles() {
        return (triangles(mesh).into_owned(), mesh.face_ids().collect());
    }
    let mut triangles = Vec::with_capacity(mesh.face_count());
    let mut from = Vec::with_capacity(mesh.face_count());
    let mut points = Vec::new();
    let has_polygons = mesh.faces().any(|(_, corners)| corners.len() > 3);
    let mut diagonals = has_polygons.then(|| Diagonals::of(mesh));
    for (face, corners) in mesh.faces() {
        match (corners, &mut diagonals) {
            (&[a, b, c], _) => triangles.push([a, b, c]),
            (&[_, _, _, ..], Some(diagonals)) => {
                points.clear();
                points.extend(mesh.face_points(face));
                let end = |i: u32| corners[i as usize];
                let taken = |i, j| diagonals.is_taken(face, [end(i), end(j)]);
                let cut = polygon_beside(&points, taken);
                for piece in &cut {
                    take_diagonals(diagonals, face, corners, piece);
                }
                triangles.extend(cut.iter().map(|t| t.map(end)));
            }
            _ => continue,
        }
        from.resize(triangles.len(), face);
    }
    (triangles, from)
}

/// Cuts a polygon into `n - 2` triangles over its corners, wound like it.
pub fn polygon(points: &[DVec3]) -> Vec<[u32; 3]> {
    polygon_beside(points, |_, _| false)
}

/// The same, where there is a choice not along diagonals that are taken.
fn polygon_beside(points: &[DVec3], taken: impl Fn(u32, u32) -> bool) -> Vec<[u32; 3]> {
    match points.len() {
        0..3 => Vec::new(),
        3 => vec![[0, 1, 2]],
        4 => quad([points[0], points[1], points[2], points[3]], taken).to_vec(),
        _ => {
            let flat: Vec<DVec2> = flattened(points);
            let mut triangles = ears::cut_off_ears(points, &flat, &taken);
            ears::flip_inside(points, &flat, &mut triangles, &taken);
            triangles
        }
    }
}

fn flattened(points: &[DVec3]) -> Vec<DVec2> {
    let normal = crate::geometry::vector_area_of(points.iter().copied());
    let flat = flatten(normal);
    points.iter().map(|&p| flat(p - points[0])).collect()
}

fn quad(points: [DVec3; 4], taken: impl Fn(u32, u32) -> bool) -> [[u32; 3]; 2] {
    let flat = flattened(&points);
    let fit = |cut: [[u32; 3]; 2], [i, j]: [u32; 2]| {
        let sound = cut.iter().all(|t| {
            let [a, b, c] = t.map(|i| flat[i as usize]);
            side_of_line(a, b, c) == Ordering::Greater
        });
        let worst = cut
            .iter()
            .map(|t| quality(t.map(|i| points[i as usize])))
            .fold(f64::INFINITY, f64::min);
        (!taken(i, j), sound, worst)
    };
    let (even, odd) = ([[0, 1, 2], [0, 2, 3]], [[1, 2, 3], [1, 3, 0]]);
    // A quad whose opposite corners meet covers nothing: cut there, nor do its pieces.
    if points[0] == points[2] {
        return even;
    }
    if points[1] == points[3] {
        return odd;
    }
    let (odd_fits, even_fits) = (fit(odd, [1, 3]), fit(even, [0, 2]));
    let free_and_sound = |fits: (bool, bool, f64)| (fits.0, fits.1);
    let first = match free_and_sound(odd_fits).cmp(&free_and_sound(even_fits)) {
        Ordering::Equal if (odd_fits.2 - even_fits.2).abs() <= EQUAL => first_corner(points) % 2,
        Ordering::Equal => usize::from(odd_fits.2 > even_fits.2),
        Ordering::Greater => 1,
        Ordering::Less => 0,
    };
    [even, odd][first]
}

/// Qualities that differ by no more are equal: those of a square, say.
const EQUAL: f64 = 1e-9;

/// The corner that comes first by its coordinates: the same wherever a polygon's corners begin, so
/// that doubled ones are cut alike.
fn first_corner(points: [DVec3; 4]) -> usize {
    let key = |p: DVec3| p.to_array();
    let before = |a: &usize, b: &usize| {
        let order = key(points[*a]).partial_cmp(&key(points[*b]));
        order.unwrap_or(Ordering::Equal)
    };
    (0..4).min_by(before).unwrap_or(0)
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
    use crate::geometry::vector_area_of;
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

    /// A unit square twice on two opposite corners: a valley of two quads below a ridge of two.
    fn tent() -> Mesh {
        let corners = [
            (0., 0., 0.),
            (1., 0., 0.),
            (1., 1., 0.),
            (0., 1., 0.),
            (1., 0., 1.),
            (0., 1., 1.),
        ];
        let corners = corners.map(|(x, y, z)| DVec3::new(x, y, z));
        let mut mesh = Mesh::from_parts(corners.to_vec(), vec![], vec![0]).unwrap();
        for face in [[0, 1, 2, 3], [0, 4, 2, 5]] {
            mesh.push_face(face.map(VertexId::new));
        }
        mesh
    }

    fn edges_with_over_two_sides(triangles: &[[VertexId; 3]]) -> usize {
        let mut sides = std::collections::HashMap::new();
        for &[a, b, c] in triangles {
            for (from, to) in [(a, b), (b, c), (c, a)] {
                *sides.entry((from.min(to), from.max(to))).or_insert(0) += 1;
            }
        }
        sides.values().filter(|&&count| count > 2).count()
    }

    #[test]
    fn faces_that_share_opposite_corners_are_not_cut_along_one_diagonal() {
        let tent = tent();
        let (triangles, _) = all_triangles(&tent);
        assert_eq!(
            (triangles.len(), edges_with_over_two_sides(&triangles)),
            (4, 0)
        );
        let (cut, count) = model(&Model::from(tent.clone()), Which::All);
        assert_eq!(
            (
                count,
                edges_with_over_two_sides(&all_triangles(&cut.mesh).0)
            ),
            (2, 0)
        );

        // A triangle's edge, and an n-gon's.
        let mut roof = tent.clone();
        roof.push_vertex(DVec3::new(0.5, 0.5, -1.0));
        roof.push_face([0, 2, 6].map(VertexId::new));
        let (triangles, _) = all_triangles(&roof);
        let along = |t: &&[VertexId; 3]| [0, 2].iter().all(|&v| t.contains(&VertexId::new(v)));
        assert_eq!(triangles.iter().filter(along).count(), 1);
        let mut ngon = Mesh::from_parts(roof.positions().to_vec(), vec![], vec![0]).unwrap();
        ngon.push_face([0, 2, 6].map(VertexId::new));
        ngon.push_face([0, 1, 4, 2, 3].map(VertexId::new));
        let (triangles, _) = all_triangles(&ngon);
        assert_eq!(triangles.iter().filter(along).count(), 1);
    }

    #[test]
    fn a_quad_whose_opposite_corners_are_one_becomes_no_two_faces_on_the_same_vertices() {
        let [a, b, _, d] = [(0., 0.), (2., 0.), (1., 1.), (0., 2.)];
        for corners in [[a, b, a, d], [b, a, d, a]] {
            let points = flat(&corners);
            let covers = |t: &[u32; 3]| area_of(&points, &[*t]) > 0.0;
            assert!(!polygon(&points).iter().any(covers));
        }
    }

    #[test]
    fn doubled_polygons_are_cut_alike_and_so_stay_doubled() {
        let mut doubled = Mesh::from_parts(tent().positions().to_vec(), vec![], vec![0]).unwrap();
        doubled.push_face([0, 1, 2, 3].map(VertexId::new));
        doubled.push_face([3, 2, 1, 0].map(VertexId::new));
        let (triangles, _) = all_triangles(&doubled);
        let sorted = triangles.iter().map(|t| {
            let mut t = *t;
            t.sort_unstable();
            t
        });
        let distinct: std::collections::HashSet<_> = sorted.collect();
        assert_eq!(distinct.len(), 2);
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
