//! Audits, changes and stories as text and JSON.

mod audit_text;
mod table;

pub use audit_text::{audit_text, findings_before_and_after, headline, verdict};
pub use table::Table;

use hurmo_core::audit::{Audit, Brief};
use serde::Serialize;

/// One model's part of the JSON report.
#[derive(Debug, Serialize)]
pub struct ModelReport {
    /// Path as it was given.
    pub path: String,
    /// Format name.
    pub format: &'static str,
    /// Measures and findings.
    #[serde(flatten)]
    pub audit: Audit,
    /// Whether nothing blocks the brief.
    pub passes: bool,
}

/// A model that could not be read.
#[derive(Debug, Serialize)]
pub struct Unreadable {
    /// Path as it was given.
    pub path: String,
    /// Why.
    pub error: String,
}

/// The JSON document of `hurmo audit`.
#[derive(Debug, Serialize)]
pub struct AuditReport {
    /// The brief that set the levels.
    pub brief: Brief,
    /// The models that could be read, in the order given.
    pub models: Vec<ModelReport>,
    /// Those that could not.
    pub unreadable: Vec<Unreadable>,
}

/// A document as JSON text, with a line end.
pub fn json(document: &impl Serialize) -> String {
    let mut text = serde_json::to_string_pretty(document).expect("reports are plain data");
    text.push('\n');
    text
}
