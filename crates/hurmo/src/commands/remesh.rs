//! `hurmo remesh`: rebuilds a model with even triangles.

use crate::Ending;
use crate::job::JobArguments;
use crate::rebuild::{self, PictureArguments};
use anyhow::Result;
use hurmo_pipeline::Workspace;
use hurmo_pipeline::operation::Operation;
use hurmo_pipeline::operation::remesh::Options;

/// Arguments of `hurmo remesh`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo remesh bollard.obj -o even.obj --edge 0.5%\n  \
    hurmo remesh heron.ply -o even.ply --to 40k --crease 60\n  \
    hurmo remesh heron.ply -o near.ply --within 0.05%")]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    #[command(flatten)]
    options: Options,
    #[command(flatten)]
    picture: PictureArguments,
}

/// Runs `hurmo remesh`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let work = Operation::Remesh(Box::new(arguments.options.clone()));
    rebuild::run(workspace, &arguments.job, &arguments.picture, &work)
}
