//! Groups of arguments that many commands share.

use anyhow::Result;
use hurmo_core::audit::Brief;
use hurmo_core::units::Unit;
use hurmo_pipeline::brief;
use hurmo_pipeline::quantity::unit;

/// What coordinates are in.
#[derive(Clone, Copy, Debug, clap::Args)]
pub struct InUnit {
    /// What one unit of coordinates is, where the file does not say: mm, cm, m or in
    #[arg(long, value_parser = unit)]
    pub unit: Option<Unit>,
}

/// How results are printed.
#[derive(Clone, Copy, Debug, clap::Args)]
pub struct AsJson {
    /// Print one JSON document instead of text
    #[arg(long)]
    pub json: bool,
}

/// What a model is judged by.
#[derive(Clone, Debug, clap::Args)]
pub struct ForBrief {
    /// What it is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    pub name: Option<String>,
}

impl ForBrief {
    /// The brief that is named, or the general one.
    ///
    /// # Errors
    /// When it is neither built in nor a file that reads as one.
    pub fn find(&self) -> Result<Brief> {
        let name = self.name.as_deref();
        name.map_or_else(|| Ok(Brief::general()), brief::find)
    }
}

/// All three.
#[derive(Clone, Debug, clap::Args)]
pub struct Shared {
    #[command(flatten)]
    brief: ForBrief,
    #[command(flatten)]
    unit: InUnit,
    #[command(flatten)]
    json: AsJson,
}

impl Shared {
    /// The brief that is named, or the general one.
    ///
    /// # Errors
    /// When it is neither built in nor a file that reads as one.
    pub fn brief(&self) -> Result<Brief> {
        self.brief.find()
    }

    /// What coordinates are in, where that is said.
    pub fn unit(&self) -> Option<Unit> {
        self.unit.unit
    }

    /// Whether results are printed as JSON.
    pub fn json(&self) -> bool {
        self.json.json
    }
}
