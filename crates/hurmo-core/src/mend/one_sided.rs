//! One-sided patches, like a twisted band: cut open along few edges, so that they get two sides.
//!
//! Faces get a side each, walking over the patch; the edges across which sides don't agree are
//! the cut. Then faces swap their side as long as that makes the cut shorter. (The shortest cut
//! of all is not sought: for a band this finds one across it.) Cost: linear in faces, times the
//! few sweeps until nothing swaps.

use super::vertex_splits::{Cuts, with_own_vertices};
use crate::mesh::{EdgeId, FaceId, Mesh, Model};
use crate::orientation::Patches;
use crate::topology::{Edges, UnionFind, counted, join_across};
use rustc_hash::{FxHashMap, FxHashSet};
use std::collections::VecDeque;

const SWEEPS: usize = 100;

/// The faces across the edges of a face that has two sides there, and whether one of the two must
/// turn.
fn across<'a>(
    mesh: &'a Mesh,
    edges: &'a Edges,
    face: FaceId,
) -> impl Iterator<Item = (FaceId, bool)> + 'a {
    mesh.face_range(face).filter_map(move |corner| {
        let edge = edges.at_corner(corner)?;
        let &[a, b] = edges.sides(edge) else {
            return None;
        };
        let other = if a.face == face { b.face } else { a.face };
        Some((other, a.runs_up() == b.runs_up()))
    })
}

/// Which faces of one-sided patches to turn, as they are reached from one face of each: where what is
/// reached from two sides disagrees, there is a cut to be.
fn turned_from_seeds(
    mesh: &Mesh,
    edges: &Edges,
    is_one_sided: impl Fn(FaceId) -> bool,
) -> Vec<bool> {
    let mut turned: Vec<Option<bool>> = mesh
        .face_ids()
        .map(|face| (!is_one_sided(face)).then_some(false))
        .collect();
    for seed in mesh.face_ids() {
        if turned[seed.index()].is_some() {
            continue;
        }
        turned[seed.index()] = Some(false);
        let mut waiting = VecDeque::from([seed]);
        while let Some(face) = waiting.pop_front() {
            let here = turned[face.index()].unwrap_or(false);
            for (other, differ) in across(mesh, edges, face) {
                if turned[other.index()].is_none() {
                    turned[other.index()] = Some(here ^ differ);
                    waiting.push_back(other);
                }
            }
        }
    }
    turned.into_iter().map(|t| t.unwrap_or(false)).collect()
}

/// Makes the cuts shorter, face by face.
fn shorten(mesh: &Mesh, edges: &Edges, is_one_sided: impl Fn(FaceId) -> bool, turned: &mut [bool]) {
    let mut tried = vec![false; mesh.face_count()];
    for _ in 0..SWEEPS {
        let mut swapped = false;
        for face in mesh.face_ids().filter(|&face| is_one_sided(face)) {
            let here = turned[face.index()];
            let (all, wrong) =
                across(mesh, edges, face).fold((0, 0), |(all, wrong), (other, differ)| {
                    let disagrees = (here ^ turned[other.index()]) != differ;
                    (all + 1, wrong + usize::from(disagrees))
                });
            // Once each, a face may also swap where that changes no length: the cut straightens.
            let even = 2 * wrong == all && wrong > 0;
            if 2 * wrong > all || (even && !std::mem::replace(&mut tried[face.index()], true)) {
                turned[face.index()] = !here;
                swapped = true;
            }
        }
        if !swapped {
            return;
        }
    }
}

/// Cuts all one-sided patches; returns how many edges were cut. New vertices are moved `gap`
/// into their own faces.
pub(super) fn cut_open(model: &mut Model, gap: f64) -> usize {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let patches = Patches::of(mesh, &edges);
    let is_one_sided = |face: FaceId| {
        let patch = patches.of_face[face.index()] as usize;
        patches.one_sided[patch]
    };
    if !mesh.face_ids().any(is_one_sided) {
        return 0;
    }
    let mut turned = turned_from_seeds(mesh, &edges, is_one_sided);
    shorten(mesh, &edges, is_one_sided, &mut turned);
    let is_cut = |edge: EdgeId| match edges.sides(edge) {
        [a, b] => {
            let differ = a.runs_up() == b.runs_up();
            is_one_sided(a.face) && (turned[a.face.index()] ^ turned[b.face.index()]) != differ
        }
        _ => false,
    };
    let mut sets = UnionFind::new(mesh.corners().len());
    let mut cut_here = vec![false; mesh.vertex_count()];
    let mut count = 0;
    let mut alone = FxHashSet::default();
    for edge in edges.ids() {
        if is_cut(edge) {
            count += 1;
            alone.extend(edges.sides(edge).iter().map(|side| side.corner()));
            for vertex in edges.ends(edge) {
                cut_here[vertex.index()] = true;
            }
        } else {
            for pair in edges.sides(edge).windows(2) {
                join_across(mesh, &mut sets, pair[0], pair[1]);
            }
        }
    }
    let mut fans = counted(mesh, &edges, sets);
    *model = with_own_vertices(
        model,
        &edges,
        &mut fans,
        &Cuts {
            at: &cut_here,
            middles: &FxHashMap::default(),
            alone: &alone,
        },
        gap,
    );
    count
}
