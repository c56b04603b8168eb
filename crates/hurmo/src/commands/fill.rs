//! `hurmo fill`.

use crate::Ending;
use crate::session::Session;
use anyhow::Result;

/// Arguments of `hurmo fill`.
#[derive(Debug, clap::Args)]
pub struct Arguments {}

/// Runs `hurmo fill`.
pub fn run(_arguments: &Arguments, _session: &Session) -> Result<Ending> {
    anyhow::bail!("not yet")
}
