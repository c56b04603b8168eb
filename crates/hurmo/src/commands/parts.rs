//! `hurmo parts`: lists the parts of a model; keeps, drops, splits and joins them.

use crate::job::{self, JobArguments, TellOrJobArguments};
use crate::render::Text;
use crate::{Ending, out, render};
use anyhow::{Result, bail};
use hurmo_core::units::Axis;
use hurmo_core::{Model, parts};
use hurmo_pipeline::files::name_of;
use hurmo_pipeline::operation::parts::Options;
use hurmo_pipeline::operation::{Operation, Outcome};
use hurmo_pipeline::quantity::{By, axis};
use hurmo_pipeline::record::{PartsDocument, PartsNote, StepReport, json};
use hurmo_pipeline::runner::Job;
use hurmo_pipeline::said;
use hurmo_pipeline::{Workspace, files};
use std::collections::HashSet;
use std::path::{Path, PathBuf};

/// Arguments of `hurmo parts`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Parts are named as in the audit: P1 has the most faces. Without -o and --split \
    they are listed.\n\nExamples:\n  \
    hurmo parts buoy.obj\n  \
    hurmo parts buoy.obj --picture buoy-parts.png\n  \
    hurmo parts heron.ply -o bird.ply --drop P7..\n  \
    hurmo parts heron.ply -o bird.ply --drop-under 0.5%\n  \
    hurmo parts buoy.obj --split pieces --by material\n  \
    hurmo parts buoy.obj -o stage.obj --join bollard.obj lantern.obj"
)]
pub struct Arguments {
    #[command(flatten)]
    job: TellOrJobArguments,
    #[command(flatten)]
    options: Options,
    /// Put these models into the same file, each part with its groups and materials
    #[arg(long, value_name = "FILE", num_args = 1..,
        conflicts_with_all = ["split", "keep", "drop", "drop_under"])]
    join: Vec<PathBuf>,
    /// Write each piece as a file of its own into this folder
    #[arg(long, value_name = "DIR",
        conflicts_with_all = ["output", "keep", "drop", "drop_under"])]
    split: Option<PathBuf>,
    /// What pieces are split by
    #[arg(
        long,
        value_name = "part|group|material",
        default_value = "part",
        requires = "split"
    )]
    by: By,
    /// Draw the parts, each in its own colour, with a list, into this PNG
    #[arg(long, value_name = "PNG")]
    picture: Option<PathBuf>,
    /// Which axis of the model points up in the picture: x, y or z
    #[arg(long, default_value = "z", value_parser = axis)]
    up: Axis,
}

/// Runs `hurmo parts`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let edits = arguments.options.is_some() || !arguments.join.is_empty();
    match (arguments.job.job(), &arguments.split) {
        (Some(job), _) if edits => {
            if arguments.picture.is_some() {
                bail!(
                    "--picture goes with a list; draw the result with hurmo picture --show parts"
                );
            }
            match arguments.join.is_empty() {
                true => {
                    let work = Operation::Parts(arguments.options.clone());
                    job::run(workspace, &job, &work)
                }
                false => join(arguments, workspace, &job),
            }
        }
        (Some(_), _) => {
            bail!(
                "-o needs a choice of what to write: --keep, --drop, --drop-under, --as-groups or --join"
            )
        }
        (None, _) if edits => bail!("name the file to write, with -o"),
        (None, Some(folder)) => split(arguments, workspace, folder),
        (None, None) => list(arguments, workspace),
    }
}

fn list(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    workspace.reads(&arguments.job.input);
    if let Some(picture) = &arguments.picture {
        workspace.claim_png(picture, arguments.job.force)?;
    }
    let loaded = workspace.load(&arguments.job.input, arguments.job.shared.unit())?;
    let facts = parts::described(&loaded.model, workspace.observer());
    let document = PartsDocument::of(&arguments.job.input, &loaded.model, facts);
    if let Some(path) = &arguments.picture {
        let title = name_of(&arguments.job.input);
        let picture =
            hurmo_pipeline::pictures::parts_sheet(&title, &loaded.model, &document, arguments.up);
        files::write(path, &picture.png()?)?;
    }
    workspace.clear_progress();
    out::print(&match arguments.job.shared.json() {
        true => json(&document),
        false => document.text(),
    });
    if let (Some(path), false) = (&arguments.picture, arguments.job.shared.json()) {
        out::print(&format!("\n{}\n", path.display()));
    }
    Ok(Ending::Clear)
}

fn join(arguments: &Arguments, workspace: &Workspace, to: &JobArguments) -> Result<Ending> {
    let input = job::read(workspace, to)?;
    let job = Job::begin(workspace, &input)?;
    let mut models = vec![(stem(&arguments.job.input), job.model.clone())];
    for path in &arguments.join {
        models.push((stem(path), workspace.load(path, None)?.model));
    }
    let list: Vec<(String, &Model)> = models.iter().map(|(name, m)| (name.clone(), m)).collect();
    let joined = parts::joined(&list);
    let mut did = vec![said!(
        "joined",
        "{models:model} put together, {faces:face}",
        models = models.len(),
        faces = joined.model.mesh.face_count(),
    )];
    if joined.scaled > 0 {
        let unit = joined.model.unit.map_or("one unit", |unit| unit.name());
        did.push(said!(
            "scaled",
            "{models:model} scaled to {unit}",
            models = joined.scaled,
            unit = unit,
        ));
    }
    let mut left = Vec::new();
    if joined.without_unit > 0 {
        let unit = joined.model.unit.map_or("", |unit| unit.name());
        left.push(said!(
            "without-unit",
            "{models:model} of no known unit taken as it is, in {unit}",
            models = joined.without_unit,
            unit = unit,
        ));
    }
    let step = StepReport {
        did,
        left,
        ..StepReport::of("join")
    };
    job::finish(workspace, &job, to, &Outcome::new(joined.model, vec![step]))
}

fn split(arguments: &Arguments, workspace: &Workspace, folder: &Path) -> Result<Ending> {
    let input = &arguments.job.input;
    let loaded = workspace.load(input, arguments.job.shared.unit())?;
    let pieces = parts::pieces(&loaded.model, arguments.by.into());
    if pieces.is_empty() {
        bail!("{}: there is no face to split off", input.display());
    }
    let ending = input.extension().unwrap_or_default().to_string_lossy();
    let mut taken = HashSet::new();
    let targets: Vec<PathBuf> = pieces
        .iter()
        .map(|piece| {
            let name = safe_name(piece.name.as_deref().unwrap_or("unnamed"));
            let mut file = format!("{}-{name}", stem(input));
            for number in 2.. {
                if taken.insert(file.to_lowercase()) {
                    break;
                }
                file = format!("{}-{name}-{number}", stem(input));
            }
            folder.join(format!("{file}.{ending}"))
        })
        .collect();
    workspace.reads(input);
    workspace.claim_folder(folder, &targets, arguments.job.force)?;
    let mut options = hurmo_formats::WriteOptions::default();
    options.ascii = arguments.job.ascii;
    options.may_overwrite = arguments.job.force;
    let mut written = Vec::new();
    for (piece, target) in pieces.iter().zip(&targets) {
        let model = parts::only(&loaded.model, &piece.faces);
        hurmo_formats::write(target, &model, options)?;
        written.push(PartsNote {
            file: target.display().to_string(),
            name: piece.name.clone(),
            faces: piece.faces.len(),
        });
    }
    workspace.clear_progress();
    out::print(&match arguments.job.shared.json() {
        true => json(&written),
        false => render::parts::written(&written),
    });
    Ok(Ending::Clear)
}

/// The name of a file without its ending.
pub(super) fn stem(path: &Path) -> String {
    path.file_stem()
        .unwrap_or_default()
        .to_string_lossy()
        .into_owned()
}

/// A name that is a file's name everywhere.
fn safe_name(name: &str) -> String {
    let safe: String = name
        .chars()
        .map(|c| match c {
            c if c.is_ascii_alphanumeric() || "-_.".contains(c) => c,
            _ => '_',
        })
        .take(60)
        .collect();
    match safe.trim_matches(['.', '_']) {
        "" => "unnamed".into(),
        name => name.into(),
    }
}

#[cfg(test)]
mod tests {
    use super::safe_name;

    #[test]
    fn names_of_files_are_safe() {
        assert_eq!(safe_name("Brass, polished"), "Brass__polished");
        assert_eq!(safe_name("../../etc"), "etc");
        assert_eq!(safe_name("日本"), "unnamed");
        assert_eq!(safe_name(&"x".repeat(300)).len(), 60);
    }
}
