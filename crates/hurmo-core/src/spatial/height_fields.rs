//! Vertices round which the surface is a height field: seen along an axis, the faces of the
//! vertex lie side by side all round it, so no two of them meet away from what they share.
//!
//! That is so when every edge at the vertex has two sides that run opposite ways, every
//! triangle at it has the same sign of area once a coordinate is dropped, and exactly one of
//! them lies across a ray from the vertex in the plane that is left: triangles of one sign, each
//! beginning where another ends, go round it as often as they cross the ray. (The idea that
//! regions seen whole along one direction don't cross themselves is Volino & Magnenat-Thalmann
//! 1994; round a vertex it needs no look at a border.)
//!
//! Signs that rounding could have made count as none. Cost: linear; 2 bytes a vertex.

use super::TriangleHierarchy;
use crate::mesh::{EdgeId, FaceId, Mesh, VertexId};
use crate::parallel::for_each;
use crate::topology::Edges;
use glam::DVec3;
use std::sync::atomic::{AtomicU16, Ordering::Relaxed};

/// For each vertex the marks of three planes, one bit a plane: from this on, a triangle does not
/// run up there; then, one does not run down; one crosses the ray; another does.
const NOT_UP: u16 = 0b111;
const CROSSED: u16 = NOT_UP << 6;
const UNFIT: u16 = 1 << 12;

/// For every vertex, whether the triangles of a hierarchy that have it as a corner are surely all
/// of a height field. The hierarchy has its vertices where `place` puts the mesh's, and all faces
/// but those that `absent` says so of.
pub fn height_fields(
    hierarchy: &TriangleHierarchy<'_>,
    mesh: &Mesh,
    edges: &Edges,
    place: &[VertexId],
    absent: impl Fn(FaceId) -> bool + Sync,
) -> Vec<bool> {
    let marks: Vec<AtomicU16> = (0..mesh.vertex_count())
        .map(|_| AtomicU16::new(0))
        .collect();
    let mark = |vertex: VertexId, bits: u16| marks[vertex.index()].fetch_or(bits, Relaxed);
    for_each(mesh.vertex_count(), 4096, |v| {
        let (vertex, first) = (VertexId::new(v), place[v]);
        if vertex != first {
            mark(vertex, UNFIT);
            mark(first, UNFIT);
        }
    });
    for_each(mesh.face_count(), 4096, |face| {
        let face = FaceId::new(face);
        if absent(face) {
            for &vertex in mesh.face(face) {
                mark(vertex, UNFIT);
            }
        }
    });
    for_each(edges.len(), 4096, |edge| {
        let edge = EdgeId::new(edge);
        let opposite = matches!(edges.sides(edge), [a, b] if a.runs_up() != b.runs_up());
        if !opposite {
            for vertex in edges.ends(edge) {
                mark(vertex, UNFIT);
            }
        }
    });
    for_each(hierarchy.len(), 4096, |triangle| {
        let corners = hierarchy.corners(triangle);
        let [up, down] = signs(corners);
        let lacks = (!up & NOT_UP) | (!down & NOT_UP) << 3;
        for (i, vertex) in hierarchy.vertices(triangle).into_iter().enumerate() {
            let crossed = crossed([up, down], [0, 1, 2].map(|k| corners[(i + k) % 3]));
            let before = mark(vertex, lacks | crossed << 6);
            let twice = crossed & (before >> 6);
            if twice != 0 {
                mark(vertex, twice << 9);
            }
        }
    });
    marks
        .into_iter()
        .map(|marks| {
            let marks = marks.into_inner();
            let alike = !(marks & NOT_UP) | !(marks >> 3 & NOT_UP);
            let once = (marks & CROSSED) >> 6 & !(marks >> 9 & NOT_UP);
            marks & UNFIT == 0 && alike & once & NOT_UP != 0
        })
        .collect()
}

/// A triangle's sign of area in the planes zx, xy and yz, one bit each: surely up, surely down.
fn signs([a, b, c]: [DVec3; 3]) -> [u16; 2] {
    let (u, v) = (b - a, c - a);
    // Products of (x, y, z) with (y, z, x) in one and the other order: xy, yz and zx.
    let turned = |w: DVec3| DVec3::new(w.y, w.z, w.x);
    let (left, right) = (u * turned(v), turned(u) * v);
    let area = left - right;
    let doubt = 4.0 * f64::EPSILON * (left.abs() + right.abs()) + f64::MIN_POSITIVE;
    // By the second axis of each plane: zx by x, xy by y, yz by z.
    let by_axis = |plane: glam::BVec3| glam::BVec3::new(plane.z, plane.x, plane.y);
    [
        by_axis(area.cmpgt(doubt)).bitmask() as u16,
        by_axis(area.cmplt(-doubt)).bitmask() as u16,
    ]
}

/// In which planes a triangle with these signs lies across the ray from its first corner along
/// the plane's first axis; its first border counts as in it, its last as beyond.
fn crossed([up, down]: [u16; 2], [v, a, b]: [DVec3; 3]) -> u16 {
    let from = |low: DVec3, high: DVec3| (low.cmple(v) & high.cmpgt(v)).bitmask() as u16;
    up & from(a, b) | down & from(b, a)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::spatial::{exact_weld, faces_meet};
    use proptest::prelude::*;

    fn flagged(mesh: &Mesh) -> (TriangleHierarchy<'_>, Vec<bool>) {
        let place = exact_weld(mesh.positions());
        let faces: Vec<FaceId> = mesh.face_ids().collect();
        let hierarchy = TriangleHierarchy::welded(mesh, &faces, |_| false, |v| place[v.index()]);
        let edges = Edges::of(mesh);
        let flags = height_fields(&hierarchy, mesh, &edges, &place, |_| false);
        (hierarchy, flags)
    }

    /// A fan of `count` triangles that goes round its middle this many times.
    fn fan(count: u32, times: f64, height: impl Fn(u32) -> f64) -> Mesh {
        let mut mesh = Mesh::default();
        let middle = mesh.push_vertex(DVec3::ZERO);
        for i in 0..count {
            let angle = times * std::f64::consts::TAU * f64::from(i) / f64::from(count);
            mesh.push_vertex(DVec3::new(angle.cos(), angle.sin(), height(i)));
        }
        for i in 0..count {
            mesh.push_face([middle, VertexId(1 + i), VertexId(1 + (i + 1) % count)]);
        }
        mesh
    }

    #[test]
    fn a_fan_that_goes_round_once_is_one_and_one_that_goes_round_twice_is_not() {
        let ragged = |i: u32| f64::from(i * 7 % 5);
        assert!(flagged(&fan(9, 1.0, ragged)).1[0]);
        assert!(flagged(&fan(9, -1.0, ragged)).1[0]);
        assert!(!flagged(&fan(9, 2.0, ragged)).1[0]);
        assert!(!flagged(&fan(9, 3.0, |_| 0.0)).1[0]);
        assert!(!flagged(&fan(9, 1.0, ragged)).1[1], "its border is none");
    }

    #[test]
    fn nearly_every_vertex_of_a_smooth_surface_is_one() {
        let mesh = crate::shapes::bumpy_sphere(20_000);
        let flags = flagged(&mesh).1;
        let flagged = flags.iter().filter(|&&flag| flag).count();
        assert!(flagged * 100 > mesh.vertex_count() * 95, "{flagged}");
    }

    proptest! {
        #[test]
        fn triangles_at_such_a_vertex_meet_only_where_they_share(
            moves in prop::collection::vec(prop::array::uniform3(-3..=3i8), 26),
            turned in any::<bool>(),
        ) {
            let mut mesh = crate::shapes::cuboid(DVec3::splat(-4.0), DVec3::splat(4.0), 2);
            prop_assert_eq!(mesh.vertex_count(), moves.len());
            for (position, by) in mesh.positions_mut().iter_mut().zip(&moves) {
                *position += DVec3::from_array(by.map(f64::from));
            }
            if turned {
                mesh.positions_mut().iter_mut().for_each(|p| p.x = -p.x);
            }
            let (hierarchy, flags) = flagged(&mesh);
            for s in 0..hierarchy.len() {
                for t in s + 1..hierarchy.len() {
                    let (a, b) = (hierarchy.vertices(s), hierarchy.vertices(t));
                    if a.iter().any(|v| b.contains(v) && flags[v.index()]) {
                        let meet = faces_meet([a, b], [hierarchy.corners(s), hierarchy.corners(t)]);
                        prop_assert!(!meet);
                    }
                }
            }
        }
    }
}
