//! The rims of a model, as they are listed.

use hurmo_core::Model;
use hurmo_core::fill::RimFacts;
use hurmo_core::units::Unit;
use schemars::JsonSchema;
use serde::Serialize;
use std::path::Path;

/// The rims of a model.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct RimsDocument {
    /// The file.
    pub file: String,
    /// What one unit of length is, where that is known.
    pub unit: Option<Unit>,
    /// The rims, the longest first.
    pub rims: Vec<RimFacts>,
}

impl RimsDocument {
    /// Of a model that was read from a file.
    pub fn of(file: &Path, model: &Model, rims: Vec<RimFacts>) -> Self {
        Self {
            file: file.display().to_string(),
            unit: model.unit,
            rims,
        }
    }
}
