//! `hurmo brief`: prints a brief as a starting point.

use crate::{Ending, out};
use anyhow::Result;
use hurmo_pipeline::brief;

/// Arguments of `hurmo brief`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  \
    hurmo brief print > harbour.toml\n  \
    hurmo audit --for harbour.toml bollard.obj")]
pub struct Arguments {
    /// sculpt, engine, print or general; or a brief file, which is printed in full
    #[arg(value_name = "NAME")]
    name: String,
}

/// Runs `hurmo brief`.
pub fn run(arguments: &Arguments) -> Result<Ending> {
    let brief = brief::find(&arguments.name)?;
    out::print(&brief::to_toml(&brief));
    Ok(Ending::Clear)
}
