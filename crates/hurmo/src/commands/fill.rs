//! `hurmo fill`: closes holes.

use crate::Ending;
use crate::job::{Job, JobArguments};
use crate::quantity::{RimSize, length_in, numbered};
use crate::session::Session;
use crate::story::Step;
use anyhow::{Result, bail};
use hurmo_core::fill::{self, Options};

/// Arguments of `hurmo fill`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Rims are named as in the audit: R1 is the longest. Without --rim or \
    --up-to, every rim is closed.\n\nExamples:\n  \
    hurmo fill heron.ply -o closed.ply\n  \
    hurmo fill heron.ply -o closed.ply --up-to 40\n  \
    hurmo fill lantern.obj -o closed.obj --rim R1,R3..R5\n  \
    hurmo fill lantern.obj -o closed.obj --unit cm --up-to 12mm"
)]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    /// Close only these rims: R1, or R1,R3..R5
    #[arg(long, value_name = "RIM,…")]
    rim: Option<String>,
    /// Close only rims of at most this size: a number of edges, or a length
    #[arg(long, value_name = "EDGES|LENGTH")]
    up_to: Option<RimSize>,
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: Option<String>,
}

/// Runs `hurmo fill`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let rims = match &arguments.rim {
        Some(list) => numbered(list, 'R')?,
        None => Vec::new(),
    };
    let job = Job::begin(session, &arguments.job, arguments.brief.as_deref())?;
    let there = job.before.mesh.rims;
    if let Some(range) = rims.iter().find(|range| *range.start() >= there) {
        bail!(
            "there is no R{}: the model has {}",
            range.start() + 1,
            crate::out::counted(there, "rim")
        );
    }
    let mut options = Options {
        rims,
        ..Options::default()
    };
    match arguments.up_to {
        Some(RimSize::Edges(edges)) => options.up_to_edges = Some(edges),
        Some(RimSize::Length(length)) => {
            let length = length_in(length, job.model.unit, job.before.mesh.diagonal)?;
            options.up_to_length = Some(length);
        }
        None => {}
    }
    let outcome = fill::fill(&job.model, &options, &session.progress);
    let step = Step::filled(&job.model, &outcome);
    job.finish(&outcome.model, vec![step], Vec::new())
}
