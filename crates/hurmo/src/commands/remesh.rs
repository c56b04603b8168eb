//! `hurmo remesh`: rebuilds a mesh.

use crate::Ending;
use crate::job::{Job, JobArguments};
use crate::quantity::{Budget, angle, length_in};
use crate::session::Session;
use anyhow::{Result, bail};
use clap::ValueEnum;
use hurmo_core::remesh::{DEFAULT_CREASE, Options, Target};
use hurmo_core::units::Length;

/// Arguments of `hurmo remesh`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo remesh bollard.obj -o even.obj --into triangles --edge 0.5%\n  \
    hurmo remesh heron.ply -o even.ply --into triangles --to 40k --crease 60")]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    /// What to rebuild it into
    #[arg(long, value_enum)]
    into: Into,
    /// Edges of about this length
    #[arg(
        long,
        value_name = "LENGTH",
        required_unless_present = "to",
        conflicts_with = "to"
    )]
    edge: Option<Length>,
    /// About so many triangles: 5000, 20k, 1.5M or 12.5%
    #[arg(long, value_name = "BUDGET")]
    to: Option<Budget>,
    /// Edges that bend by more than this angle, in degrees, are kept
    #[arg(long, value_name = "DEGREES", default_value_t = DEFAULT_CREASE, value_parser = angle)]
    crease: f64,
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: Option<String>,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Into {
    /// Even triangles, on the surface as it is
    Triangles,
}

/// Runs `hurmo remesh`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let Into::Triangles = arguments.into;
    let job = Job::begin(session, &arguments.job, arguments.brief.as_deref())?;
    let target = match (arguments.edge, arguments.to) {
        (Some(edge), _) => Target::Edge(length_in(edge, job.model.unit, job.before.mesh.diagonal)?),
        (None, Some(budget)) => Target::Count(budget.of(job.triangles()).max(1)),
        (None, None) => bail!("say how fine: --edge LENGTH or --to BUDGET"),
    };
    let options = Options {
        target,
        crease: arguments.crease,
    };
    let mut lost = Vec::new();
    let (model, step) =
        crate::pipeline::remeshed(&job.model, &options, &session.progress, &mut lost)?;
    job.finish(&model, vec![step], lost)
}
