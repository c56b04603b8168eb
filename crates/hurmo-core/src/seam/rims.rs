//! Where seams run into open rims.

use super::line::Seam;
use crate::mesh::Model;
use crate::topology::Edges;
use glam::DVec3;
use rustc_hash::FxHashSet;

/// The places at which edges between faces of different solids end in an open rim. `tidied` is the model
/// once faces without area are gone: round those, edges look open that are not.
pub fn at_rims(model: &Model, solids: &[u32], tidied: &Model) -> Vec<DVec3> {
    let key = |place: DVec3| place.to_array().map(f64::to_bits);
    let edges = Edges::of(&tidied.mesh);
    let open = edges.ids().filter(|&edge| edges.sides(edge).len() == 1);
    let ends = open.flat_map(|edge| edges.ends(edge));
    let on_rim: FxHashSet<[u64; 3]> = ends.map(|v| key(tidied.mesh.position(v))).collect();
    let mut on_seam = Seam::of(&model.mesh, solids).edges.concat();
    on_seam.sort_unstable();
    on_seam.dedup();
    let places = on_seam.into_iter().map(|v| model.mesh.position(v));
    places
        .filter(|&place| on_rim.contains(&key(place)))
        .collect()
}
