//! The JSON documents: what the core found, in the words and numbers of the source file.

use hurmo_core::Model;
use hurmo_core::audit::{Audit, Elements, Finding, Level, Measure, MeshFacts, Place};
use hurmo_core::geometry::Bounds;
use hurmo_core::mesh::VertexId;
use hurmo_core::units::Unit;
use hurmo_formats::Source;
use schemars::JsonSchema;
use serde::Serialize;

/// How many elements of a place are listed, unless all are asked for.
const LISTED: usize = 100;

/// The JSON document of `hurmo audit`.
#[derive(Debug, Serialize, JsonSchema)]
pub struct AuditReport {
    /// The brief that set the levels.
    pub brief: String,
    /// The models that could be read, in the order given, or that of their paths.
    pub models: Vec<ModelReport>,
    /// Those that could not.
    pub unreadable: Vec<Unreadable>,
}

/// One model.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct ModelReport {
    /// Path as it was given or found.
    pub path: String,
    /// Format name.
    pub format: &'static str,
    /// What there was to say of the file.
    pub notes: Vec<String>,
    /// Measures and findings.
    #[serde(flatten)]
    pub audit: AuditDocument,
    /// Whether nothing blocks the brief.
    pub passes: bool,
}

/// A model that could not be read.
#[derive(Debug, Serialize, JsonSchema)]
pub struct Unreadable {
    /// Path as it was given or found.
    pub path: String,
    /// Why.
    pub error: String,
}

/// Measures and findings of a model.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct AuditDocument {
    /// What one unit of length is; null when that is not known.
    pub unit: Option<Unit>,
    /// Measures.
    pub mesh: MeshFacts,
    /// One for every check that was run, also those that found nothing.
    pub findings: Vec<FindingDocument>,
    /// Checks that were wanted and could not be run.
    pub not_run: Vec<NotRunDocument>,
}

/// One kind of fault.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct FindingDocument {
    /// The check's name.
    pub check: &'static str,
    /// How bad it is in this brief.
    pub level: Level,
    /// How many elements are at fault.
    pub count: usize,
    /// How many places they make up.
    pub place_count: usize,
    /// A figure for all of it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub measure: Option<Measure>,
    /// The worst places.
    pub places: Vec<PlaceDocument>,
}

/// A check that was wanted and could not be run.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct NotRunDocument {
    /// Its name.
    pub check: &'static str,
    /// Why.
    pub reason: String,
}

/// Elements at fault that hang together. Elements are numbered as the source file numbers
/// them: from 1 in OBJ, from 0 in the others; STL has no vertices of its own.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct PlaceDocument {
    /// The part; of pairs of parts the first. Nothing for vertices in no face.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
    /// The rim, where it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rim: Option<String>,
    /// Object name in the file.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub object: Option<String>,
    /// Group name in the file.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub group: Option<String>,
    /// Material name in the file.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub material: Option<String>,
    /// What is at fault: faces, edges, vertices, parts, what is named, or the model as a whole.
    pub kind: &'static str,
    /// How many of them.
    pub count: usize,
    /// The parts.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<String>,
    /// The names of objects, materials or textures.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub names: Vec<String>,
    /// The first hundred faces, or all.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub faces: Vec<u64>,
    /// The first hundred edges, or all, by their ends.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub edges: Vec<[u64; 2]>,
    /// The first hundred vertices, or all.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub vertices: Vec<u64>,
    /// Lines of the file for the faces, or vertices, listed.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub lines: Vec<u32>,
    /// The middle.
    pub at: [f64; 3],
    /// The extent.
    pub bounds: Bounds,
    /// What was measured there: a rim's length, a wall's thickness, an area.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub value: Option<f64>,
}

impl AuditDocument {
    /// An audit, document in the numbers of the file. Of each check as many places are listed as
    /// the audit holds; `all` lists all elements of each.
    pub fn of(audit: &Audit, model: &Model, source: &Source, all: bool) -> Self {
        let teller = Teller {
            model,
            source,
            listed: if all { usize::MAX } else { LISTED },
        };
        Self {
            unit: model.unit,
            mesh: audit.mesh.clone(),
            findings: audit.findings.iter().map(|f| teller.finding(f)).collect(),
            not_run: audit
                .missing
                .iter()
                .map(|missing| NotRunDocument {
                    check: missing.check,
                    reason: missing.reason.clone(),
                })
                .collect(),
        }
    }

    /// The findings that block the brief.
    pub fn blocking(&self) -> impl Iterator<Item = &FindingDocument> {
        self.findings
            .iter()
            .filter(|finding| finding.level == Level::Block && finding.count > 0)
    }
}

impl PlaceDocument {
    /// What one of its elements is called.
    pub fn noun(&self) -> &'static str {
        match self.kind {
            "faces" => "face",
            "edges" => "edge",
            "vertices" => "vertex",
            "parts" => "part",
            kind => kind,
        }
    }
}

struct Teller<'a> {
    model: &'a Model,
    source: &'a Source,
    listed: usize,
}

impl Teller<'_> {
    fn finding(&self, finding: &Finding) -> FindingDocument {
        let found = &finding.found;
        FindingDocument {
            check: finding.check,
            level: finding.level,
            count: found.count,
            place_count: found.place_count,
            measure: found.measure,
            places: found.places.iter().map(|place| self.place(place)).collect(),
        }
    }

    fn place(&self, place: &Place) -> PlaceDocument {
        let mut document = PlaceDocument {
            part: place.part.map(|part| part.to_string()),
            rim: place.rim.map(|rim| rim.to_string()),
            object: None,
            group: None,
            material: None,
            kind: "model",
            count: place.elements.len(),
            parts: Vec::new(),
            names: Vec::new(),
            faces: Vec::new(),
            edges: Vec::new(),
            vertices: Vec::new(),
            lines: Vec::new(),
            at: place.at.to_array(),
            bounds: place.bounds,
            value: place.value,
        };
        let number = |vertex: VertexId| self.source.number(vertex.index());
        let numbered = self.source.numbers_vertices();
        let line = |vertex: VertexId| self.source.vertex_line(vertex.index());
        match &place.elements {
            Elements::Faces(faces) => {
                let listed = &faces[..faces.len().min(self.listed)];
                document.kind = "faces";
                document.faces = listed
                    .iter()
                    .map(|f| self.source.number(f.index()))
                    .collect();
                let lines = listed
                    .iter()
                    .filter_map(|f| self.source.face_line(f.index()));
                document.lines = lines.collect();
            }
            Elements::Edges(edges) => {
                let listed = &edges[..edges.len().min(self.listed)];
                document.kind = "edges";
                if numbered {
                    document.edges = listed.iter().map(|edge| edge.map(number)).collect();
                }
                document.lines = listed.iter().filter_map(|edge| line(edge[0])).collect();
            }
            Elements::Vertices(vertices) => {
                let listed = &vertices[..vertices.len().min(self.listed)];
                document.kind = "vertices";
                if numbered {
                    document.vertices = listed.iter().copied().map(number).collect();
                }
                document.lines = listed.iter().copied().filter_map(line).collect();
            }
            Elements::Parts(parts) => {
                document.kind = "parts";
                document.parts = parts.iter().map(|part| part.to_string()).collect();
            }
            Elements::Named(names) => {
                document.kind = "named";
                document.names.clone_from(names);
            }
            Elements::Model => {}
        }
        if let Some(tag) = place
            .face
            .and_then(|face| self.model.attributes.tags.of(face))
        {
            document.object.clone_from(&tag.object);
            document.group.clone_from(&tag.group);
            document.material.clone_from(&tag.material);
        }
        document
    }
}
