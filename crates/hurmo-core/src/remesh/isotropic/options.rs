//! How to remesh.

use super::feature_edges::Making;
use super::short_features::ShortFeatures;
use super::sizing_field::{Bend, SizingField};
use crate::measure::{self, vector_area};
use crate::mesh::{FaceId, Mesh, Model, VertexId};
use crate::topology::LinkedMesh;

/// How fine.
#[derive(Clone, Debug, PartialEq)]
pub enum Target {
    /// Edges of about this length, in model units.
    Edge(f64),
    /// About this many triangles.
    Count(usize),
    /// As long as leaves the surface by about so much, where it bends.
    Within {
        /// How far edges may leave the surface, in model units.
        distance: f64,
        /// No edge should be shorter.
        shortest: f64,
        /// Nor longer.
        longest: f64,
    },
    /// Edges of about the lengths that are given for the model's vertices, in model units.
    ByVertex {
        /// For every vertex; they are let change gently from place to place, after the shortest.
        lengths: Vec<f64>,
        /// Where edges would leave the surface by more than this, they are shorter, down to a third.
        within: f64,
    },
}

/// How to remesh.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct RemeshOptions {
    /// How fine.
    pub target: Target,
    /// Edges whose faces meet at more than this angle, in degrees, are creases.
    pub crease: f64,
    /// Feature edges that are not kept.
    pub short_features: ShortFeatures,
    /// Whether vertices on open rims, and the edges between them, stay as they are.
    pub rims_exact: bool,
    /// The faces to remesh, by number; all where `None`. Round them, as many more are remeshed
    /// as it takes for lengths to change gently.
    pub faces: Option<Vec<bool>>,
    /// Edges to keep besides, by their ends.
    pub lines: Vec<[VertexId; 2]>,
    /// Faces that stay as they are, whatever lengths their edges have.
    pub(crate) held: Vec<FaceId>,
    /// Noise makes lines this many times as long as [`ShortFeatures::Noise`] says.
    pub(crate) noise: f64,
    /// How a surface is evened out whose edges have about the wanted length already.
    pub(crate) evening: Option<Evening>,
}

/// Only some rounds, of a surface whose edges have about the wanted length already.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Evening {
    /// Rounds, at least and at most.
    pub rounds: [usize; 2],
    /// By how much a line may be cut short, in model units.
    pub most_rise: f64,
}

/// The angle, in degrees, above which an edge is a crease if nothing else is said.
pub const DEFAULT_CREASE: f64 = 40.0;

impl RemeshOptions {
    /// Everything, with creases of [`DEFAULT_CREASE`].
    pub fn of(target: Target) -> Self {
        Self {
            target,
            crease: DEFAULT_CREASE,
            short_features: ShortFeatures::Noise,
            rims_exact: false,
            faces: None,
            lines: Vec::new(),
            held: Vec::new(),
            noise: 1.0,
            evening: None,
        }
    }

    /// The area of the faces to remesh.
    pub(super) fn area(&self, mesh: &Mesh) -> f64 {
        match &self.faces {
            None => measure::area(mesh),
            Some(faces) => {
                let asked = mesh.face_ids().filter(|face| faces[face.index()]);
                asked.map(|face| vector_area(mesh, face).length()).sum()
            }
        }
    }

    /// How long edges are to be, where that differs from place to place.
    pub(super) fn sizing(&self, linked: &LinkedMesh) -> Option<SizingField> {
        match &self.target {
            Target::ByVertex { lengths, within } => {
                let field = SizingField::given(linked, lengths, *within, self.crease);
                Some(field)
            }
            _ => (self.bend()).map(|bend| SizingField::by_bend(linked, &bend)),
        }
    }

    /// What makes feature edges.
    pub(super) fn making<'a>(
        &'a self,
        model: &'a Model,
        edge: f64,
        sizing: Option<&'a SizingField>,
    ) -> Making<'a> {
        Making {
            model,
            crease: self.crease,
            short_features: self.short_features,
            noise: self.noise,
            edge,
            bend: sizing.zip(self.bend()),
            lines: &self.lines,
        }
    }

    /// By how much a line may be cut short at most.
    pub(super) fn most_rise(&self) -> f64 {
        let bend = self.bend().map_or(f64::INFINITY, |bend| bend.within);
        self.evening
            .map_or(bend, |evening| evening.most_rise.min(bend))
    }

    /// What lengths follow from, where they follow the surface's bend.
    pub(super) fn bend(&self) -> Option<Bend> {
        match self.target {
            Target::ByVertex { within, .. } => Some(Bend {
                within,
                shortest: 0.0,
                longest: f64::INFINITY,
                crease: self.crease,
            }),
            Target::Within {
                distance,
                shortest,
                longest,
            } => Some(Bend {
                within: distance,
                shortest,
                longest,
                crease: self.crease,
            }),
            _ => None,
        }
    }
}
