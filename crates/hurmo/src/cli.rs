//! The command line.

use crate::commands::Command;
use clap::Parser;
use std::ffi::OsString;

/// Audits meshes, mends them, and proves that the result is better.
#[derive(Debug, Parser)]
#[command(name = "hurmo", version, propagate_version = true)]
#[command(
    after_help = "Exit codes: 0 done and nothing blocks, 1 done but something blocks, \
                        2 unusable call or input, nothing written."
)]
pub struct Cli {
    /// Print results only
    #[arg(short, long, global = true)]
    pub quiet: bool,
    /// Print each stage as it begins
    #[arg(short, long, global = true, conflicts_with = "quiet")]
    pub verbose: bool,
    /// What to do
    #[command(subcommand)]
    pub command: Command,
}

/// Arguments in today's spelling: `remesh … --into solid` is how `reskin` was called.
pub fn in_todays_spelling(arguments: impl IntoIterator<Item = OsString>) -> Vec<OsString> {
    let mut arguments: Vec<OsString> = arguments.into_iter().collect();
    let into = arguments
        .windows(2)
        .position(|two| two[0] == "--into" && two[1] == "solid");
    let command = arguments.iter().position(|argument| argument == "remesh");
    if let (Some(into), Some(command)) = (into, command)
        && command < into
    {
        arguments.drain(into..into + 2);
        arguments[command] = "reskin".into();
    }
    arguments
}
