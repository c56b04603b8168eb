//! Two models, compared.

use super::model::AuditDocument;
use hurmo_core::compare::Comparison;
use schemars::JsonSchema;
use serde::Serialize;

/// Two models, compared.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct ComparisonDocument {
    /// The files: what the second is compared with, and the second.
    pub files: [String; 2],
    /// How far they lie apart.
    pub comparison: Comparison,
    /// What no distance may be above, if that was asked, in model units.
    pub limit: Option<f64>,
    /// Whether that was proved to be kept.
    pub passes: bool,
    /// The audit of the first.
    pub before: AuditDocument,
    /// The audit of the second.
    pub after: AuditDocument,
}
