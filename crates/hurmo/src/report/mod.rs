//! Audits, changes and stories as text and JSON.

mod audit_text;
pub mod boolean;
pub mod comparison;
pub mod cut;
pub mod ladder;
mod lines;
mod merge;
mod model;
mod next_steps;
pub mod parts;
pub mod prep;
mod rebuilt;
pub mod rims;
mod rows;
mod schema;
mod table;

pub use audit_text::{
    audit_text, findings_before_and_after, heading, headline, headline_set_in, level, place, proof,
    purpose, verdict, verdict_words,
};
pub use lines::{ModelLine, lines_text, worst_first};
pub use merge::merged;
pub use model::{
    AuditDocument, AuditReport, FindingDocument, ModelReport, PlaceDocument, Unreadable,
};
pub use next_steps::next_steps;
pub use rebuilt::{Before, Rebuilt};
pub use rows::{csv, junit};
pub use schema::schema_of;
pub use table::Table;

use crate::out;
use serde::Serialize;

/// A document as JSON text, with a line end.
pub fn json(document: &impl Serialize) -> String {
    let text = serde_json::to_string_pretty(document).expect("reports are plain data");
    // Beyond what has to be escaped: what would steer a terminal. It stands in strings alone.
    let mut safe = String::with_capacity(text.len() + 1);
    for c in text.chars() {
        match out::steers(c) {
            true => safe.push_str(&format!("\\u{:04x}", u32::from(c))),
            false => safe.push(c),
        }
    }
    safe.push('\n');
    safe
}
