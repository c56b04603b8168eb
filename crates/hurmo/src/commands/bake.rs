//! `hurmo bake`: a texture for a model, from the look and the detail of another.

use crate::Ending;
use crate::job::{self, JobArguments};
use anyhow::{Result, bail};
use hurmo_pipeline::operation::Operation;
use hurmo_pipeline::operation::bake::{Bake, Options};
use hurmo_pipeline::{TextureOptions, Workspace};
use std::path::PathBuf;

/// Arguments of `hurmo bake`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "The texture's colours are those of FROM nearest to each pixel: of its textures, its \
    vertices or its materials. So a rebuilt model gets its look back, and a light one wears the detail \
    of a heavy one.\n\nExamples:\n  \
    hurmo bake lantern.obj skin.ply -o lantern-skin.glb\n  \
    hurmo bake heron.ply heron-20k.ply -o heron-20k.glb --normal-map --size 2048\n  \
    hurmo bake old.obj new.obj -o new.glb --uvs keep --within 2mm --unit m"
)]
pub struct Arguments {
    /// Model file that gives its look
    #[arg(value_name = "FROM")]
    from: PathBuf,
    #[command(flatten)]
    job: JobArguments,
    #[command(flatten)]
    options: Options,
    #[command(flatten)]
    textures: TextureOptions,
}

/// Runs `hurmo bake`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let mut job = arguments.job.clone();
    job.output.textures = arguments.textures.clone();
    workspace.reads(&arguments.from);
    let format = hurmo_formats::Format::of_name(&job.output.output);
    if format.is_some_and(|format| !format.entry().holds.uvs) {
        let name = format.map_or("", |format| format.name());
        bail!("{name} can't hold UVs and textures; write .glb, .gltf or .obj");
    }
    let work = Operation::Bake(Box::new(Bake {
        from: Some(arguments.from.clone()),
        options: arguments.options.clone(),
    }));
    job::run(workspace, &job, &work)
}
