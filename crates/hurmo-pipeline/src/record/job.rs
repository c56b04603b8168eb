//! What a job of one operation did: findings before and after, and whether the model may go on.

use super::levels::LevelReport;
use super::model::AuditDocument;
use super::statement::Statement;
use super::step::StepReport;
use schemars::JsonSchema;
use serde::Serialize;

/// The steps, the proof, and the verdict.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct JobReport {
    /// The file that was read.
    pub input: String,
    /// The file that was written.
    pub output: String,
    /// The brief that set the levels.
    pub brief: String,
    /// What was done, in order.
    pub steps: Vec<StepReport>,
    /// What the steps or the format could not keep.
    pub lost: Vec<Statement>,
    /// What was asked for and not reached: a budget, a distance.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub missed: Vec<Statement>,
    /// The output divided once, twice …, where that was asked for.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub levels: Vec<LevelReport>,
    /// The audit of the input.
    pub before: AuditDocument,
    /// The audit of the output, read back from the file.
    pub after: AuditDocument,
    /// Whether nothing blocks the brief, and nothing was missed.
    pub passes: bool,
}
