//! The command line.

use crate::commands::{audit, convert, decimate, demo, fill, mend, picture, prep, remesh};
use clap::{Parser, Subcommand, ValueEnum};
use hurmo_core::audit::Brief;
use hurmo_core::units::Unit;

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

/// All commands.
#[derive(Debug, Subcommand)]
pub enum Command {
    /// Find every fault of models, and where it is
    Audit(audit::Arguments),
    /// Clear faults, by kind
    Mend(mend::Arguments),
    /// Close holes
    Fill(fill::Arguments),
    /// Reduce to a budget of triangles
    Decimate(decimate::Arguments),
    /// Rebuild with even triangles
    Remesh(remesh::Arguments),
    /// Change format, unit or up axis
    Convert(convert::Arguments),
    /// The whole job in one go: audit, mend, rebuild, reduce, fill, audit again
    Prep(prep::Arguments),
    /// Draw a model, its open edges and the backs of its faces
    Picture(picture::Arguments),
    /// Write the demo models and do the whole job on them
    Demo(demo::Arguments),
}

/// The briefs by name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum BriefName {
    /// Closed and even, no n-gons
    Sculpt,
    /// Triangles, nothing stray or doubled; open sheets allowed
    Engine,
    /// Watertight
    Print,
}

impl From<BriefName> for Brief {
    fn from(name: BriefName) -> Self {
        match name {
            BriefName::Sculpt => Brief::Sculpt,
            BriefName::Engine => Brief::Engine,
            BriefName::Print => Brief::Print,
        }
    }
}

/// Parses the name of a unit.
pub fn unit(text: &str) -> Result<Unit, String> {
    Unit::from_name(text).ok_or_else(|| format!("'{text}' is no unit; write mm, cm, m or in"))
}
