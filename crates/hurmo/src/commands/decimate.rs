//! `hurmo decimate`: reduces to a budget.

use crate::Ending;
use crate::job::{Job, JobArguments};
use crate::quantity::Budget;
use crate::session::Session;
use anyhow::Result;

/// Arguments of `hurmo decimate`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo decimate heron.ply -o heron-20k.ply --to 20k\n  \
    hurmo decimate buoy.obj -o buoy-low.obj --to 12.5%")]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    /// At most so many triangles: 5000, 20k, 1.5M or 12.5%
    #[arg(long, value_name = "BUDGET")]
    to: Budget,
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: Option<String>,
}

/// Runs `hurmo decimate`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let job = Job::begin(session, &arguments.job, arguments.brief.as_deref())?;
    let to = arguments.to.of(job.triangles()).max(1);
    let (model, step) = crate::pipeline::decimated(&job.model, to, &session.progress);
    job.finish(&model, vec![step], Vec::new())
}
