//! `hurmo prep`: the whole job in one go.

use crate::Ending;
use crate::job::{Job, JobArguments};
use crate::pipeline::{Pipeline, Plan};
use crate::quantity::{Budget, length_in};
use crate::session::{Session, check_target};
use anyhow::{Context, Result, bail};
use hurmo_core::remesh;
use hurmo_core::units::Length;
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
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: String,
    /// At most so many triangles: 5000, 20k, 1.5M or 12.5%
    #[arg(long, value_name = "BUDGET")]
    to: Option<Budget>,
    /// Cut one-sided parts open along few edges, so that their faces can be made consistent
    #[arg(long)]
    cut_one_sided: bool,
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
    let mut job = Job::begin(session, &arguments.job, Some(&arguments.brief))?;
    if let Some(format) = &job.brief.handoff.format
        && Some(job.target_format()) != hurmo_formats::Format::of_extension(format)
    {
        bail!(
            "the brief {} asks for .{format}; name the output so",
            job.brief.name
        );
    }
    let remesh = match arguments.remesh {
        Some(length) => Some(remesh::Options {
            target: remesh::Target::Edge(length_in(
                length,
                job.model.unit,
                job.before.mesh.diagonal,
            )?),
            crease: remesh::DEFAULT_CREASE,
        }),
        None => None,
    };
    let plan = Plan {
        brief: job.brief.clone(),
        cut_one_sided: arguments.cut_one_sided,
        to: arguments.to.map(|budget| budget.of(job.triangles()).max(1)),
        remesh,
    };
    let model = std::mem::take(&mut job.model);
    let mut pipeline = Pipeline::new(model, &plan, &session.progress);
    pipeline.run(|model| job.audit(model))?;
    let mut written = job.write(&pipeline.model)?;
    if !written.passes && job.audit(&pipeline.model).passes() {
        // The file's numbers are coarser than ours: what that brought is mended too.
        pipeline.model = written.model;
        pipeline.close_until_sound(|model| job.audit(model))?;
        written = job.write(&pipeline.model)?;
    }
    let (ending, story) = job.tell(written, pipeline.steps, pipeline.lost)?;
    if let Some(ledger) = &arguments.ledger {
        std::fs::write(ledger, crate::report::json(&story))
            .with_context(|| ledger.display().to_string())?;
    }
    Ok(ending)
}
