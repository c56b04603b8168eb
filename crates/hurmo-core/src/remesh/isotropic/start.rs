//! What a run starts with: what stays, and the sheet of the rest.

use super::feature_edges::{FeatureEdges, VertexConstraint};
use super::sheet::{NEW, ReferenceSurface, Sheet};
use crate::mesh::VertexId;
use crate::topology::{LinkedMesh, Marks};
use glam::DVec3;

/// Freezes the vertices on open rims.
pub(super) fn freeze_rims(linked: &LinkedMesh, constraints: &mut [VertexConstraint]) {
    for t in 0..linked.places() as u32 {
        let Some([a, b, c]) = linked.triangle(t) else {
            continue;
        };
        for (p, q) in [(a, b), (b, c), (c, a)] {
            if linked.on_edge(p, q).nth(1).is_none() {
                constraints[p as usize] = VertexConstraint::Frozen;
                constraints[q as usize] = VertexConstraint::Frozen;
            }
        }
    }
}

/// Freezes the vertices between faces that are touched and others.
pub(super) fn freeze_border(
    linked: &LinkedMesh,
    origins: &[u32],
    touched: &[bool],
    constraints: &mut [VertexConstraint],
) {
    for t in 0..linked.places() as u32 {
        if let Some(triangle) = linked.triangle(t)
            && !touched[origins[t as usize] as usize]
        {
            triangle
                .iter()
                .for_each(|&v| constraints[v as usize] = VertexConstraint::Frozen);
        }
    }
}

/// The sheet of the faces that are touched. `constraints`: of all vertices, with the feature edges.
pub(super) fn sheet_of(
    linked: &LinkedMesh,
    origins: Vec<u32>,
    touched: &[bool],
    (constraints, lines): (Vec<VertexConstraint>, FeatureEdges),
    reference: &ReferenceSurface<'_>,
    edge: f64,
) -> Sheet {
    let first = |v| linked.around(v).next().map_or(NEW, |(t, _)| t);
    let vertices = 0..linked.positions.len() as u32;
    let near: Vec<u32> = vertices.clone().map(first).collect();
    let bounds = linked
        .positions
        .iter()
        .fold((DVec3::INFINITY, DVec3::NEG_INFINITY), |(low, high), &p| {
            (low.min(p), high.max(p))
        });
    let is_whole = linked.living() == linked.places() && touched.iter().all(|&touched| touched);
    let (own_net, own) = match is_whole {
        true => (linked.clone(), origins),
        false => {
            let living = (0..linked.places() as u32)
                .filter(|&t| touched[reference.carried.faces()[t as usize].index()])
                .filter_map(|t| Some((t, linked.triangle(t)?)));
            let (own, triangles): (Vec<u32>, Vec<[VertexId; 3]>) = living
                .map(|(t, triangle)| (origins[t as usize], triangle.map(VertexId)))
                .unzip();
            (LinkedMesh::new(linked.positions.clone(), &triangles), own)
        }
    };
    Sheet {
        marks: Marks::new(linked.positions.len()),
        sizing: match reference.sizing {
            Some(sizing) => (0..linked.positions.len())
                .map(|v| sizing.of_vertex(v))
                .collect(),
            None => Vec::new(),
        },
        is_coarse: false,
        edge: if reference.sizing.is_some() {
            1.0
        } else {
            edge
        },
        linked: own_net,
        origins: own,
        constraints,
        near,
        source: vertices.collect(),
        lines,
        bounds,
    }
}
