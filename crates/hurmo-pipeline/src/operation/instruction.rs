//! A step in words, as on the command line: read, and kept for the ledger.

use super::{Operation, Spelled, convert, decimate, fill, mend, parts, remesh, reskin, smooth};
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

    /// An operation with these options, written out for the ledger.
    pub fn of<O: Spelled + Into<Operation>>(options: O) -> Self {
        let spelled = options.spelled();
        let operation = options.into();
        let name = operation.name().to_string();
        Self {
            words: std::iter::once(name).chain(spelled.words()).collect(),
            operation,
        }
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

/// Operations that are made of their options.
macro_rules! made_of {
    ($($options:ty => $make:expr),* $(,)?) => {
        $(impl From<$options> for Operation {
            fn from(options: $options) -> Self {
                $make(options)
            }
        })*
    };
}

made_of! {
    mend::Mend => Operation::Mend,
    fill::Options => Operation::Fill,
    decimate::Options => |options| Operation::Decimate(Box::new(options)),
    remesh::Options => |options| Operation::Remesh(Box::new(options)),
    reskin::Options => |options| Operation::Reskin(Box::new(options)),
    smooth::Options => Operation::Smooth,
    parts::Options => Operation::Parts,
    convert::Options => |options| Operation::Convert(Box::new(options)),
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    /// What an operation is written as; of kinds that are only ever read, nothing.
    fn spelled(operation: &Operation) -> Vec<String> {
        match operation {
            Operation::Mend(options) => options.spelled(),
            Operation::Fill(options) => options.spelled(),
            Operation::Decimate(options) => options.spelled(),
            Operation::Remesh(options) => options.spelled(),
            Operation::Reskin(options) => options.spelled(),
            Operation::Parts(options) => options.spelled(),
            Operation::Convert(options) => options.spelled(),
            other => panic!("{} is not written", other.name()),
        }
        .words()
    }

    /// For each kind, lines that together have every option, as they are written.
    const LINES: [&str; 18] = [
        "mend",
        "mend --clear=lamina-faces,reversed-faces --keep=stray-edges --near=auto --seams-only --force",
        "mend --also=sliver-faces,ngons --near=0.01% --turn-outward --cut-one-sided --thicken=2mm",
        "mend --fill=odd --triangulate=all --repatch=1,-2,0.5,3 --grow=2",
        "mend --repatch=intersecting-faces",
        "fill",
        "fill --rim=R1,R3..R5 --part=P2 --up-to=40_edges --nearest=1,0,-2.5 --leave-longest=1 --mirror=x",
        "fill --islands=join --trim=2 --surface=round --may-cross",
        "fill --bridge=R1,R2",
        "decimate --to=20000 --within=0.2mm --no-crossing --keep=rims=1,groups=0.75,symmetry=y --crease=45",
        "decimate --flat=0.001% --focus=sails=3 --focus-colour=red=2.5",
        "decimate --to=12.5% --each=group --may-drop-parts-under=1cm --regularity=0.5",
        "remesh --edge=0.5% --crease=60 --ignore-lines-under=2mm --keep-rims=exact --part=P1 --group=sails",
        "remesh --within=1mm --edge-min=1mm --edge-max=2cm --near=0,0,1,2 --where-crossing=P1,P2",
        "reskin --cell=0.5% --rounded --offset=1mm --fill-voids --levels=2 --max-displacement=1mm --part=P2",
        "reskin --to=40000 --close-gaps=1mm --min-thickness=2mm",
        "parts --drop=P3 --drop-under=1% --as-groups",
        "convert --to-unit=mm --up=y --to-up=z --scale=2 --origin=base --flatten-transforms --drop-empty \
         --unique-names --safe-names --normals=smooth=40 --uvs=new",
    ];

    #[test]
    fn what_is_written_reads_back_as_the_same() {
        let mut written: BTreeSet<String> = BTreeSet::new();
        let others = [
            "remesh --to=40%",
            "reskin --within=1mm --then-decimate=within=2mm",
            "reskin --cell=1 --then-decimate=40000",
            "parts --keep=P1,P4",
            "convert --real-size=height=12cm",
        ];
        for line in LINES.into_iter().chain(others) {
            let words = line.split_whitespace().map(|word| word.replace('_', " "));
            let words: Vec<String> = words.collect();
            let read =
                Instruction::parse(words.clone()).unwrap_or_else(|e| panic!("{line}: {}", e.0));
            let again = spelled(&read.operation);
            let (mut one, mut two) = (words[1..].to_vec(), again.clone());
            one.sort();
            two.sort();
            assert_eq!(one, two, "{line}");
            written.extend(again.iter().map(|word| {
                let option = word.split('=').next().unwrap_or_default();
                format!("{} {option}", words[0])
            }));
        }
        // No option is left out.
        for kind in [
            "mend", "fill", "decimate", "remesh", "reskin", "parts", "convert",
        ] {
            for option in Instruction::options_of(kind) {
                let name = format!("{kind} --{}", option.name);
                // There is only one value to choose from by now.
                let only = name == "remesh --into";
                assert!(only || written.contains(&name), "{name} is not written");
            }
        }
    }

    #[test]
    fn defaults_are_those_of_an_empty_line() {
        assert!(mend::Mend::default().spelled().words().is_empty());
        assert!(fill::Options::default().spelled().words().is_empty());
        assert!(decimate::Options::default().spelled().words().is_empty());
        assert!(remesh::Options::default().spelled().words().is_empty());
        assert!(reskin::Options::default().spelled().words().is_empty());
        assert!(convert::Options::default().spelled().words().is_empty());
    }
}
