//! Which closed patches are the walls of hollows.
//!
//! A closed patch most of whose faces look inward is either inside out or the wall of a hollow.
//! It is a hollow when it lies wholly inside other closed patches, and more of those are solid
//! than hollow. Whether it lies inside is decided by the winding numbers of the other patch at
//! its vertices. Larger patches are settled first, so that those round a patch are known.
//! Cost: nothing unless boxes of patches lie in each other; else a tree over the outer patch,
//! and a ray for each vertex of the inner one.

use crate::geometry::Bounds;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::parallel::all;
use crate::spatial::{BoxTree, Enclosing, TriangleHierarchy, overlap, rounded_outward};
use glam::DVec3;
use rayon::prelude::*;
use std::cell::OnceCell;

/// The winding number from which on a point is inside a closed patch: 1 inside, about ½ on the
/// surface.
pub(crate) const INSIDE: f64 = 0.9;

/// A closed patch.
pub(super) struct Shell {
    /// Its number.
    pub patch: u32,
    /// Whether most of its faces look inward.
    pub inward: bool,
}

/// The patches that are hollows. `reversed` says which faces must turn for every closed patch
/// to look outward.
pub(super) fn hollows(
    mesh: &Mesh,
    of_face: &[u32],
    reversed: &[bool],
    mut shells: Vec<Shell>,
) -> Vec<u32> {
    if !shells.iter().any(|shell| shell.inward) || shells.len() < 2 {
        return Vec::new();
    }
    let bounds = bounds_by_patch(mesh, of_face);
    let bounds_of = |shell: &Shell| bounds[shell.patch as usize];
    let size = |shell: &Shell| bounds_of(shell).diagonal();
    shells.sort_by(|a, b| size(b).total_cmp(&size(a)).then(a.patch.cmp(&b.patch)));
    let boxes = BoxTree::new(shells.len(), |shell| {
        let bounds = bounds_of(&shells[shell]);
        [bounds.min, bounds.max]
    });
    // The shells whose boxes lie round that of one, the smallest first.
    let around = |inner: usize| {
        let bounds = bounds_of(&shells[inner]);
        let mut outers = Vec::new();
        boxes.visit(
            |node| overlap(node, rounded_outward([bounds.min, bounds.max])),
            |item| {
                let outer = boxes.order()[item] as usize;
                if outer < inner && bounds_of(&shells[outer]).holds(&bounds) {
                    outers.push(outer);
                }
            },
        );
        outers.sort_unstable_by(|a, b| b.cmp(a));
        outers
    };
    let mut inward = (0..shells.len()).filter(|&shell| shells[shell].inward);
    if inward.all(|inner| around(inner).is_empty()) {
        return Vec::new();
    }
    let faces = faces_of(&shells, mesh, of_face, bounds.len());
    let hierarchies: Vec<OnceCell<TriangleHierarchy<'_>>> =
        shells.iter().map(|_| OnceCell::new()).collect();
    let enclosing: Vec<OnceCell<Enclosing<'_, '_>>> =
        shells.iter().map(|_| OnceCell::new()).collect();
    let holds_all = |outer: usize, places: &[DVec3]| {
        let hierarchy =
            || TriangleHierarchy::of(mesh, &faces[outer], |face| reversed[face.index()]);
        let new = || Enclosing::of(hierarchies[outer].get_or_init(hierarchy));
        let outer = enclosing[outer].get_or_init(new);
        let holds = |&place: &DVec3| outer.times(place) > INSIDE;
        places.first().is_none_or(holds) && all(places.len(), 256, |i| holds(&places[i]))
    };
    let mut inside: Vec<Vec<usize>> = vec![Vec::new(); shells.len()];
    for inner in (0..shells.len()).filter(|&shell| shells[shell].inward) {
        let vertices = corners_once(mesh, &faces[inner]).into_iter();
        let places: Vec<DVec3> = vertices.map(|v| mesh.position(v)).collect();
        let mut is_in = vec![false; inner];
        for outer in around(inner) {
            // What holds a shell that holds this one holds this one, too.
            if !is_in[outer] && holds_all(outer, &places) {
                is_in[outer] = true;
                inside[outer]
                    .iter()
                    .for_each(|&beyond| is_in[beyond] = true);
            }
        }
        inside[inner] = (0..inner).filter(|&outer| is_in[outer]).collect();
    }
    let hollow = are_hollow(&shells, &inside);
    let list = shells.iter().zip(hollow).filter(|(_, hollow)| *hollow);
    list.map(|(shell, _)| shell.patch).collect()
}

/// The faces of each shell, of this many patches.
fn faces_of(shells: &[Shell], mesh: &Mesh, of_face: &[u32], patches: usize) -> Vec<Vec<FaceId>> {
    let mut faces: Vec<Vec<FaceId>> = vec![Vec::new(); shells.len()];
    let mut number = vec![usize::MAX; patches];
    for (i, shell) in shells.iter().enumerate() {
        number[shell.patch as usize] = i;
    }
    for face in mesh.face_ids() {
        if let Some(list) = faces.get_mut(number[of_face[face.index()] as usize]) {
            list.push(face);
        }
    }
    faces
}

/// Which shells are hollows: they look inward, and lie in more solids than hollows. `inside`: those
/// round each, which come before it.
fn are_hollow(shells: &[Shell], inside: &[Vec<usize>]) -> Vec<bool> {
    let mut hollow = vec![false; shells.len()];
    for inner in 0..shells.len() {
        let around = inside[inner].iter();
        let sum: i32 = around
            .map(|&outer| if hollow[outer] { -1 } else { 1 })
            .sum();
        hollow[inner] = shells[inner].inward && sum > 0;
    }
    hollow
}

/// The vertices of some faces, each once.
pub(crate) fn corners_once(mesh: &Mesh, faces: &[FaceId]) -> Vec<VertexId> {
    let all = faces.iter().flat_map(|&face| mesh.face(face));
    let mut vertices: Vec<VertexId> = all.copied().collect();
    vertices.par_sort_unstable();
    vertices.dedup();
    vertices
}

fn bounds_by_patch(mesh: &Mesh, of_face: &[u32]) -> Vec<Bounds> {
    let mut bounds = vec![Bounds::NOTHING; of_face.iter().max().map_or(0, |&p| p as usize + 1)];
    for face in mesh.face_ids() {
        let bounds = &mut bounds[of_face[face.index()] as usize];
        mesh.face_points(face)
            .for_each(|point| bounds.take_in(point));
    }
    bounds
}
