//! What a conversion changed of a model as a whole.

use hurmo_core::scene::Renamed;
use hurmo_core::units::Unit;
use schemars::JsonSchema;
use serde::Serialize;

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
    /// What was done, in words.
    pub did: Vec<String>,
    /// Names that changed.
    pub renamed: Vec<Renamed>,
    /// Single things that were done, and what was left: for people.
    #[serde(skip)]
    pub details: Vec<String>,
    /// The unit before: for people.
    #[serde(skip)]
    pub unit_before: Option<Unit>,
    /// Along the axes, before; of a model without vertices none.
    pub size_before: Option<[f64; 3]>,
    /// The same, after.
    pub size_after: Option<[f64; 3]>,
    /// What the format can't hold.
    pub lost: Vec<String>,
}
