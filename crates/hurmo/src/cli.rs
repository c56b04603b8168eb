//! The command line.

use crate::commands::{
    audit, bake, boolean, brief, checks, compare, convert, cut, decimate, demo, fill, ladder, mend,
    parts, picture, prep, remesh, schema,
};
use clap::{Parser, Subcommand};
use hurmo_core::units::{Axis, Unit};

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
    /// Explain the checks: what each counts, why it hurts, what clears it
    Checks(checks::Arguments),
    /// Print a built-in brief as a starting point for one of your own
    Brief(brief::Arguments),
    /// Clear faults, by kind
    Mend(mend::Arguments),
    /// Close holes
    Fill(fill::Arguments),
    /// Reduce to a budget of triangles
    Decimate(decimate::Arguments),
    /// Reduce to several budgets at once, and show them side by side
    Ladder(ladder::Arguments),
    /// How far two models lie apart, where, and what else differs
    Compare(compare::Arguments),
    /// Rebuild with even triangles, or as a new watertight skin
    Remesh(Box<remesh::Arguments>),
    /// Join solids, take them away from each other, or apart where they cross: exactly
    Boolean(Box<boolean::Arguments>),
    /// Cut into closed pieces: by planes, in slabs, or to fit a printer's bed
    Cut(Box<cut::Arguments>),
    /// Fill a texture for a model from the look and the detail of another
    Bake(Box<bake::Arguments>),
    /// Change format, unit, up axis, size, origin; put transforms, names, normals, textures in order
    Convert(convert::Arguments),
    /// The whole job in one go: audit, mend, rebuild, reduce, fill, audit again
    Prep(prep::Arguments),
    /// List the parts of a model; keep, drop, split or join them
    Parts(parts::Arguments),
    /// Draw a model, its open edges and the backs of its faces
    Picture(picture::Arguments),
    /// Print the JSON Schema of the document that a command prints with --json
    Schema(schema::Arguments),
    /// Write the demo models and do the whole job on them
    Demo(demo::Arguments),
}

/// What a model is taken apart by.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
pub enum By {
    /// What hangs together
    Part,
    /// Groups, or objects where there are no groups
    Group,
    /// Materials
    Material,
}

impl From<By> for hurmo_core::parts::By {
    fn from(by: By) -> Self {
        match by {
            By::Part => Self::Part,
            By::Group => Self::Group,
            By::Material => Self::Material,
        }
    }
}

/// Parses the name of a unit.
pub fn unit(text: &str) -> Result<Unit, String> {
    Unit::from_name(text).ok_or_else(|| format!("'{text}' is no unit; write mm, cm, m or in"))
}

/// Parses which set of UVs, from 1.
pub fn uv_set(text: &str) -> Result<usize, String> {
    let number = text.parse().ok().filter(|set| *set > 0);
    number.ok_or_else(|| format!("'{text}' is no set of UVs; write 1 for the first"))
}

/// Parses the name of an axis.
pub fn axis(text: &str) -> Result<Axis, String> {
    Axis::from_name(text).ok_or_else(|| format!("'{text}' is no axis; write x, y or z"))
}
