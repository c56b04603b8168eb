//! `hurmo prep`: the whole job in one go.

use crate::Ending;
use crate::cli::BriefName;
use crate::job::{Job, JobArguments};
use crate::pipeline::{Pipeline, Plan};
use crate::quantity::{Budget, Length};
use crate::session::{Session, check_target};
use anyhow::{Context, Result};
use hurmo_core::remesh;
use std::path::PathBuf;

/// Arguments of `hurmo prep`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo prep heron.ply -o heron.stl --for print --to 50k\n  \
    hurmo prep lantern.obj -o lantern-game.obj --for engine --to 2k\n  \
    hurmo prep buoy.obj -o buoy-sculpt.obj --for sculpt --remesh 1% --ledger buoy.json")]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    /// What the model is handed off to
    #[arg(long = "for", value_name = "BRIEF")]
    brief: BriefName,
    /// At most so many triangles: 5000, 20k, 1.5M or 12.5%
    #[arg(long, value_name = "BUDGET")]
    to: Option<Budget>,
    /// Rebuild with even triangles of about this side first
    #[arg(long, value_name = "LENGTH")]
    remesh: Option<Length>,
    /// Write the story as JSON too
    #[arg(long, value_name = "FILE")]
    ledger: Option<PathBuf>,
}

/// Runs `hurmo prep`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    if let Some(ledger) = &arguments.ledger {
        check_target(ledger, arguments.job.output.force)?;
    }
    let mut job = Job::begin(session, &arguments.job, Some(arguments.brief))?;
    let remesh = match arguments.remesh {
        Some(length) => Some(remesh::Options {
            target: remesh::Target::Edge(
                length.in_model(job.model.unit, job.before.mesh.diagonal)?,
            ),
            crease: remesh::DEFAULT_CREASE,
        }),
        None => None,
    };
    let plan = Plan {
        brief: job.brief,
        to: arguments.to.map(|budget| budget.of(job.triangles()).max(1)),
        remesh,
        shared_vertices: job.target_format().entry().holds.shared_vertices,
    };
    let model = std::mem::take(&mut job.model);
    let mut pipeline = Pipeline::new(model, &plan, &session.progress);
    pipeline.run(|model| job.audit(model))?;
    let (written, mut after) = job.write(&pipeline.model)?;
    if !after.passes() && job.audit(&pipeline.model).passes() {
        // The file's numbers are coarser than ours: what that brought is mended too.
        pipeline.model = written;
        pipeline.close_until_sound(|model| job.audit(model))?;
        (_, after) = job.write(&pipeline.model)?;
    }
    let (ending, story) = job.tell(after, pipeline.steps, pipeline.lost)?;
    if let Some(ledger) = &arguments.ledger {
        std::fs::write(ledger, crate::report::json(&story))
            .with_context(|| ledger.display().to_string())?;
    }
    Ok(ending)
}
