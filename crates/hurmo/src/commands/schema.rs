//! `hurmo schema`: what the JSON documents look like.

use crate::{Ending, out};
use anyhow::Result;
use clap::ValueEnum;
use hurmo_pipeline::record::{
    AuditReport, ComparisonDocument, Conversion, CutDocument, JobReport, LadderDocument,
    ModelRecord, PartsDocument, RimsDocument, json, schema_of,
};

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
    /// What was changed of a model as a whole
    Convert,
    /// A model cut into pieces
    Cut,
    /// What a command of one operation did: mend, fill, decimate, remesh, reskin, smooth, transfer, bake,
    /// boolean, parts with -o
    #[value(aliases = ["mend", "fill", "decimate", "remesh", "reskin", "smooth", "transfer", "bake", "boolean"])]
    Job,
    /// A model at several budgets
    Ladder,
    /// The parts of a model, as they are listed
    Parts,
    /// What was done to a model; also a line of the ledger of many
    Prep,
    /// The rims of a model, as fill lists them
    Rims,
}

/// Runs `hurmo schema`.
pub fn run(arguments: &Arguments) -> Result<Ending> {
    let schema = match arguments.document {
        Document::Audit => schema_of::<AuditReport>("`hurmo audit`"),
        Document::Compare => schema_of::<ComparisonDocument>("`hurmo compare`"),
        Document::Convert => schema_of::<Conversion>("`hurmo convert`"),
        Document::Cut => schema_of::<CutDocument>("`hurmo cut`"),
        Document::Job => schema_of::<JobReport>("`hurmo mend` and other commands of one operation"),
        Document::Ladder => schema_of::<LadderDocument>("`hurmo ladder`"),
        Document::Parts => schema_of::<PartsDocument>("`hurmo parts` without an output"),
        Document::Prep => schema_of::<ModelRecord>("`hurmo prep`"),
        Document::Rims => schema_of::<RimsDocument>("`hurmo fill` without an output"),
    };
    out::print(&json(&schema));
    Ok(Ending::Clear)
}
