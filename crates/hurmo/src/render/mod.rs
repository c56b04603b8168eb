//! Records as text, tables, CSV and JUnit.

mod audit_text;
mod comparison;
mod cut;
mod job;
mod ladder;
mod lines;
mod merge;
mod next_steps;
pub mod parts;
pub mod prep;
mod rebuilt;
mod rims;
mod rows;
mod table;

pub use audit_text::{
    audit_text, findings_before_and_after, heading, headline, headline_set_in, level, place, proof,
    verdict,
};
pub use job::{job_text, step_text};
pub use lines::{ModelLine, lines_text, worst_first};
pub use merge::merged;
pub use next_steps::next_steps;
pub use rebuilt::rebuilt_text;
pub use rows::{csv, junit};
pub use table::Table;

/// What turns into text for people.
pub trait Text {
    /// Lines, each with its end.
    fn text(&self) -> String;
}
