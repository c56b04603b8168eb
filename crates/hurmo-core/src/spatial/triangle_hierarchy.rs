//! The triangles of a mesh along a space-filling curve, under a hierarchy of boxes: what
//! contacts, rays and winding numbers are worked out on.

use super::boxes::{Bounds32, BoxTree, rounded_outward};
use super::closest::{Closest, bounds_of, each_from_the_last, mean_cost, nearest, nearest_from};
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::parallel::{mapped_of, of_runs};
use crate::triangulate::polygon;
use glam::DVec3;

/// Triangles, each with the face that it was cut from.
pub struct TriangleHierarchy<'m> {
    positions: &'m [DVec3],
    /// By place along the curve.
    triangles: Vec<[VertexId; 3]>,
    faces: Vec<FaceId>,
    tree: BoxTree,
}

impl<'m> TriangleHierarchy<'m> {
    /// The triangles of some faces; those for which `turned` says so, the other way round.
    pub fn of(mesh: &'m Mesh, faces: &[FaceId], turned: impl Fn(FaceId) -> bool + Sync) -> Self {
        Self::cut_and_sorted(mesh, faces, &turned, &|vertex| vertex)
    }

    /// The same, over the vertices that `place` puts in the place of the mesh's; they must be
    /// where those are.
    pub fn welded(
        mesh: &'m Mesh,
        faces: &[FaceId],
        turned: impl Fn(FaceId) -> bool + Sync,
        place: impl Fn(VertexId) -> VertexId + Sync,
    ) -> Self {
        Self::cut_and_sorted(mesh, faces, &turned, &place)
    }

    fn cut_and_sorted(
        mesh: &'m Mesh,
        faces: &[FaceId],
        turned: &(dyn Fn(FaceId) -> bool + Sync),
        place: &(dyn Fn(VertexId) -> VertexId + Sync),
    ) -> Self {
        let of_run = |run| Cut::of(mesh, &faces[run], turned, place);
        let cut: Vec<Cut> = of_runs(faces.len(), RUN, of_run);
        let triangles: Vec<[VertexId; 3]> = joined(cut.iter().map(|cut| &cut.triangles[..]));
        let from: Vec<FaceId> = joined(cut.iter().map(|cut| &cut.faces[..]));
        drop(cut);
        let positions = mesh.positions();
        let corners = |i: usize| triangles[i].map(|v| positions[v.index()]);
        let middle = |i: usize| corners(i).iter().sum::<DVec3>() / 3.0;
        let tree = BoxTree::by_points(triangles.len(), |i| bounds_of(&corners(i)), middle);
        let sorted = mapped_of(tree.order(), 4096, |&i| triangles[i as usize]);
        let faces = mapped_of(tree.order(), 4096, |&i| from[i as usize]);
        Self {
            positions,
            triangles: sorted,
            faces,
            tree,
        }
    }

    /// The closest point of the surface that is nearer than `limit`, and its triangle's place along
    /// the curve.
    pub fn closest_within(&self, to: DVec3, limit: f64) -> Option<Closest> {
        nearest(&self.tree, |i| self.corners(i), to, limit * limit)
    }

    /// The closest points to a list of points that lie near each other as they follow.
    pub fn closest_to_each(&self, points: &[DVec3]) -> Vec<Option<Closest>> {
        each_from_the_last(points, |to, last| {
            nearest_from(&self.tree, |i| self.corners(i), to, last)
        })
    }

    /// About how many triangles a search for the closest point looks at.
    pub fn mean_cost(&self, places: &[DVec3]) -> f64 {
        mean_cost(&self.tree, |i| self.corners(i), places)
    }

    /// The whole mesh, each face as it stands.
    pub fn whole(mesh: &'m Mesh) -> Self {
        Self::of(mesh, &mesh.face_ids().collect::<Vec<_>>(), |_| false)
    }

    /// How many triangles.
    pub fn len(&self) -> usize {
        self.triangles.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.triangles.is_empty()
    }

    /// The hierarchy; its items are the triangles in the order of this hierarchy.
    pub fn tree(&self) -> &BoxTree {
        &self.tree
    }

    /// How many vertices the mesh has.
    pub fn vertex_count(&self) -> usize {
        self.positions.len()
    }

    /// Where a vertex is.
    #[inline]
    pub fn position(&self, vertex: VertexId) -> DVec3 {
        self.positions[vertex.index()]
    }

    /// The vertices of a triangle.
    #[inline]
    pub fn vertices(&self, triangle: usize) -> [VertexId; 3] {
        self.triangles[triangle]
    }

    /// The corners of a triangle.
    #[inline]
    pub fn corners(&self, triangle: usize) -> [DVec3; 3] {
        self.triangles[triangle].map(|v| self.positions[v.index()])
    }

    /// The middle of a triangle, and a step to its front: a millionth of its size, far more than
    /// rounding, far less than anything near.
    pub fn middle_and_offset(&self, triangle: usize) -> (DVec3, DVec3) {
        let [a, b, c] = self.corners(triangle);
        let across = (b - a).cross(c - a);
        let offset = across.normalize_or_zero() * across.length().sqrt() * 1e-6;
        ((a + b + c) / 3.0, offset)
    }

    /// The face that a triangle was cut from.
    #[inline]
    pub fn face(&self, triangle: usize) -> FaceId {
        self.faces[triangle]
    }

    /// The box round a triangle.
    #[inline]
    pub fn bounds(&self, triangle: usize) -> Bounds32 {
        rounded_outward(bounds_of(&self.corners(triangle)))
    }
}

/// How many faces are cut into triangles at a time.
const RUN: usize = 1 << 14;

/// Some faces, cut into triangles.
#[derive(Default)]
struct Cut {
    triangles: Vec<[VertexId; 3]>,
    faces: Vec<FaceId>,
}

impl Cut {
    fn of(
        mesh: &Mesh,
        faces: &[FaceId],
        turned: impl Fn(FaceId) -> bool,
        place: impl Fn(VertexId) -> VertexId,
    ) -> Self {
        let mut all = Self::default();
        let mut points = Vec::new();
        for &face in faces {
            let corners = mesh.face(face);
            let before = all.triangles.len();
            match *corners {
                [] | [_] | [_, _] => continue,
                [a, b, c] => all.triangles.push([a, b, c].map(&place)),
                _ => {
                    points.clear();
                    points.extend(mesh.face_points(face));
                    let cut = polygon(&points);
                    let cut = cut.iter().map(|t| t.map(|i| place(corners[i as usize])));
                    all.triangles.extend(cut);
                }
            }
            if turned(face) {
                all.triangles[before..]
                    .iter_mut()
                    .for_each(|t| t.swap(1, 2));
            }
            all.faces.resize(all.triangles.len(), face);
        }
        all
    }
}

fn joined<'a, T: Copy + 'a>(lists: impl Iterator<Item = &'a [T]> + Clone) -> Vec<T> {
    let mut all = Vec::with_capacity(lists.clone().map(<[T]>::len).sum());
    lists.for_each(|list| all.extend_from_slice(list));
    all
}
