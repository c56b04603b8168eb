//! `hurmo picture`.

use crate::Ending;
use crate::session::Session;
use anyhow::Result;

/// Arguments of `hurmo picture`.
#[derive(Debug, clap::Args)]
pub struct Arguments {}

/// Runs `hurmo picture`.
pub fn run(_arguments: &Arguments, _session: &Session) -> Result<Ending> {
    anyhow::bail!("not yet")
}
