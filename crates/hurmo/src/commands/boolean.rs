//! `hurmo boolean`: solids joined, taken away from each other, or taken apart where they cross.

use crate::arguments::Shared;
use crate::{Ending, job};
use anyhow::{Context, Result};
use hurmo_core::Model;
use hurmo_core::units::Axis;
use hurmo_formats::Source;
use hurmo_pipeline::files::name_of;
use hurmo_pipeline::operation::boolean::{Assembly, ModelName, Options};
use hurmo_pipeline::pictures::Combined;
use hurmo_pipeline::quantity::axis;
use hurmo_pipeline::runner::{Input, Job};
use hurmo_pipeline::{Output, Workspace, files};
use std::collections::HashMap;
use std::path::{Path, PathBuf};

/// Arguments of `hurmo boolean`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Models are files, or of a file a part (buoy.obj#P2), a group or object \
    (buoy.obj#group:legs) or a material (buoy.obj#material:brass). Of a single model its parts are the \
    solids. All are decided exactly; faces that meet nothing stay as they are, and cut ones keep UVs, \
    normals, colours, groups and materials.\n\nExamples:\n  \
    hurmo boolean buoy.obj -o buoy-one.obj --as union\n  \
    hurmo boolean plank.stl post.stl -o plank-cut.stl --as difference\n  \
    hurmo boolean stage.obj peg.stl -o holed.obj --as difference --move 0,0,12mm --turn z,45\n  \
    hurmo boolean a.stl b.stl c.stl -o all.stl --as union --scale 3:2 --move 2:10,0,0\n  \
    hurmo boolean buoy.obj -o soft.obj --as union --blend 2%\n  \
    hurmo boolean head.ply body.ply -o one.ply --as union --even-along 5mm --unit mm\n  \
    hurmo boolean buoy.obj -o apart.obj --as pieces"
)]
pub struct Arguments {
    /// Model files, or parts, groups or materials of them
    #[arg(value_name = "MODEL", required = true, num_args = 1..)]
    models: Vec<ModelName>,
    /// Where the result goes.
    #[command(flatten)]
    output: Output,
    #[command(flatten)]
    options: Options,
    /// Draw the solids, their cut lines and the result into this PNG
    #[arg(long, value_name = "PNG")]
    picture: Option<PathBuf>,
    /// Which axis points up in the picture: x, y or z
    #[arg(long, default_value = "z", value_parser = axis)]
    up: Axis,
    #[command(flatten)]
    shared: Shared,
}

/// Runs `hurmo boolean`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    arguments.options.check(arguments.models.len())?;
    for name in &arguments.models {
        workspace.reads(&name.file);
    }
    workspace.claim_output(&arguments.output)?;
    if let Some(picture) = &arguments.picture {
        workspace.claim_png(picture, arguments.output.force)?;
    }
    let brief = arguments.shared.brief()?;
    let (models, source) = read(arguments, workspace)?;
    let mut assembly = Assembly::of(models, &arguments.options.placement)?;
    if arguments.output.is_single() {
        assembly = assembly.in_single_precision();
    }
    let input = Input::made(assembly.model.clone(), brief, source);
    let (job, meets) = Job::begin_with_contacts(workspace, &input)?;
    let made = assembly.solve(
        &arguments.options,
        meets.as_deref(),
        arguments.picture.is_some(),
        workspace.observer(),
    )?;
    let names: Vec<String> = arguments.models.iter().map(ModelName::to_string).collect();
    let input = names.join(" + ");
    let png = match &arguments.picture {
        Some(_) => {
            workspace.observer().begin("drawing", 0);
            let combined = Combined {
                name: name_of(&arguments.output.output),
                solids: &assembly,
                made: &made,
                up: arguments.up,
            };
            Some(combined.picture().png()?)
        }
        None => None,
    };
    let report = job.finish(&input, &arguments.output, &made.done)?;
    let ending = job::print(workspace, &report, arguments.shared.json());
    if let (Some(path), Some(png)) = (&arguments.picture, png) {
        files::write(path, &png)?;
    }
    Ok(ending)
}

/// The models by their names, and how the first speaks of its elements. No file is read twice.
fn read(arguments: &Arguments, workspace: &Workspace) -> Result<(Vec<(String, Model)>, Source)> {
    let mut files: HashMap<&Path, (Model, Source)> = HashMap::new();
    let mut models = Vec::new();
    for name in &arguments.models {
        let model = match files.get(&*name.file) {
            Some((model, _)) => model.clone(),
            None => {
                let loaded = workspace.load(&name.file, None)?;
                let mut model = loaded.model;
                model.unit = model.unit.or(arguments.shared.unit());
                files.insert(&name.file, (model.clone(), loaded.source));
                model
            }
        };
        models.push((name.short(), name.chosen(model)?));
    }
    let (_, source) = files
        .remove(&*arguments.models[0].file)
        .context("there is a first model")?;
    // Lines are those of one file, and elements have other numbers here.
    Ok((
        models,
        Source {
            lines: None,
            ..source
        },
    ))
}
