//! The program around the libraries: arguments, files, tables, progress, the demo.
//!
//! `cli` lists the commands; each has a file of its own in `commands`. Results go to standard
//! output, messages and progress to standard error. Exit codes: 0 done and nothing blocks,
//! 1 done but something blocks, 2 nothing usable was asked for or read, and nothing written, 130
//! interrupted.

pub mod batch;
pub mod briefs;
mod care;
mod claims;
pub mod cli;
pub mod commands;
pub mod demo;
pub mod files;
pub mod job;
pub mod marking;
mod memory;
pub mod out;
pub mod pictures;
pub mod prep;
pub mod progress;
pub mod quantity;
pub mod report;
pub mod session;
pub mod steps;
pub mod story;
mod undo;

use clap::Parser;
use std::ffi::OsString;
use std::process::ExitCode;

/// How a command that ran ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ending {
    /// Done, and nothing blocks.
    Clear,
    /// Done, but something blocks.
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
    let cli = match cli::Cli::try_parse_from(arguments) {
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
    undo::when_interrupted();
    let session = session::Session::new(cli.quiet, cli.verbose);
    let ended = commands::run(cli.command, &session);
    let ended = ended.and_then(|ending| out::all_printed().map(|()| ending));
    match ended {
        Ok(Ending::Clear) => ExitCode::SUCCESS,
        Ok(Ending::Blocked) => ExitCode::from(1),
        Ok(Ending::Unusable) => ExitCode::from(2),
        Err(error) => {
            session.clear_progress();
            undo::all();
            refused(&error)
        }
    }
}

fn refused(error: &anyhow::Error) -> ExitCode {
    out::error(error);
    ExitCode::from(2)
}
