//! A model that was prepared: what each step did, and what blocks before and after.

use super::model::AuditDocument;
use super::run::{FileRecord, RunRecord};
use super::statement::Statement;
use super::step::StepReport;
use super::stopped::Stopped;
use hurmo_core::audit::MeshFacts;
use hurmo_core::measure::EachWay;
use schemars::JsonSchema;
use serde::Serialize;

/// How often a check that blocks found something.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Blocks {
    /// The check.
    pub check: &'static str,
    /// How often before the step.
    pub before: usize,
    /// How often after it.
    pub after: usize,
}

impl Blocks {
    /// Whether the step made it more.
    pub fn grew(&self) -> bool {
        self.after > self.before
    }
}

/// A step that was done.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct StepRecord {
    /// Its name.
    pub step: &'static str,
    /// Its options, as the command of that name takes them.
    pub options: Vec<String>,
    /// What it found to work on.
    pub found: Vec<Statement>,
    /// What it did.
    pub reports: Vec<StepReport>,
    /// Whether its result was kept; else the model stayed as it was before.
    pub kept: bool,
    /// What it made.
    pub mesh: MeshFacts,
    /// What blocked before or after it.
    pub blocks: Vec<Blocks>,
    /// By what all lengths have been multiplied by then.
    pub scaled: f64,
    /// How far what it made and the model that was read lie apart, sampled, in model units.
    pub from_original: Option<EachWay>,
    /// How long it took, with its audit.
    pub seconds: f64,
    /// The most memory that the whole program had meanwhile.
    pub peak_bytes: Option<u64>,
}

/// A model that was prepared.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct ModelRecord {
    /// The file that was read.
    pub input: FileRecord,
    /// The file that was written; nothing in a dry run.
    pub output: Option<FileRecord>,
    /// The brief that set the levels.
    pub brief: String,
    /// What there was to say of the files.
    pub notes: Vec<String>,
    /// What was done, in order.
    pub steps: Vec<StepRecord>,
    /// Why it ended early.
    pub stopped: Option<Stopped>,
    /// What the steps or the format could not keep.
    pub lost: Vec<Statement>,
    /// What was asked for and not reached: a budget.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub missed: Vec<Statement>,
    /// By what all lengths were multiplied.
    pub scaled: f64,
    /// How far the result and the model that was read lie apart, sampled, in units of the result.
    pub from_original: Option<EachWay>,
    /// The audit of the input.
    pub before: AuditDocument,
    /// The audit of the output, read back from the file; in a dry run, of what would be written.
    pub after: AuditDocument,
    /// Whether all was done and nothing blocks the brief.
    pub passes: bool,
    /// How long all of it took.
    pub seconds: f64,
    /// The most memory that the whole program had meanwhile.
    pub peak_bytes: Option<u64>,
}

/// What is written down of a single model.
#[derive(Serialize)]
pub struct OneLedger<'a> {
    /// The run.
    pub run: &'a RunRecord,
    /// The model.
    pub model: &'a ModelRecord,
}
