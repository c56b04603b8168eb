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
pub mod reskin;
pub mod schema;
pub mod smooth;
pub mod transfer;

use crate::{Ending, rebuild};
use anyhow::Result;
use hurmo_pipeline::Workspace;

/// All commands.
#[derive(Debug, clap::Subcommand)]
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
    /// Rebuild with even triangles, or quads that follow the form
    #[command(after_help = remesh::EXAMPLES)]
    Remesh(Box<remesh::Arguments>),
    /// Put a new watertight skin round what a model fills
    #[command(after_help = reskin::EXAMPLES)]
    Reskin(Box<reskin::Arguments>),
    /// Take noise out, or even vertices out along the surface
    #[command(after_help = smooth::EXAMPLES)]
    Smooth(Box<smooth::Arguments>),
    /// Give vertices the colours of another model
    Transfer(transfer::Arguments),
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
    /// List the parts of a model; keep, drop, split, join or group them
    Parts(parts::Arguments),
    /// Draw a model, its open edges and the backs of its faces
    Picture(picture::Arguments),
    /// Print the JSON Schema of the document that a command prints with --json
    Schema(schema::Arguments),
    /// Write the demo models and do the whole job on them
    Demo(demo::Arguments),
}

/// Runs a command.
pub fn run(command: Command, workspace: &Workspace) -> Result<Ending> {
    match command {
        Command::Audit(arguments) => audit::run(&arguments, workspace),
        Command::Checks(arguments) => checks::run(&arguments),
        Command::Brief(arguments) => brief::run(&arguments),
        Command::Mend(arguments) => mend::run(&arguments, workspace),
        Command::Fill(arguments) => fill::run(&arguments, workspace),
        Command::Compare(arguments) => compare::run(&arguments, workspace),
        Command::Decimate(arguments) => decimate::run(&arguments, workspace),
        Command::Ladder(arguments) => ladder::run(&arguments, workspace),
        Command::Remesh(arguments) => rebuild::run(&*arguments, workspace),
        Command::Reskin(arguments) => rebuild::run(&*arguments, workspace),
        Command::Smooth(arguments) => rebuild::run(&*arguments, workspace),
        Command::Transfer(arguments) => transfer::run(&arguments, workspace),
        Command::Boolean(arguments) => boolean::run(&arguments, workspace),
        Command::Cut(arguments) => cut::run(&arguments, workspace),
        Command::Bake(arguments) => bake::run(&arguments, workspace),
        Command::Convert(arguments) => convert::run(&arguments, workspace),
        Command::Prep(arguments) => prep::run(&arguments, workspace),
        Command::Parts(arguments) => parts::run(&arguments, workspace),
        Command::Picture(arguments) => picture::run(&arguments, workspace),
        Command::Schema(arguments) => schema::run(&arguments),
        Command::Demo(arguments) => demo::run(&arguments, workspace),
    }
}
