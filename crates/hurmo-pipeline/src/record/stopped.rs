//! Why a job ended before its last step. Ledgers hold it, and it is read from them again.

use crate::text;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::fmt;

/// Where a job ended before its last step.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Stopped {
    /// The step that ended it, from 1.
    pub step: usize,
    /// Why.
    pub why: StoppedBecause,
}

/// Why a step ended a job.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "what", rename_all = "kebab-case")]
pub enum StoppedBecause {
    /// It left no face.
    NoFaceLeft,
    /// It makes more of what blocks.
    MoreBlocks {
        /// Of what, and how much.
        checks: Vec<Grown>,
    },
}

/// A finding that a step made more of.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Grown {
    /// The check.
    pub check: String,
    /// How many before the step.
    pub before: usize,
    /// How many after it.
    pub after: usize,
}

impl fmt::Display for StoppedBecause {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::NoFaceLeft => f.write_str("it left no face"),
            Self::MoreBlocks { checks } => {
                let checks: Vec<String> = checks.iter().map(ToString::to_string).collect();
                write!(f, "it makes more of what blocks: {}", checks.join(", "))
            }
        }
    }
}

impl fmt::Display for Grown {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let [before, after] = [self.before, self.after].map(text::count);
        write!(f, "{} {before} → {after}", self.check)
    }
}
