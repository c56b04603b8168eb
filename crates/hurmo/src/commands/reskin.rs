//! `hurmo reskin`: puts a new watertight skin round a model.

use crate::Ending;
use crate::job::JobArguments;
use crate::rebuild::{self, PictureArguments};
use anyhow::Result;
use hurmo_pipeline::Workspace;
use hurmo_pipeline::operation::Operation;
use hurmo_pipeline::operation::reskin::Options;

/// Arguments of `hurmo reskin`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo reskin buoy.obj -o skin.obj --cell 2mm --unit m\n  \
    hurmo reskin hawser.stl -o rope.stl --cell 0.4% --then-decimate 40k\n  \
    hurmo reskin lantern.obj -o skin.obj --to 40k --min-thickness 1%")]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    #[command(flatten)]
    options: Options,
    #[command(flatten)]
    picture: PictureArguments,
}

/// Runs `hurmo reskin`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let work = Operation::Reskin(Box::new(arguments.options.clone()));
    rebuild::run(workspace, &arguments.job, &arguments.picture, &work)
}
