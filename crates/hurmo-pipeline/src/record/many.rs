//! As much of many records as a line about each of them needs.

use super::stopped::Stopped;
use serde::Deserialize;
use serde_json::Value;
use std::path::Path;

/// One of many models.
#[derive(Clone, Debug)]
pub struct PreparedLine {
    /// The file that was read.
    pub path: String,
    /// How it went.
    pub outcome: LineOutcome,
}

/// How it went with one of many models.
#[derive(Clone, Debug)]
pub enum LineOutcome {
    /// It was prepared; `before`: in an earlier run.
    Prepared {
        /// What was recorded.
        summary: PreparedFigures,
        /// Whether that was in an earlier run.
        before: bool,
    },
    /// It could not be, and why.
    Failed(String),
}

/// As much of what was recorded of a model as a line needs.
#[derive(Clone, Debug, Deserialize)]
pub struct PreparedFigures {
    /// Whether all was done and nothing blocks.
    pub passes: bool,
    /// Why it ended early.
    pub stopped: Option<Stopped>,
    /// By what all lengths were multiplied; ledgers of before there was a scale have none.
    #[serde(default = "unscaled")]
    pub scaled: f64,
    /// How far the result and what was read lie apart.
    pub from_original: Option<Apart>,
    /// The audit of the input.
    pub before: Audited,
    /// The audit of the output.
    pub after: Audited,
    /// How long all of it took.
    pub seconds: f64,
}

fn unscaled() -> f64 {
    1.0
}

/// How far two surfaces lie apart, each way.
#[derive(Clone, Debug, Deserialize)]
pub struct Apart {
    /// The new one from the old one.
    pub new_from_old: Most,
    /// The old one from the new one.
    pub old_from_new: Most,
}

/// The greatest distance.
#[derive(Clone, Debug, Deserialize)]
pub struct Most {
    /// In units of the result.
    pub max: f64,
}

/// An audit's figures.
#[derive(Clone, Debug, Deserialize)]
pub struct Audited {
    /// The mesh.
    pub mesh: Measured,
    /// All findings.
    pub findings: Vec<Counted>,
}

/// A mesh's figures.
#[derive(Clone, Debug, Deserialize)]
pub struct Measured {
    /// How many faces.
    pub faces: usize,
    /// The diagonal of its bounds.
    pub diagonal: f64,
}

/// A finding's count.
#[derive(Clone, Debug, Deserialize)]
pub struct Counted {
    /// The check.
    pub check: String,
    /// The level that the brief gives it.
    pub level: String,
    /// How many elements.
    pub count: usize,
}

impl PreparedLine {
    /// What a line says of a model that was written down; `before`: in an earlier run.
    pub fn of(model: &Value, before: bool) -> Self {
        let path = model["input"]["path"].as_str().unwrap_or_default();
        let outcome = match PreparedFigures::deserialize(model) {
            Ok(summary) => LineOutcome::Prepared { summary, before },
            Err(error) => {
                LineOutcome::Failed(format!("the ledger's line is not understood: {error}"))
            }
        };
        Self {
            path: path.to_string(),
            outcome,
        }
    }

    /// A model that could not be prepared.
    pub fn failed(path: &Path, error: &str) -> Self {
        Self {
            path: path.display().to_string(),
            outcome: LineOutcome::Failed(error.to_string()),
        }
    }

    /// Why it could not be prepared, if it could not.
    pub fn failure(&self) -> Option<(&str, &str)> {
        match &self.outcome {
            LineOutcome::Failed(error) => Some((&self.path, error)),
            LineOutcome::Prepared { .. } => None,
        }
    }

    /// Whether all was done and nothing blocks.
    pub fn passes(&self) -> bool {
        matches!(&self.outcome, LineOutcome::Prepared { summary, .. } if summary.passes)
    }

    /// Whether an earlier run did it.
    pub fn was_done_before(&self) -> bool {
        matches!(&self.outcome, LineOutcome::Prepared { before: true, .. })
    }
}
