//! `hurmo decimate`: reduces to a budget.

use crate::Ending;
use crate::job::{self, JobArguments};
use anyhow::Result;
use hurmo_pipeline::Workspace;
use hurmo_pipeline::operation::Operation;
use hurmo_pipeline::operation::decimate::Options;

/// Arguments of `hurmo decimate`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo decimate heron.ply -o heron-20k.ply --to 20k\n  \
    hurmo decimate buoy.obj -o buoy-low.obj --to 12.5%\n  \
    hurmo decimate heron.ply -o heron-near.ply --within 0.1%\n  \
    hurmo decimate bollard.obj -o bollard-low.obj --flat\n  \
    hurmo decimate lantern.obj -o lantern-low.obj --to 50% --each part --keep rims")]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    #[command(flatten)]
    options: Options,
}

/// Runs `hurmo decimate`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let work = Operation::Decimate(Box::new(arguments.options.clone()));
    job::run(workspace, &arguments.job, &work)
}
