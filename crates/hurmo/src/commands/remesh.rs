//! `hurmo remesh`.

use crate::Ending;
use crate::session::Session;
use anyhow::Result;

/// Arguments of `hurmo remesh`.
#[derive(Debug, clap::Args)]
pub struct Arguments {}

/// Runs `hurmo remesh`.
pub fn run(_arguments: &Arguments, _session: &Session) -> Result<Ending> {
    anyhow::bail!("not yet")
}
