//! What a run starts with: what stays, and the sheet of the rest.

use super::RemeshOptions;
use super::feature_edges::{FeatureEdges, VertexConstraint};
use super::sheet::{NEW, ReferenceSurface, Sheet};
use crate::mesh::VertexId;
use crate::topology::{self, LinkedMesh, Marks};
use glam::DVec3;
use std::borrow::Cow;

/// Collapses edges without length, at which no direction can be told: they would look like creases, and no
/// step may turn what lies round them. Where only a region is remeshed, all stays. By vertex, the one that it became; `None`
/// if nothing was collapsed.
pub(super) fn collapse_zero_length(
    linked: &mut LinkedMesh,
    options: &RemeshOptions,
) -> Option<Vec<u32>> {
    if options.faces.is_some() || !options.held.is_empty() {
        return None;
    }
    let mut is_held = vec![false; linked.positions.len()];
    if options.rims_exact {
        for v in rim_edges(linked).flatten() {
            is_held[v as usize] = true;
        }
    }
    for v in options.lines.iter().flatten() {
        is_held[v.index()] = true;
    }
    topology::collapse_zero_length(linked, |v| is_held[v as usize])
}

/// Triangles by the vertices that theirs became.
pub(super) fn renamed<'t>(
    triangles: &'t [[VertexId; 3]],
    joined: Option<&[u32]>,
) -> Cow<'t, [[VertexId; 3]]> {
    match joined {
        None => Cow::Borrowed(triangles),
        Some(to) => {
            let own = triangles.iter();
            own.map(|triangle| triangle.map(|v| VertexId(to[v.index()])))
                .collect()
        }
    }
}

/// The edges of one triangle.
fn rim_edges(linked: &LinkedMesh) -> impl Iterator<Item = [u32; 2]> + '_ {
    let triangles = (0..linked.places() as u32).filter_map(|t| linked.triangle(t));
    triangles
        .flat_map(|[a, b, c]| [[a, b], [b, c], [c, a]])
        .filter(|&[p, q]| linked.on_edge(p, q).nth(1).is_none())
}

/// Freezes the vertices on open rims.
pub(super) fn freeze_rims(linked: &LinkedMesh, constraints: &mut [VertexConstraint]) {
    for v in rim_edges(linked).flatten() {
        constraints[v as usize] = VertexConstraint::Frozen;
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
