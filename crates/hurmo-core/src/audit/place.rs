//! A place that a person can go to.

use crate::mesh::{FaceId, PartId, RimId, VertexId};
use glam::DVec3;
use serde::Serialize;

/// One element at fault. Elements are counted from 0, in the order of the file (of an STL, the
/// vertices in the order in which new positions appear).
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Place {
    /// The part it belongs to; nothing for a vertex in no face.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub part: Option<PartId>,
    /// The rim, where the element is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rim: Option<RimId>,
    /// How many edges the rim has.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub edges: Option<usize>,
    /// Length of the rim, in units.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub length: Option<f64>,
    /// The face.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub face: Option<u32>,
    /// The vertex, or the two ends of the edge.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub vertices: Vec<u32>,
    /// The element's middle.
    pub at: DVec3,
}

impl Place {
    /// A face at fault.
    pub fn face(survey: &super::Survey<'_>, face: FaceId) -> Self {
        Self {
            part: survey.parts.of_face(survey.mesh, face),
            face: Some(face.0),
            at: survey.mesh.face_middle(face),
            ..Self::default()
        }
    }

    /// An edge at fault.
    pub fn edge(survey: &super::Survey<'_>, [a, b]: [VertexId; 2]) -> Self {
        Self {
            part: survey.parts.of_vertex(a),
            vertices: vec![a.0, b.0],
            at: (survey.mesh.position(a) + survey.mesh.position(b)) / 2.0,
            ..Self::default()
        }
    }

    /// A vertex at fault.
    pub fn vertex(survey: &super::Survey<'_>, vertex: VertexId) -> Self {
        Self {
            part: survey.parts.of_vertex(vertex),
            vertices: vec![vertex.0],
            at: survey.mesh.position(vertex),
            ..Self::default()
        }
    }

    /// A rim.
    pub fn rim(survey: &super::Survey<'_>, name: RimId) -> Self {
        let rim = &survey.rims.closed[name.index()];
        let middle: DVec3 = rim.vertices.iter().map(|&v| survey.mesh.position(v)).sum();
        Self {
            part: survey.parts.of_vertex(rim.vertices[0]),
            rim: Some(name),
            edges: Some(rim.edges.len()),
            length: Some(rim.length),
            at: middle / rim.vertices.len() as f64,
            ..Self::default()
        }
    }
}
