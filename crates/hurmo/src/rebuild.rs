//! What commands share that rebuild a model: a picture of it before and after.

use crate::Ending;
use crate::job::{self, JobArguments};
use anyhow::Result;
use glam::DVec3;
use hurmo_core::units::Axis;
use hurmo_pipeline::Workspace;
use hurmo_pipeline::files::{self, name_of};
use hurmo_pipeline::operation::Operation;
use hurmo_pipeline::pictures::Drawn;
use hurmo_pipeline::quantity::{axis, sphere};
use hurmo_pipeline::runner::Job;
use std::path::PathBuf;

/// A picture of what was done.
#[derive(Clone, Debug, clap::Args)]
struct PictureArguments {
    /// Draw the model before and after with its wires, as a PNG: all of it, and from close by
    #[arg(long, value_name = "PNG")]
    picture: Option<PathBuf>,
    /// With --picture: what is shown from close by, as X,Y,Z,RADIUS in model units [default: where
    /// the surface moved farthest]
    #[arg(long, value_name = "X,Y,Z,R", value_parser = sphere, requires = "picture", allow_hyphen_values = true)]
    close_up: Option<(DVec3, f64)>,
    /// With --picture: which axis points up, x, y or z
    #[arg(long, value_name = "AXIS", default_value = "z", value_parser = axis)]
    up: Axis,
}

/// Arguments of a command that rebuilds.
#[derive(Clone, Debug, clap::Args)]
pub struct Arguments<O: clap::Args> {
    #[command(flatten)]
    job: JobArguments,
    #[command(flatten)]
    options: O,
    #[command(flatten)]
    picture: PictureArguments,
}

/// Runs a command that rebuilds.
pub fn run<O>(arguments: &Arguments<O>, workspace: &Workspace) -> Result<Ending>
where
    O: clap::Args + Clone + Into<Operation>,
{
    let work = arguments.options.clone().into();
    drawn(workspace, &arguments.job, &arguments.picture, &work)
}

/// Does a whole job of one operation, and draws what it did.
fn drawn(
    workspace: &Workspace,
    arguments: &JobArguments,
    drawing: &PictureArguments,
    work: &Operation,
) -> Result<Ending> {
    let Some(picture) = &drawing.picture else {
        return job::run(workspace, arguments, work);
    };
    work.check()?;
    workspace.reads(&arguments.input);
    workspace.claim_png(picture, arguments.output.force)?;
    let input = job::read_for(workspace, arguments, work)?;
    let mut job = Job::begin_for(workspace, &input, work)?;
    let done = job.apply(work)?;
    workspace.observer().begin("drawing", 0);
    let drawn = Drawn {
        models: [
            (job.model, name_of(&arguments.input)),
            (&done.model, name_of(&arguments.output.output)),
        ],
        rebuilt: done
            .reports
            .iter()
            .rev()
            .find_map(|step| step.rebuilt.as_deref()),
        close_up: drawing.close_up,
        up: drawing.up,
    };
    let png = drawn.picture().map(|picture| picture.png()).transpose()?;
    let ending = job::finish(workspace, &job, arguments, &done)?;
    match png {
        Some(png) => files::write(picture, &png)?,
        None => workspace.note("nothing to draw: the result has no faces"),
    }
    Ok(ending)
}
