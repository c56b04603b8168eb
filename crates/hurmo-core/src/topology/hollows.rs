//! Which closed patches are the walls of hollows.
//!
//! A closed patch most of whose faces look inward is either inside out or the wall of a hollow.
//! It is a hollow when it lies wholly inside other closed patches, and more of those are solid
//! than hollow. Whether it lies inside is told by the winding numbers of the other patch at
//! its vertices. Larger patches are settled first, so that those round a patch are known.
//! Cost: nothing unless boxes of patches lie in each other; else a tree over the outer patch,
//! and a ray for each vertex of the inner one.

use crate::measure::Bounds;
use crate::mesh::{FaceId, Mesh, VertexId};
use crate::spatial::{Enclosing, Soup};
use rayon::prelude::*;

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
    // Which shells lie round which; those that look inward are asked first, and then what lies
    // round them.
    let around: Vec<Vec<usize>> = (0..shells.len())
        .map(|inner| {
            let bounds = bounds_of(&shells[inner]);
            (0..inner)
                .filter(|&outer| shells[inner].inward && bounds_of(&shells[outer]).holds(&bounds))
                .collect()
        })
        .collect();
    if around.iter().all(Vec::is_empty) {
        return Vec::new();
    }
    let mut faces: Vec<Vec<FaceId>> = vec![Vec::new(); shells.len()];
    let mut number = vec![usize::MAX; bounds.len()];
    for (i, shell) in shells.iter().enumerate() {
        number[shell.patch as usize] = i;
    }
    for face in mesh.face_ids() {
        if let Some(list) = faces.get_mut(number[of_face[face.index()] as usize]) {
            list.push(face);
        }
    }
    let mut inside: Vec<Vec<usize>> = vec![Vec::new(); shells.len()];
    for outer in 0..shells.len() {
        let asked: Vec<usize> = (outer + 1..shells.len())
            .filter(|&inner| around[inner].contains(&outer))
            .collect();
        if asked.is_empty() {
            continue;
        }
        let soup = Soup::of(mesh, &faces[outer], |face| reversed[face.index()]);
        let enclosing = Enclosing::of(&soup);
        for inner in asked {
            let all_in = corners_once(mesh, &faces[inner])
                .par_iter()
                .all(|&vertex| enclosing.times(mesh.position(vertex)) > INSIDE);
            if all_in {
                inside[inner].push(outer);
            }
        }
    }
    let mut hollow = vec![false; shells.len()];
    for inner in 0..shells.len() {
        let sum: i32 = inside[inner]
            .iter()
            .map(|&outer| if hollow[outer] { -1 } else { 1 })
            .sum();
        hollow[inner] = shells[inner].inward && sum > 0;
    }
    let list = shells.iter().zip(hollow).filter(|(_, hollow)| *hollow);
    list.map(|(shell, _)| shell.patch).collect()
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
