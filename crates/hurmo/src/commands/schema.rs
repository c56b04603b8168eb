//! `hurmo schema`: what the JSON documents look like.

use crate::{Ending, out};
use anyhow::Result;
use clap::ValueEnum;
use hurmo_pipeline::record::ComparisonDocument;
use hurmo_pipeline::record::CutDocument;
use hurmo_pipeline::record::LadderDocument;
use hurmo_pipeline::record::json;
use hurmo_pipeline::record::{AuditReport, ModelRecord, schema_of};

/// Arguments of `hurmo schema`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  hurmo schema compare > compare.schema.json")]
pub struct Arguments {
    /// The command whose document is meant
    #[arg(value_name = "COMMAND", value_enum)]
    document: Document,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Document {
    /// What was found in models
    Audit,
    /// How far two models lie apart
    Compare,
    /// A model cut into pieces
    Cut,
    /// A model at several budgets
    Ladder,
    /// What was done to a model; also a line of the ledger of many
    Prep,
}

/// Runs `hurmo schema`.
pub fn run(arguments: &Arguments) -> Result<Ending> {
    let schema = match arguments.document {
        Document::Audit => schema_of::<AuditReport>("audit"),
        Document::Compare => schema_of::<ComparisonDocument>("compare"),
        Document::Cut => schema_of::<CutDocument>("cut"),
        Document::Ladder => schema_of::<LadderDocument>("ladder"),
        Document::Prep => schema_of::<ModelRecord>("prep"),
    };
    out::print(&json(&schema));
    Ok(Ending::Clear)
}
