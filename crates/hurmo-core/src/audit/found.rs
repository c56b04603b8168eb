//! What a check found: how many elements, and the places they make up, the worst first.

use super::place::grouped;
use super::{Elements, MeshAnalysis, Place};
use crate::mesh::{FaceId, PartId, VertexId};
use crate::scene::NodeId;
use rustc_hash::FxHashMap;

/// A figure that belongs to a finding as a whole.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct Measure {
    /// What it is, with its unit: "square units facing down".
    pub what: &'static str,
    /// How much.
    pub value: f64,
}

/// What a check found.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Found {
    /// How many elements.
    pub count: usize,
    /// How many places they make up.
    pub place_count: usize,
    /// The worst places, up to the limit asked for.
    pub places: Vec<Place>,
    /// A figure for all of it.
    pub measure: Option<Measure>,
}

impl Found {
    /// Faces, put together where they touch.
    pub fn faces(
        analysis: &MeshAnalysis<'_>,
        limit: usize,
        faces: impl Iterator<Item = FaceId>,
    ) -> Self {
        Self::linked_faces(analysis, limit, faces, |_| None)
    }

    /// Faces, put together where they touch and with what `link` says of each.
    pub fn linked_faces(
        analysis: &MeshAnalysis<'_>,
        limit: usize,
        faces: impl Iterator<Item = FaceId>,
        link: impl Fn(FaceId) -> Option<FaceId>,
    ) -> Self {
        let faces: Vec<FaceId> = faces.collect();
        let links = faces.iter().enumerate().filter_map(|(i, &face)| {
            let other = link(face)?;
            Some((i, faces.binary_search(&other).ok()?))
        });
        let corners = |face: FaceId, see: &mut dyn FnMut(VertexId)| {
            analysis.mesh.face(face).iter().for_each(|&v| see(v));
        };
        let groups = grouped(analysis, &faces, corners, links);
        Self::of_groups(faces.len(), groups, limit, |group| {
            Place::faces(analysis, group)
        })
    }

    /// Edges, put together where they touch.
    pub fn edges(
        analysis: &MeshAnalysis<'_>,
        limit: usize,
        edges: impl Iterator<Item = [VertexId; 2]>,
    ) -> Self {
        let edges: Vec<[VertexId; 2]> = edges.collect();
        let ends = |edge: [VertexId; 2], see: &mut dyn FnMut(VertexId)| {
            edge.into_iter().for_each(see);
        };
        let groups = grouped(analysis, &edges, ends, std::iter::empty());
        Self::of_groups(edges.len(), groups, limit, |group| {
            Place::edges(analysis, group)
        })
    }

    /// Vertices; those at one place are one place.
    pub fn vertices(
        analysis: &MeshAnalysis<'_>,
        limit: usize,
        vertices: impl Iterator<Item = VertexId>,
    ) -> Self {
        let vertices: Vec<VertexId> = vertices.collect();
        let itself = |vertex: VertexId, see: &mut dyn FnMut(VertexId)| see(vertex);
        let groups = grouped(analysis, &vertices, itself, std::iter::empty());
        Self::vertex_groups(analysis, limit, groups)
    }

    /// Vertices that have been put together.
    pub fn vertex_groups(
        analysis: &MeshAnalysis<'_>,
        limit: usize,
        groups: Vec<Vec<VertexId>>,
    ) -> Self {
        let count = groups.iter().map(Vec::len).sum();
        let mut found = Self::of_groups(count, groups, limit, |group| {
            Place::vertices(analysis, group)
        });
        let mut face_of: FxHashMap<VertexId, Option<FaceId>> = FxHashMap::default();
        let first = |place: &Place| match &place.elements {
            Elements::Vertices(vertices) => vertices.first().copied(),
            _ => None,
        };
        face_of.extend(found.places.iter().filter_map(first).map(|v| (v, None)));
        if !face_of.is_empty() && !analysis.model.attributes.tags.is_empty() {
            for (face, corners) in analysis.mesh.faces() {
                for corner in corners {
                    if let Some(known) = face_of.get_mut(corner) {
                        known.get_or_insert(face);
                    }
                }
            }
        }
        for place in &mut found.places {
            place.face = first(place).and_then(|vertex| face_of[&vertex]);
        }
        found
    }

    /// Parts, each a place of its own.
    pub fn parts(
        analysis: &MeshAnalysis<'_>,
        limit: usize,
        parts: impl Iterator<Item = PartId>,
    ) -> Self {
        let groups: Vec<Vec<PartId>> = parts.map(|part| vec![part]).collect();
        Self::of_groups(groups.len(), groups, limit, |group| {
            Place::parts(analysis, group)
        })
    }

    /// Things with names, each a place of its own: of nodes where they are.
    pub fn named(
        analysis: &MeshAnalysis<'_>,
        limit: usize,
        named: Vec<(String, Option<NodeId>)>,
    ) -> Self {
        Self::of_groups(named.len(), named, limit, |(name, node)| {
            Place::named(analysis, name, node)
        })
    }

    /// A fault of the model as a whole, this many times.
    pub fn model(analysis: &MeshAnalysis<'_>, count: usize) -> Self {
        Self {
            count,
            place_count: count.min(1),
            places: (count > 0)
                .then(|| Place::model(analysis))
                .into_iter()
                .collect(),
            measure: None,
        }
    }

    /// Places made of groups, up to the limit.
    pub fn of_groups<G>(
        count: usize,
        groups: Vec<G>,
        limit: usize,
        place: impl Fn(G) -> Place,
    ) -> Self {
        Self {
            count,
            place_count: groups.len(),
            places: groups.into_iter().take(limit).map(place).collect(),
            measure: None,
        }
    }

    /// The same, with a figure for all of it.
    pub fn measured(self, what: &'static str, value: f64) -> Self {
        Self {
            measure: Some(Measure { what, value }),
            ..self
        }
    }
}
