//! The program around the libraries: arguments, files, tables, progress, the demo.
//!
//! `cli` lists the commands; each has a file of its own in `commands`. Results go to standard
//! output, messages and progress to standard error. Exit codes: 0 done and nothing blocks,
//! 1 done but something blocks, 2 nothing usable was asked for or read, and nothing written, 130
//! interrupted.

mod arguments;
pub mod cli;
pub mod commands;
pub mod demo;
mod interrupt;
pub mod job;
pub mod marking;
pub mod out;
pub mod progress;
mod rebuild;
pub mod render;

use clap::Parser;
use hurmo_pipeline::Workspace;
use std::ffi::OsString;
use std::process::ExitCode;

/// How a command that ran ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ending {
    /// Outcome, and nothing blocks.
    Clear,
    /// Outcome, but something blocks.
    Blocked,
    /// Some input was unusable; it has been said which.
    Unusable,
}

impl From<bool> for Ending {
    fn from(passes: bool) -> Self {
        if passes {
            Ending::Clear
        } else {
            Ending::Blocked
        }
    }
}

/// Runs the program with these arguments.
pub fn run(arguments: impl IntoIterator<Item = OsString>) -> ExitCode {
    let cli = match cli::Cli::try_parse_from(cli::in_todays_spelling(arguments)) {
        Ok(cli) => cli,
        Err(error) => {
            // Help and version come this way too, with exit code 0.
            out::note_unprinted(error.print());
            return match (error.use_stderr(), out::all_printed()) {
                (false, Err(error)) => refused(&error),
                _ => ExitCode::from(error.exit_code() as u8),
            };
        }
    };
    interrupt::end_cleanly();
    let terminal = progress::Terminal::new(cli.quiet, cli.verbose);
    let workspace = Workspace::new(Box::new(terminal));
    let ended = commands::run(cli.command, &workspace);
    let ended = ended.and_then(|ending| out::all_printed().map(|()| ending));
    match ended {
        Ok(Ending::Clear) => ExitCode::SUCCESS,
        Ok(Ending::Blocked) => ExitCode::from(1),
        Ok(Ending::Unusable) => ExitCode::from(2),
        Err(error) => {
            workspace.clear_progress();
            hurmo_pipeline::undo::all();
            refused(&error)
        }
    }
}

fn refused(error: &anyhow::Error) -> ExitCode {
    out::error(error);
    ExitCode::from(2)
}
