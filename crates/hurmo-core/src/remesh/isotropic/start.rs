//! What a run starts with: what stays, and the sheet of the rest.

use super::feature_edges::{FeatureEdges, Hold};
use super::sheet::{NEW, ReferenceSurface, Sheet};
use crate::mesh::VertexId;
use crate::topology::{LinkedMesh, Marks};
use glam::DVec3;

/// Freezes the vertices on open rims.
pub(super) fn freeze_rims(net: &LinkedMesh, holds: &mut [Hold]) {
    for t in 0..net.places() as u32 {
        let Some([a, b, c]) = net.triangle(t) else {
            continue;
        };
        for (p, q) in [(a, b), (b, c), (c, a)] {
            if net.on_edge(p, q).nth(1).is_none() {
                holds[p as usize] = Hold::Frozen;
                holds[q as usize] = Hold::Frozen;
            }
        }
    }
}

/// Freezes the vertices between faces that are touched and others.
pub(super) fn freeze_border(
    net: &LinkedMesh,
    origins: &[u32],
    touched: &[bool],
    holds: &mut [Hold],
) {
    for t in 0..net.places() as u32 {
        if let Some(triangle) = net.triangle(t)
            && !touched[origins[t as usize] as usize]
        {
            triangle
                .iter()
                .for_each(|&v| holds[v as usize] = Hold::Frozen);
        }
    }
}

/// The sheet of the faces that are touched.
pub(super) fn sheet_of(
    net: &LinkedMesh,
    origins: Vec<u32>,
    touched: &[bool],
    holds: Vec<Hold>,
    lines: FeatureEdges,
    ground: &ReferenceSurface<'_>,
    edge: f64,
) -> Sheet {
    let first = |v| net.around(v).next().map_or(NEW, |(t, _)| t);
    let vertices = 0..net.positions.len() as u32;
    let near: Vec<u32> = vertices.clone().map(first).collect();
    let bounds = net
        .positions
        .iter()
        .fold((DVec3::INFINITY, DVec3::NEG_INFINITY), |(low, high), &p| {
            (low.min(p), high.max(p))
        });
    let is_whole = net.living() == net.places() && touched.iter().all(|&touched| touched);
    let (own_net, own) = match is_whole {
        true => (net.clone(), origins),
        false => {
            let living = (0..net.places() as u32)
                .filter(|&t| touched[ground.carried.faces()[t as usize].index()])
                .filter_map(|t| Some((t, net.triangle(t)?)));
            let (own, triangles): (Vec<u32>, Vec<[VertexId; 3]>) = living
                .map(|(t, triangle)| (origins[t as usize], triangle.map(VertexId)))
                .unzip();
            (LinkedMesh::new(net.positions.clone(), &triangles), own)
        }
    };
    Sheet {
        marks: Marks::new(net.positions.len()),
        wanted: match ground.wanted {
            Some(wanted) => (0..net.positions.len())
                .map(|v| wanted.of_vertex(v))
                .collect(),
            None => Vec::new(),
        },
        is_coarse: false,
        edge: if ground.wanted.is_some() { 1.0 } else { edge },
        net: own_net,
        origins: own,
        holds,
        near,
        source: vertices.collect(),
        lines,
        bounds,
    }
}
