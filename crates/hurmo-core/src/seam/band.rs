//! The faces within reach of a seam, as far as they hang together with it.

use super::line::Seam;
use crate::attribute_transfer::Carried;
use crate::mesh::{FaceId, Model};
use crate::parallel::listed_in_runs;
use crate::spatial::closest_on_triangle;
use crate::topology::Edges;
use glam::DVec3;

/// Places along a seam lie no farther apart than this share of the reach: what is found lies within
/// it by less than one in a hundred.
const STEP: f64 = 0.25;

/// The faces that come nearer to an edge of a seam than it reaches, and are joined to it by such.
pub(super) fn faces_near(
    model: &Model,
    edges: &Edges,
    seam: &Seam,
    reach: &(dyn Fn(usize) -> f64 + Sync),
) -> Vec<bool> {
    let carried = Carried::by(model);
    let places = seam.places(&model.mesh, |edge| STEP * reach(edge));
    let near: Vec<FaceId> = listed_in_runs(places.len(), 64, |run, near| {
        let each = places[run].iter();
        near.extend(each.flat_map(|&(edge, place)| reached(&carried, place, reach(edge))));
        near.sort_unstable();
        near.dedup();
    });
    let mut is_near = vec![false; model.mesh.face_count()];
    for face in near {
        is_near[face.index()] = true;
    }
    joined_to(model, edges, &seam.faces, &is_near)
}

/// The faces that come nearer to a place than `reach`.
fn reached(carried: &Carried<'_>, place: DVec3, reach: f64) -> impl Iterator<Item = FaceId> {
    let (low, high) = (place - DVec3::splat(reach), place + DVec3::splat(reach));
    let all = carried.tree().reaching_into(low, high, usize::MAX);
    let all = all.unwrap_or_default().into_iter();
    let near = all.filter(move |(_, corners)| {
        let found = closest_on_triangle(place, *corners);
        found.distance_squared(place) < reach * reach
    });
    near.map(|(triangle, _)| carried.faces()[triangle as usize])
}

/// Those of some faces that are joined by each other to the first ones, and these.
fn joined_to(model: &Model, edges: &Edges, first: &[FaceId], among: &[bool]) -> Vec<bool> {
    let mut joined = vec![false; among.len()];
    let mut todo = Vec::new();
    for &face in first {
        if !std::mem::replace(&mut joined[face.index()], true) {
            todo.push(face);
        }
    }
    while let Some(face) = todo.pop() {
        for corner in model.mesh.face_range(face) {
            let Some(edge) = edges.at_corner(corner) else {
                continue;
            };
            for side in edges.sides(edge) {
                let other = side.face.index();
                if among[other] && !std::mem::replace(&mut joined[other], true) {
                    todo.push(side.face);
                }
            }
        }
    }
    joined
}
