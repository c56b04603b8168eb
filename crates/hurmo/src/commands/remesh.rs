//! `hurmo remesh`: rebuilds a mesh.

use crate::Ending;
use crate::job::{self, JobArguments};
use anyhow::Result;
use glam::DVec3;
use hurmo_core::units::Axis;
use hurmo_pipeline::Workspace;
use hurmo_pipeline::files;
use hurmo_pipeline::files::name_of;
use hurmo_pipeline::operation::Work;
use hurmo_pipeline::operation::remesh::Options;
use hurmo_pipeline::pictures::Drawn;
use hurmo_pipeline::quantity::axis;
use hurmo_pipeline::quantity::sphere;
use hurmo_pipeline::runner::Job;
use std::path::PathBuf;

/// Arguments of `hurmo remesh`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo remesh bollard.obj -o even.obj --into triangles --edge 0.5%\n  \
    hurmo remesh heron.ply -o even.ply --into triangles --to 40k --crease 60\n  \
    hurmo remesh buoy.obj -o skin.obj --into solid --cell 2mm --unit m\n  \
    hurmo remesh hawser.stl -o rope.stl --into solid --cell 0.4% --then-decimate 40k\n  \
    hurmo remesh skin.ply -o painted.ply --colour-from lantern.obj")]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    #[command(flatten)]
    options: Options,
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: Option<String>,
    /// Draw the model before and after with its wires, as a PNG: all of it, and from close by
    #[arg(long, value_name = "PNG")]
    picture: Option<PathBuf>,
    /// With --picture: what is shown from close by, as X,Y,Z,RADIUS in model units [default: where
    /// the surface went furthest]
    #[arg(long, value_name = "X,Y,Z,R", value_parser = sphere, requires = "picture", allow_hyphen_values = true)]
    close_up: Option<(DVec3, f64)>,
    /// With --picture: which axis points up, x, y or z
    #[arg(long, value_name = "AXIS", default_value = "z", value_parser = axis)]
    up: Axis,
}

/// Runs `hurmo remesh`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let work = Work::Remesh(Box::new(arguments.options.clone()));
    let brief = arguments.brief.as_deref();
    arguments
        .options
        .reads()
        .for_each(|file| workspace.reads(file));
    let Some(picture) = &arguments.picture else {
        return job::run(workspace, &arguments.job, brief, &work);
    };
    work.check()?;
    workspace.reads(&arguments.job.input);
    workspace.claim_png(picture, arguments.job.output.force)?;
    let input = job::read(workspace, &arguments.job, brief)?;
    let mut job = Job::begin_for(workspace, &input, &work);
    let done = job.apply(&work)?;
    workspace.observer().begin("drawing", 0);
    let drawn = Drawn {
        models: [
            (job.model, name_of(&arguments.job.input)),
            (&done.model, name_of(&arguments.job.output.output)),
        ],
        rebuilt: done
            .told
            .iter()
            .rev()
            .find_map(|step| step.rebuilt.as_deref()),
        close_up: arguments.close_up,
        up: arguments.up,
    };
    let png = drawn.picture().map(|picture| picture.png()).transpose()?;
    let ending = job::finish(workspace, &job, &arguments.job, &done)?;
    match png {
        Some(png) => files::write(picture, &png)?,
        None => workspace.note("nothing to draw: the result has no faces"),
    }
    Ok(ending)
}
