//! `hurmo smooth`: takes noise out, or evens vertices out.

use crate::Ending;
use crate::job::JobArguments;
use crate::rebuild::{self, PictureArguments};
use anyhow::Result;
use hurmo_pipeline::Workspace;
use hurmo_pipeline::operation::Operation;
use hurmo_pipeline::operation::smooth::Options;

/// Arguments of `hurmo smooth`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo smooth heron.ply -o calm.ply --noise 10\n  \
    hurmo smooth bollard.obj -o calm.obj --noise 10 --keep-creases\n  \
    hurmo smooth heron.ply -o even.ply --relax 20")]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    #[command(flatten)]
    options: Options,
    #[command(flatten)]
    picture: PictureArguments,
}

/// Runs `hurmo smooth`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let work = Operation::Smooth(arguments.options.clone());
    rebuild::run(workspace, &arguments.job, &arguments.picture, &work)
}
