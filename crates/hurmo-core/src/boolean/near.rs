//! What lies near some faces of a mesh: where rounding moved a surface, only there can it have made
//! anything cross, and away from there winding numbers are what they were.

use crate::geometry::Bounds;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::parallel::{mapped, mapped_of};
use crate::spatial::{
    Bounds32, BoxTree, closest_on_triangle, exact_weld, overlap, rounded_outward,
};
use glam::DVec3;
use rayon::prelude::*;
use std::cell::Cell;

/// The boxes of some faces, to find others near them.
pub(super) struct Near<'m> {
    mesh: &'m Mesh,
    /// By place along the tree's curve.
    faces: Vec<FaceId>,
    boxes: Vec<Bounds32>,
    tree: BoxTree,
    distance: f64,
}

impl<'m> Near<'m> {
    /// The boxes of marked faces, with so much room round them.
    pub fn of(mesh: &'m Mesh, marked: &[bool], distance: f64) -> Self {
        let marked = mesh.face_ids().filter(|face| marked[face.index()]);
        let faces: Vec<FaceId> = marked.collect();
        let boxes: Vec<[DVec3; 2]> = mapped_of(&faces, 1024, |&face| {
            let [low, high] = bounds(mesh, face);
            [low - distance, high + distance]
        });
        let tree = BoxTree::new(faces.len(), |i| boxes[i]);
        let along = || tree.order().iter().map(|&i| i as usize);
        Self {
            faces: along().map(|i| faces[i]).collect(),
            boxes: along().map(|i| rounded_outward(boxes[i])).collect(),
            tree,
            mesh,
            distance,
        }
    }

    /// The faces whose boxes have a point in common with one of the boxes; the marked ones are among
    /// them.
    pub fn reached(&self) -> Vec<bool> {
        mapped(self.mesh.face_count(), 1024, |i| {
            self.any(rounded_outward(bounds(self.mesh, FaceId::new(i))), |_| true)
        })
    }

    /// Whether a place is in one of the boxes.
    pub fn holds(&self, place: DVec3) -> bool {
        self.any(rounded_outward([place; 2]), |_| true)
    }

    /// Whether a place is within the distance of a marked face; of one that is no triangle, of its box.
    pub fn is_within(&self, place: DVec3) -> bool {
        self.any(rounded_outward([place; 2]), |i| {
            let corners = self.mesh.face(self.faces[i]);
            let &[a, b, c] = corners else { return true };
            let closest = closest_on_triangle(place, [a, b, c].map(|v| self.mesh.position(v)));
            closest.distance(place) <= self.distance
        })
    }

    fn any(&self, of: Bounds32, is_so: impl Fn(usize) -> bool) -> bool {
        let any = Cell::new(false);
        self.tree.visit(
            |node| !any.get() && overlap(node, of),
            |i| any.set(any.get() || overlap(self.boxes[i], of) && is_so(i)),
        );
        any.get()
    }
}

/// The first vertex at each vertex's place, of those that marked faces have; of others, themselves.
pub(super) fn places(mesh: &Mesh, marked: &[bool]) -> Vec<VertexId> {
    let mut vertices: Vec<VertexId> = mesh
        .faces()
        .filter(|(face, _)| marked[face.index()])
        .flat_map(|(_, corners)| corners)
        .copied()
        .collect();
    vertices.par_sort_unstable();
    vertices.dedup();
    let positions: Vec<DVec3> = vertices.iter().map(|&v| mesh.position(v)).collect();
    let mut place: Vec<VertexId> = (0..mesh.vertex_count()).map(VertexId::new).collect();
    for (vertex, first) in vertices.iter().zip(exact_weld(&positions)) {
        place[vertex.index()] = vertices[first.index()];
    }
    place
}

fn bounds(mesh: &Mesh, face: FaceId) -> [DVec3; 2] {
    let bounds = Bounds::of(mesh.face_points(face));
    bounds.map_or([DVec3::INFINITY, DVec3::NEG_INFINITY], |of| {
        [of.min, of.max]
    })
}
