//! One file a command.

pub mod audit;
pub mod bake;
pub mod boolean;
pub mod brief;
pub mod checks;
pub mod compare;
pub mod convert;
pub mod cut;
pub mod decimate;
pub mod demo;
pub mod fill;
pub mod ladder;
pub mod mend;
pub mod parts;
pub mod picture;
pub mod prep;
pub mod remesh;
pub mod schema;

use crate::Ending;
use crate::cli::Command;
use crate::session::Session;
use anyhow::Result;

/// Runs a command.
pub fn run(command: Command, session: &Session) -> Result<Ending> {
    match command {
        Command::Audit(arguments) => audit::run(&arguments, session),
        Command::Checks(arguments) => checks::run(&arguments),
        Command::Brief(arguments) => brief::run(&arguments),
        Command::Mend(arguments) => mend::run(&arguments, session),
        Command::Fill(arguments) => fill::run(&arguments, session),
        Command::Compare(arguments) => compare::run(&arguments, session),
        Command::Decimate(arguments) => decimate::run(&arguments, session),
        Command::Ladder(arguments) => ladder::run(&arguments, session),
        Command::Remesh(arguments) => remesh::run(&arguments, session),
        Command::Boolean(arguments) => boolean::run(&arguments, session),
        Command::Cut(arguments) => cut::run(&arguments, session),
        Command::Bake(arguments) => bake::run(&arguments, session),
        Command::Convert(arguments) => convert::run(&arguments, session),
        Command::Prep(arguments) => prep::run(&arguments, session),
        Command::Parts(arguments) => parts::run(&arguments, session),
        Command::Picture(arguments) => picture::run(&arguments, session),
        Command::Schema(arguments) => schema::run(&arguments),
        Command::Demo(arguments) => demo::run(&arguments, session),
    }
}
