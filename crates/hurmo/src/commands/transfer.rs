//! `hurmo transfer`: vertex colours from another model.

use crate::Ending;
use crate::job::{self, JobArguments};
use anyhow::Result;
use hurmo_pipeline::Workspace;
use hurmo_pipeline::operation::Operation;
use hurmo_pipeline::operation::transfer::{Options, Transfer};
use std::path::PathBuf;

/// Arguments of `hurmo transfer`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Each vertex gets the colour of the nearest place on FROM: of its textures, its vertices or \
    its materials. `hurmo bake` makes a texture instead.\n\nExamples:\n  \
    hurmo transfer lantern.obj skin.ply -o painted.ply"
)]
pub struct Arguments {
    /// Model file that gives its colours
    #[arg(value_name = "FROM")]
    from: PathBuf,
    #[command(flatten)]
    job: JobArguments,
    #[command(flatten)]
    options: Options,
}

/// Runs `hurmo transfer`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    workspace.reads(&arguments.from);
    if let Some(texture) = &arguments.options.texture {
        workspace.reads(texture);
    }
    let work = Operation::Transfer(Transfer {
        from: Some(arguments.from.clone()),
        options: arguments.options.clone(),
    });
    job::run(workspace, &arguments.job, &work)
}
