//! Intersecting faces against another way of working them out: every pair of triangles clipped
//! by each other, in whole numbers.

use super::{checked, counted, listed};
use crate::mesh::{FaceId, Mesh, Model, VertexId};
use crate::random_cases::cases;
use crate::topology::Parts;
use crate::triangulate::polygon;
use glam::DVec3;
use proptest::prelude::*;
use std::collections::BTreeSet;

/// A point with rational coordinates: x, y, z over w, and w above 0.
type Point = [i128; 4];
/// A plane: the sides are the signs of x·a + y·b + z·c + w·d.
type Plane = [i128; 4];

fn point(p: DVec3) -> Point {
    [p.x as i128, p.y as i128, p.z as i128, 1]
}

fn cross(a: [i128; 3], b: [i128; 3]) -> [i128; 3] {
    [
        a[1] * b[2] - a[2] * b[1],
        a[2] * b[0] - a[0] * b[2],
        a[0] * b[1] - a[1] * b[0],
    ]
}

fn between(a: Point, b: Point) -> [i128; 3] {
    [0, 1, 2].map(|i| b[i] * a[3] - a[i] * b[3])
}

fn plane(normal: [i128; 3], through: Point) -> Plane {
    let at: i128 = (0..3).map(|i| normal[i] * through[i]).sum();
    let w = through[3];
    [normal[0] * w, normal[1] * w, normal[2] * w, -at]
}

fn side(plane: Plane, p: Point) -> i128 {
    (0..4).map(|i| plane[i] * p[i]).sum()
}

/// What of a convex polygon lies on the upper side of a plane (Sutherland & Hodgman 1974).
fn clipped(polygon: &[Point], plane: Plane) -> Vec<Point> {
    let mut kept = Vec::new();
    for (i, &from) in polygon.iter().enumerate() {
        let to = polygon[(i + 1) % polygon.len()];
        let (s, t) = (side(plane, from), side(plane, to));
        if s >= 0 {
            kept.push(from);
        }
        if (s > 0 && t < 0) || (s < 0 && t > 0) {
            let on = [0, 1, 2, 3].map(|i| from[i] * t.abs() + to[i] * s.abs());
            let shared = on.iter().fold(0, |a, &b| gcd(a, b.abs()));
            kept.push(on.map(|x| x / shared));
        }
    }
    kept
}

fn gcd(a: i128, b: i128) -> i128 {
    if b == 0 { a } else { gcd(b, a % b) }
}

/// The corners of what two triangles have in common.
fn common(s: [Point; 3], t: [Point; 3]) -> Vec<Point> {
    let normal = cross(between(s[0], s[1]), between(s[0], s[2]));
    let up = plane(normal, s[0]);
    let mut rest = clipped(&clipped(&t, up), up.map(|x| -x));
    for i in 0..3 {
        let (from, to) = (s[i], s[(i + 1) % 3]);
        let inward = cross(normal, between(from, to));
        rest = clipped(&rest, plane(inward, from));
    }
    rest
}

/// Whether a point lies between two others, on the line through them.
fn on_segment(p: Point, [a, b]: [Point; 2]) -> bool {
    let (u, v) = (between(a, b), between(a, p));
    let dot = |x: [i128; 3], y: [i128; 3]| -> i128 { (0..3).map(|i| x[i] * y[i]).sum() };
    cross(u, v) == [0; 3] && dot(u, v) >= 0 && dot(between(b, a), between(b, p)) >= 0
}

fn meet(s: [Point; 3], t: [Point; 3]) -> bool {
    let shared: Vec<Point> = s.into_iter().filter(|p| t.contains(p)).collect();
    let corners = common(s, t);
    match shared[..] {
        [] => !corners.is_empty(),
        [v] => corners.iter().any(|&p| p != v),
        [u, v] => corners.iter().any(|&p| !on_segment(p, [u, v])),
        _ => true,
    }
}

/// The triangles of a mesh, each face cut up by itself, with the face each came from.
fn each_by_itself(mesh: &Mesh) -> (Vec<[VertexId; 3]>, Vec<FaceId>) {
    let mut triangles = Vec::new();
    for (face, corners) in mesh.faces() {
        let points: Vec<DVec3> = mesh.face_points(face).collect();
        let cut = polygon(&points).into_iter();
        triangles.extend(cut.map(|t| (t.map(|i| corners[i as usize]), face)));
    }
    triangles.into_iter().unzip()
}

/// The faces that meet others, and the pairs of parts that do.
fn by_all_pairs(mesh: &Mesh) -> (BTreeSet<FaceId>, usize) {
    let (triangles, from) = each_by_itself(mesh);
    let corners: Vec<[Point; 3]> = triangles
        .iter()
        .map(|t| t.map(|v| point(mesh.position(v))))
        .collect();
    let flat = |t: [Point; 3]| cross(between(t[0], t[1]), between(t[0], t[2])) == [0; 3];
    let parts = Parts::of(mesh);
    let empty =
        |f: FaceId| mesh.is_collapsed(f) || crate::measure::vector_area(mesh, f).length() < 1e-9;
    let (mut faces, mut pairs) = (BTreeSet::new(), BTreeSet::new());
    for i in 0..triangles.len() {
        for j in 0..i {
            let (f, g) = (from[i], from[j]);
            if f == g || empty(f) || empty(g) || flat(corners[i]) || flat(corners[j]) {
                continue;
            }
            if meet(corners[i], corners[j]) {
                faces.extend([f, g]);
                let (p, q) = (parts.of_face(mesh, f), parts.of_face(mesh, g));
                if p != q {
                    pairs.insert((p.min(q), p.max(q)));
                }
            }
        }
    }
    (faces, pairs.len())
}

fn soup(points: &[[i8; 3]], faces: &[Vec<u32>]) -> Mesh {
    let mut mesh = Mesh::default();
    for point in points {
        mesh.push_vertex(DVec3::from_array(point.map(f64::from)));
    }
    for face in faces {
        mesh.push_face(face.iter().map(|&v| VertexId(v % points.len() as u32)));
    }
    mesh
}

fn assert_equal(mesh: &Mesh) -> Result<(), TestCaseError> {
    let (faces, pairs) = by_all_pairs(mesh);
    let model = Model::from(mesh.clone());
    let found = checked(&model, "intersecting-faces", |_| {});
    prop_assert_eq!(found.count, faces.len());
    prop_assert_eq!(listed(&found), faces);
    prop_assert_eq!(counted(&model, "crossing-parts"), pairs);
    Ok(())
}

proptest! {
    #![proptest_config(cases(4000))]

    #[test]
    fn random_triangles_on_a_grid(
        points in prop::collection::vec(prop::array::uniform3(0..4i8), 3..14),
        faces in prop::collection::vec(prop::collection::vec(0..64u32, 3), 2..12),
    ) {
        assert_equal(&soup(&points, &faces))?;
    }

    #[test]
    fn random_flat_triangles(
        points in prop::collection::vec((0..5i8, 0..5i8), 3..10),
        faces in prop::collection::vec(prop::collection::vec(0..64u32, 3), 2..8),
    ) {
        let points: Vec<_> = points.iter().map(|&(x, y)| [x, y, x + 2 * y]).collect();
        assert_equal(&soup(&points, &faces))?;
    }

    #[test]
    fn random_polygons(
        points in prop::collection::vec(prop::array::uniform3(0..4i8), 4..12),
        faces in prop::collection::vec(prop::collection::vec(0..64u32, 3..5), 2..8),
    ) {
        assert_equal(&soup(&points, &faces))?;
    }

    #[test]
    fn random_far_apart_triangles(
        points in prop::collection::vec(prop::array::uniform3(-60..60i8), 6..40),
        faces in prop::collection::vec(prop::collection::vec(0..64u32, 3), 2..40),
    ) {
        assert_equal(&soup(&points, &faces))?;
    }
}
