//! What a conversion changed of a model as a whole.

use super::statement::Statement;
use crate::said;
use hurmo_core::scene::Renamed;
use hurmo_core::units::Unit;
use schemars::JsonSchema;
use serde::Serialize;

/// What a format can't hold of a model.
pub fn lost_by_format(lost: Vec<String>) -> Vec<Statement> {
    let said = lost.into_iter();
    said.map(|what| said!("not-held", "{of}", of = what))
        .collect()
}

/// A model that was converted.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Conversion {
    /// The file that was read.
    pub input: String,
    /// The file that was written.
    pub output: String,
    /// By what lengths were multiplied.
    pub factor: f64,
    /// Whether axes were turned.
    pub turned: bool,
    /// What was done.
    pub did: Vec<Statement>,
    /// Names that changed.
    pub renamed: Vec<Renamed>,
    /// Single things that were done, and what was left: for people.
    #[serde(skip)]
    pub details: Vec<Statement>,
    /// The unit before: for people.
    #[serde(skip)]
    pub unit_before: Option<Unit>,
    /// Along the axes, before; of a model without vertices none.
    pub size_before: Option<[f64; 3]>,
    /// The same, after.
    pub size_after: Option<[f64; 3]>,
    /// What the format can't hold.
    pub lost: Vec<Statement>,
}
