//! Open edges: the borders of holes and sheets.
//!
//! The places are rims, then chains of open edges that end at non-manifold edges.

use super::mirror_plane_faces::mirror_plane;
use crate::audit::Level::{Block, Note, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Place, Remedy, Search};
use crate::mesh::RimId;
use crate::topology::Rim;

pub(super) const CHECK: Check = Check {
    name: "open-edges",
    counts: "edges in exactly one face side; rims in a mirror plane are left out",
    harm: "a printer can't tell inside from outside; smoothing and booleans tear here",
    remedy: Remedy::Fill,
    drawing: r"
    *---*---*---*
    |   |   |   |
    *---o===o---*
    |   !   !   |    o===o  the rim of a hole: each edge
    *---o===o---*    !   !  of it has a face on one side only
    |   |   |   |
    *---*---*---*",
    levels: Levels::new(Warn, Block, Note, Block),
    needs: Needs::Connectivity,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let edges = &analysis.edges;
    let count = edges.ids().filter(|&e| edges.sides(e).len() == 1).count();
    let on_mirror = |rim: &Rim| match mirror_plane(analysis, search) {
        Some(in_plane) => rim.vertices.iter().all(|&v| in_plane(v)),
        None => false,
    };
    let rims = &analysis.rims;
    let left_out = rims.closed.iter().filter(|rim| on_mirror(rim));
    let left_out: usize = left_out.map(|rim| rim.edges.len()).sum();
    let closed = rims.closed.iter().enumerate();
    let mut places: Vec<Place> = closed
        .filter(|(_, rim)| !on_mirror(rim))
        .map(|(i, _)| RimId::new(i))
        .take(search.limit)
        .map(|rim| Place::rim(analysis, rim))
        .collect();
    let broken = rims.broken.iter().map(|chain| {
        let ends = chain.edges.iter().map(|&e| edges.ends(e)).collect();
        Place::edges(analysis, ends).measured(chain.length)
    });
    places.extend(broken.take(search.limit - places.len()));
    Ok(Found {
        count: count - left_out,
        place_count: rims.closed.iter().filter(|rim| !on_mirror(rim)).count() + rims.broken.len(),
        places,
        measure: None,
    })
}
