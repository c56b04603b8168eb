//! `hurmo remesh`: rebuilds a mesh.

use crate::Ending;
use crate::job::{Job, JobArguments};
use crate::session::Session;
use crate::steps::Work;
use crate::steps::remesh::Options;
use anyhow::Result;

/// Arguments of `hurmo remesh`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo remesh bollard.obj -o even.obj --into triangles --edge 0.5%\n  \
    hurmo remesh heron.ply -o even.ply --into triangles --to 40k --crease 60\n  \
    hurmo remesh buoy.obj -o skin.obj --into solid --cell 2mm --unit m\n  \
    hurmo remesh hawser.stl -o rope.stl --into solid --cell 0.4% --then-decimate 40k")]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    #[command(flatten)]
    options: Options,
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: Option<String>,
}

/// Runs `hurmo remesh`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let work = Work::Remesh(Box::new(arguments.options.clone()));
    Job::run(session, &arguments.job, arguments.brief.as_deref(), &work)
}
