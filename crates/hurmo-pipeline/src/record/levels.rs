//! Levels of a model of quads, in files of their own.

use super::model::AuditDocument;
use hurmo_core::Mesh;
use hurmo_core::measure::{EachWay, Reference};
use hurmo_core::subdivision::Level;
use schemars::JsonSchema;
use serde::Serialize;

/// Samples on each surface when measuring how far one lies from the other.
const SAMPLES: usize = 20_000;

/// The model divided once, twice …, with the detail of the surface brought back.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct LevelReport {
    /// How many times it was divided.
    pub level: usize,
    /// The file that was written.
    pub output: String,
    /// How many quads it has.
    pub quads: usize,
    /// How many vertices; those of the level before come first.
    pub vertices: usize,
    /// How far one surface lies from the other, sampled, in model units.
    pub deviation: EachWay,
    /// Vertices that the surface has no place for within reach that faces their way.
    pub too_far: usize,
    /// Vertices that stay short of their place, lest quads fold.
    pub held: usize,
    /// The checks that block.
    pub blocks: Vec<String>,
}

impl LevelReport {
    /// Of a level that was written; `None` where one has no faces.
    pub fn of(
        level: usize,
        made: &Level,
        output: String,
        reference: &Reference<'_>,
        (written, audit): (&Mesh, &AuditDocument),
    ) -> Option<Self> {
        Some(Self {
            level,
            output,
            quads: written.face_count(),
            vertices: written.vertex_count(),
            deviation: reference.deviation(written)?,
            too_far: made.too_far,
            held: made.held,
            blocks: audit
                .blocking()
                .map(|found| found.check.to_string())
                .collect(),
        })
    }

    /// A surface that levels are measured against.
    pub fn reference(mesh: &Mesh) -> Option<Reference<'_>> {
        Reference::new(mesh, SAMPLES)
    }
}
