//! Normals of corners: how a surface is shaded, flat, or smooth up to an angle.
//!
//! ```text
//! corners ─▶ joined across edges that bend by no more than the angle ─▶ for each group the mean of
//!     its faces' normals, by area and by the angle at the corner
//! ```
//!
//! Weights by angle make a normal independent of how faces are cut up (Thürmer & Wüthrich 1998); by
//! area, large faces keep theirs flat beside bevels (Max 1999).

use crate::geometry::corner_angle;
use crate::measure::vector_area;
use crate::mesh::{CornerLayer, EdgeId, FaceId, Mesh, NO_VALUE};
use crate::topology::{Edges, Side, UnionFind, join_across};
use glam::DVec3;

/// How a surface is to be shaded.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Shading {
    /// Every face by itself.
    Flat,
    /// Across edges that bend by at most so much, in degrees.
    Smooth(f64),
}

/// Normals for all corners of a mesh; those of faces without area have none of their own.
pub fn normals(mesh: &Mesh, shading: Shading) -> CornerLayer<DVec3> {
    let faces = mesh.face_ids().map(|face| vector_area(mesh, face));
    let areas: Vec<DVec3> = faces.collect();
    let mut groups = UnionFind::new(mesh.corners().len());
    match shading {
        Shading::Flat => join_faces(mesh, &mut groups),
        Shading::Smooth(angle) => join_smooth(mesh, &areas, angle, &mut groups),
    }
    let mut sums = vec![DVec3::ZERO; mesh.corners().len()];
    for face in mesh.face_ids() {
        for corner in mesh.face_range(face) {
            let group = groups.find(corner as u32) as usize;
            sums[group] += areas[face.index()] * angle_at(mesh, face, corner);
        }
    }
    let mut layer = CornerLayer {
        values: Vec::new(),
        index: vec![NO_VALUE; mesh.corners().len()],
    };
    let mut number = vec![NO_VALUE; mesh.corners().len()];
    for face in mesh.face_ids() {
        let own = areas[face.index()].normalize_or_zero();
        for corner in mesh.face_range(face) {
            let group = groups.find(corner as u32) as usize;
            let normal = sums[group].normalize_or_zero();
            let value = layer.values.len() as u32;
            if own != DVec3::ZERO && normal.dot(own) <= 0.0 {
                // Round a spike, the mean may look to a face's other side: that face has its own.
                layer.values.push(own);
                layer.index[corner] = value;
                continue;
            }
            if number[group] == NO_VALUE && normal != DVec3::ZERO {
                number[group] = value;
                layer.values.push(normal);
            }
            layer.index[corner] = number[group];
        }
    }
    layer
}

/// How many edges are shaded hard: where two faces meet and the normals given at either end differ
/// between them.
pub fn hard_edges(mesh: &Mesh, edges: &Edges, normals: &CornerLayer<DVec3>) -> usize {
    let differ = |(a, b): (usize, usize)| differ(normals, a, b);
    let is_hard = |&edge: &EdgeId| match edges.sides(edge) {
        &[a, b] => facing_corners(mesh, a, b).into_iter().any(differ),
        _ => false,
    };
    edges.ids().filter(is_hard).count()
}

/// The corners of two sides of an edge that lie at its lower end, and those at its higher.
pub(crate) fn facing_corners(mesh: &Mesh, a: Side, b: Side) -> [(usize, usize); 2] {
    let ends = |side: Side| {
        let (from, to) = (side.corner(), mesh.next_corner(side.face, side.corner()));
        match side.runs_up() {
            true => [from, to],
            false => [to, from],
        }
    };
    let ([p, q], [r, s]) = (ends(a), ends(b));
    [(p, r), (q, s)]
}

/// Whether two corners have different normals, or only one of them has any.
pub(crate) fn differ(normals: &CornerLayer<DVec3>, a: usize, b: usize) -> bool {
    match (normals.at(a), normals.at(b)) {
        (Some(a), Some(b)) => a.normalize_or_zero().dot(b.normalize_or_zero()) < SAME,
        (a, b) => a != b,
    }
}

/// Cosine of what is taken for the same direction: a degree, as files of few digits differ by less.
const SAME: f64 = 0.99985;

fn join_faces(mesh: &Mesh, groups: &mut UnionFind) {
    for face in mesh.face_ids() {
        let range = mesh.face_range(face);
        for corner in range.clone().skip(1) {
            groups.join(range.start as u32, corner as u32);
        }
    }
}

fn join_smooth(mesh: &Mesh, areas: &[DVec3], angle: f64, groups: &mut UnionFind) {
    let edges = Edges::of(mesh);
    let least = angle.to_radians().cos() - 1e-9;
    for edge in edges.ids() {
        let &[a, b] = edges.sides(edge) else { continue };
        if edges.is_misoriented(edge) {
            continue;
        }
        let [n, m] = [a, b].map(|side| areas[side.face.index()].normalize_or_zero());
        if n.dot(m) >= least {
            join_across(mesh, groups, a, b);
        }
    }
}

/// The angle of a face at one of its corners.
pub(crate) fn angle_at(mesh: &Mesh, face: FaceId, corner: usize) -> f64 {
    let range = mesh.face_range(face);
    let before = if corner == range.start {
        range.end - 1
    } else {
        corner - 1
    };
    let at = |corner: usize| mesh.position(mesh.corners()[corner]);
    corner_angle(at(corner), [before, mesh.next_corner(face, corner)].map(at))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;

    fn worst(
        mesh: &Mesh,
        layer: &CornerLayer<DVec3>,
        wanted: impl Fn(DVec3, FaceId) -> DVec3,
    ) -> f64 {
        let mut worst: f64 = 1.0;
        for (face, _) in mesh.faces() {
            for corner in mesh.face_range(face) {
                let normal = layer.at(corner).unwrap();
                assert!((normal.length() - 1.0).abs() < 1e-12);
                let at = mesh.position(mesh.corners()[corner]);
                worst = worst.min(normal.dot(wanted(at, face)));
            }
        }
        worst
    }

    #[test]
    fn a_ball_is_smooth_and_points_from_its_middle() {
        let ball = shapes::sphere(1.0, 4);
        let layer = normals(&ball, Shading::Smooth(40.0));
        assert_eq!(layer.values.len(), ball.vertex_count());
        assert!(worst(&ball, &layer, |at, _| at.normalize()) > 0.9999);
    }

    #[test]
    fn no_face_has_a_normal_to_its_other_side() {
        // A spike whose tip's mean looks away from the steep face behind it.
        let mut mesh = Mesh::default();
        let places = [
            [0.0, 0.0, 0.0],
            [1.0, 0.0, 0.0],
            [0.0, 1.0, 0.0],
            [-9.0, -9.0, 0.5],
        ];
        let [a, b, c, tip] = places.map(|at| mesh.push_vertex(DVec3::from_array(at)));
        for face in [[a, c, b], [a, b, tip], [b, c, tip], [c, a, tip]] {
            mesh.push_face(face);
        }
        let layer = normals(&mesh, Shading::Smooth(180.0));
        for (face, _) in mesh.faces() {
            let own = vector_area(&mesh, face).normalize();
            for corner in mesh.face_range(face) {
                assert!(layer.at(corner).unwrap().dot(own) > 0.0);
            }
        }
    }

    #[test]
    fn a_box_keeps_its_edges_and_a_flat_one_all_faces() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 3);
        let own = |_: DVec3, face| vector_area(&cube, face).normalize();
        let smooth = normals(&cube, Shading::Smooth(40.0));
        assert!(worst(&cube, &smooth, own) > 1.0 - 1e-12);
        // 16 for each side, each with its own: 6 · 16.
        assert_eq!(smooth.values.len(), 96);
        let flat = normals(&cube, Shading::Flat);
        assert!(worst(&cube, &flat, own) > 1.0 - 1e-12);
        assert_eq!(flat.values.len(), cube.face_count());
        // All the way round, the corner is where the diagonal points.
        let round = normals(&cube, Shading::Smooth(180.0));
        let corner = cube
            .corners()
            .iter()
            .position(|&v| cube.position(v) == DVec3::ONE);
        let normal = round.at(corner.unwrap()).unwrap();
        assert!(normal.dot(DVec3::ONE.normalize()) > 1.0 - 1e-12);
        let edges = Edges::of(&cube);
        assert_eq!(hard_edges(&cube, &edges, &smooth), 12 * 3);
        assert_eq!(hard_edges(&cube, &edges, &round), 0);
        // Between faces of one side, their own normals are the same.
        assert_eq!(hard_edges(&cube, &edges, &flat), 12 * 3);
    }
}
