//! The parts of a model, as they are listed.

use hurmo_core::Model;
use hurmo_core::parts::{PartFacts, Surface};
use hurmo_core::units::Unit;
use schemars::JsonSchema;
use serde::Serialize;
use std::path::Path;

/// The parts of a model.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct PartsDocument {
    /// The file.
    pub file: String,
    /// What one unit of length is, where that is known.
    pub unit: Option<Unit>,
    /// The parts, those of most faces first.
    pub parts: Vec<PartFacts>,
}

/// A file that was split off.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct PartsNote {
    /// The file.
    pub file: String,
    /// The piece's name.
    pub name: Option<String>,
    /// How many faces it has.
    pub faces: usize,
}

impl PartsDocument {
    /// Of a model that was read from a file.
    pub fn of(file: &Path, model: &Model, parts: Vec<PartFacts>) -> Self {
        Self {
            file: file.display().to_string(),
            unit: model.unit,
            parts,
        }
    }
}

/// Whether a part ends anywhere, in a word.
pub fn surface(part: &PartFacts) -> String {
    match part.surface {
        Surface::Closed => "closed",
        Surface::Open => "open",
        Surface::Branching => "branching",
    }
    .into()
}

/// How a part lies to the others, in words.
pub fn lies(part: &PartFacts) -> String {
    let mut words = Vec::new();
    if part.hollow {
        words.push("hollow".to_string());
    }
    if let Some(outer) = part.inside {
        words.push(format!("inside {outer}"));
    }
    if !part.meets.is_empty() {
        let names: Vec<String> = part.meets.iter().take(3).map(|p| p.to_string()).collect();
        let more = part.meets.len() - names.len();
        let more = if more > 0 {
            format!(" and {more} more")
        } else {
            String::new()
        };
        words.push(format!("meets {}{more}", names.join(" ")));
    }
    match (part.floating, part.perhaps_wanted) {
        (true, true) => words.push("small, perhaps wanted".into()),
        (true, false) => words.push("perhaps scrap".into()),
        (false, _) => {}
    }
    words.join(", ")
}
