//! The command line.

use crate::commands::Command;
use clap::Parser;

/// Audits meshes, mends them, and proves that the result is better.
#[derive(Debug, Parser)]
#[command(name = "hurmo", version, propagate_version = true)]
#[command(
    after_help = "Exit codes: 0 done and nothing blocks, 1 done but something blocks, \
                        2 unusable call or input, nothing written."
)]
pub struct Cli {
    /// Say only what was asked for
    #[arg(short, long, global = true)]
    pub quiet: bool,
    /// Say what is being done
    #[arg(short, long, global = true, conflicts_with = "quiet")]
    pub verbose: bool,
    /// What to do
    #[command(subcommand)]
    pub command: Command,
}
