//! A step in words, as on the command line: read, and kept for the ledger.

use super::Operation;
use clap::{CommandFactory, Parser};

/// A step, and the words that mean it.
#[derive(Clone, Debug)]
pub struct Instruction {
    /// The words, its name first: those of the command that does the same.
    pub words: Vec<String>,
    /// What they mean.
    pub operation: Operation,
}

/// Why words mean no step.
#[derive(Clone, Debug, PartialEq)]
pub struct InstructionError(pub String);

#[derive(Parser)]
#[command(name = "step", no_binary_name = true, disable_help_flag = true)]
#[command(disable_help_subcommand = true)]
struct Line {
    #[command(subcommand)]
    operation: Operation,
}

impl Instruction {
    /// Reads words; the first is the step's name.
    ///
    /// # Errors
    /// One line that says what is wrong with them.
    pub fn parse(words: Vec<String>) -> Result<Self, InstructionError> {
        let line =
            Line::try_parse_from(&words).map_err(|error| InstructionError(in_a_line(&error)))?;
        line.operation
            .check()
            .map_err(|error| InstructionError(format!("{error:#}")))?;
        Ok(Self {
            words,
            operation: line.operation,
        })
    }

    /// The names of all kinds of step.
    pub fn kinds() -> Vec<String> {
        let line = Line::command();
        let kinds = line.get_subcommands();
        kinds.map(|kind| kind.get_name().to_string()).collect()
    }

    /// The options that a kind of step knows, and whether each may stand without a value, and with
    /// one.
    pub fn options_of(kind: &str) -> Vec<KnownOption> {
        let line = Line::command();
        let kind = line.find_subcommand(kind).map(clap::Command::get_arguments);
        let known = kind.into_iter().flatten().filter_map(|argument| {
            let values = argument.get_num_args();
            let takes_value = argument.get_action().takes_values();
            Some(KnownOption {
                name: argument.get_long()?.to_string(),
                may_stand_alone: !takes_value || values.is_some_and(|n| n.min_values() == 0),
                takes_value,
            })
        });
        known.collect()
    }
}

/// An option that a kind of step knows.
pub struct KnownOption {
    /// Its name.
    pub name: String,
    /// Whether it may be said without a value.
    pub may_stand_alone: bool,
    /// Whether it may be said with one.
    pub takes_value: bool,
}

/// What the parser says, without what only helps on a command line.
fn in_a_line(error: &clap::Error) -> String {
    let text = error.to_string();
    let said = text.split("\n\n").next().unwrap_or_default();
    let said = said.strip_prefix("error: ").unwrap_or(said);
    said.split_whitespace().collect::<Vec<_>>().join(" ")
}
