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

#[cfg(test)]
mod tests {
    use super::Cli;
    use clap::CommandFactory;
    use hurmo_pipeline::operation::{Instruction, Operation, Takes};

    /// Options of steps that commands take by position.
    const BY_POSITION: [(&str, &str); 3] =
        [("transfer", "from"), ("boolean", "with"), ("bake", "from")];

    #[test]
    fn steps_of_briefs_have_the_options_of_their_commands() {
        let cli = Cli::command();
        for kind in Operation::KINDS {
            let command = cli.find_subcommand(kind).expect(kind);
            for option in Instruction::options_of(kind) {
                let mut arguments = command.get_arguments();
                let Some(argument) = arguments.find(|a| a.get_long() == Some(option.name)) else {
                    let known = BY_POSITION.contains(&(kind, option.name));
                    assert!(known, "{kind} --{}", option.name);
                    continue;
                };
                let takes = argument.get_action().takes_values();
                assert_eq!(takes, option.takes != Takes::Nothing, "{kind} {argument}");
                for word in argument.get_possible_values().iter().filter(|_| takes) {
                    let word = format!("--{}={}", option.name, word.get_name());
                    let read = Instruction::parse(vec![kind.into(), word.clone()]);
                    let about = read.err().and_then(|error| error.option);
                    assert!(about.is_none_or(|name| name != option.name), "{word}");
                }
            }
        }
    }
}
