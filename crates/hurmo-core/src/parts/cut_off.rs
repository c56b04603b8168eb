//! Parts that were pieces of something larger before.

use crate::measure::{Floating, parts_measured};
use crate::mesh::{FaceId, Mesh, PartId};
use crate::spatial::{TriangleTree, welded};
use crate::topology::{Edges, Parts};
use crate::triangulate::all_triangles;
use rustc_hash::FxHashMap;

/// This many times as far across is larger.
const LARGER: f64 = 1.5;
/// This many faces of a part say of what it was a piece.
const ASKED: usize = 32;

/// The floating parts of a mesh that were pieces of larger ones in what it was made of: what was cut
/// off since is nothing that anyone wanted. Points at one place hang together there. Cost: a tree over
/// what was before, and some look-ups for each floating part.
pub fn cut_off(before: &Mesh, mesh: &Mesh) -> Vec<PartId> {
    let parts = Parts::of(mesh);
    let measures = parts_measured(mesh, &parts);
    let closed = parts.closed(mesh, &Edges::of(mesh));
    let floating = Floating::of(&measures, |part| closed[part.index()]);
    let mut candidates: Vec<PartId> = floating.scraps.to_vec();
    candidates.extend(floating.perhaps_wanted.iter().copied());
    candidates.sort_unstable();
    if candidates.is_empty() {
        return candidates;
    }
    let welded = welded(before);
    let were = Parts::of(&welded);
    let sizes = parts_measured(&welded, &were);
    let (triangles, faces) = all_triangles(&welded);
    let corners = |i: usize| triangles[i].map(|v| welded.position(v));
    let tree = TriangleTree::new(triangles.len(), corners);
    let mut of_part: FxHashMap<PartId, Vec<FaceId>> = FxHashMap::default();
    for face in mesh.face_ids() {
        let part = parts.of_face(mesh, face);
        if let Some(part) = part.filter(|part| candidates.binary_search(part).is_ok()) {
            of_part.entry(part).or_default().push(face);
        }
    }
    let was = |face: &FaceId| {
        let found = tree.closest(mesh.face_middle(*face))?;
        were.of_face(&welded, faces[found.triangle as usize])
    };
    candidates.retain(|part| {
        let Some(own) = of_part.get(part) else {
            return false;
        };
        let across = measures[part.index()].bounds.diagonal();
        let asked = own.iter().step_by(own.len().div_ceil(ASKED));
        let (mut larger, mut all) = (0, 0);
        for old in asked.filter_map(was) {
            all += 1;
            larger += usize::from(sizes[old.index()].bounds.diagonal() > LARGER * across);
        }
        2 * larger > all
    });
    candidates
}
