//! `hurmo demo`: writes the demo models and prepares each for its own purpose.

use super::{picture, prep};
use crate::{Ending, demo, out};
use anyhow::{Context, Result, bail};
use clap::Parser;
use hurmo_formats::WriteOptions;
use hurmo_pipeline::Workspace;
use hurmo_pipeline::record::json;
use serde::Serialize;
use std::path::{Path, PathBuf};

/// Arguments of `hurmo demo`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  hurmo demo saltmarsh")]
pub struct Arguments {
    /// Folder to write to; made if it isn't there
    #[arg(value_name = "DIR", default_value = "hurmo-demo")]
    folder: PathBuf,
    /// Write into a folder that holds other files too
    #[arg(long)]
    force: bool,
}

/// A brief with steps of its own, to try on the heron.
const HARBOUR: &str = r#"# For the harbour's own printer: what `hurmo prep heron.ply -o heron-harbour.stl --for harbour.toml`
# does. Add --dry-run to see it first.
name = "harbour"
extends = "print"

[[step]]
do = "mend"
clear = ["all", "floating-parts"]

[[step]]
do = "fill"
up-to = "200 edges"

[[step]]
do = "decimate"
to = "20k"
keep = ["creases=0.7"]
"#;

/// Says that a folder is the demo's own, and what was planted in its models.
const MARKER: &str = "planted.json";

#[derive(Serialize)]
struct PlantedIn {
    model: &'static str,
    what: &'static str,
    rims: usize,
    planted: Vec<demo::Planted>,
}

#[derive(Parser)]
#[command(no_binary_name = true)]
struct PrepLine {
    #[command(flatten)]
    arguments: prep::Arguments,
}

/// A command as it would be written.
#[derive(clap::Parser)]
struct CommandLine {
    #[command(subcommand)]
    command: super::Command,
}

/// Runs `hurmo demo`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let folder = &arguments.folder;
    make_folder(folder, arguments.force)?;
    let models = demo::models();
    let mut planted = Vec::new();
    for model in &models {
        let path = folder.join(model.file);
        hurmo_formats::write(&path, &model.model, WriteOptions::default())?;
        planted.push(PlantedIn {
            model: model.file,
            what: model.what,
            rims: model.rims,
            planted: model.planted.clone(),
        });
    }
    let marker = folder.join(MARKER);
    std::fs::write(&marker, json(&planted)).with_context(|| marker.display().to_string())?;

    let plank = folder.join(demo::together::PLANK);
    hurmo_formats::write(&plank, &demo::together::plank(), WriteOptions::default())?;
    let brief = folder.join("harbour.toml");
    std::fs::write(&brief, HARBOUR).with_context(|| brief.display().to_string())?;

    let mut passed = 0;
    let mut sheet = Vec::new();
    for model in &models {
        let input = folder.join(model.file);
        let into = model
            .packed
            .map_or(folder.clone(), |pack| folder.join(pack));
        let output = into.join(model.prepared);
        out::print(&format!(
            "{}\n",
            out::faint(&format!("{}: {}", model.file, model.what))
        ));
        let mut line = vec![
            input.display().to_string(),
            "-o".into(),
            match model.packed {
                Some(_) => model.prepared.into(),
                None => output.display().to_string(),
            },
            "--force".into(),
            "--for".into(),
            model.brief.into(),
        ];
        if model.packed.is_some() {
            line.extend(["--pack".into(), into.display().to_string()]);
        }
        line.extend(model.arguments.iter().map(|argument| argument.to_string()));
        let parsed = PrepLine::try_parse_from(&line)?;
        if prep::run(&parsed.arguments, workspace)? == Ending::Clear {
            passed += 1;
        }
        out::print("\n");
        sheet.extend([input, output]);
    }
    let commands = demo::together::COMMANDS;
    for command in commands {
        out::print(&format!("{}\n", out::faint(command.what)));
        let line = CommandLine::try_parse_from(command.words(folder))?;
        if super::run(line.command, workspace)? == Ending::Clear {
            passed += 1;
        }
        out::print("\n");
    }
    let picture = folder.join("before-and-after.png");
    picture::contact_sheet(&sheet, 2, &picture)?;
    out::print(&format!(
        "{passed} of {} models are good to go; files, and {}, are in {}\n",
        models.len() + commands.len(),
        "before-and-after.png",
        folder.display()
    ));
    Ok((passed == models.len() + commands.len()).into())
}

fn make_folder(folder: &Path, force: bool) -> Result<()> {
    if !folder.exists() {
        return std::fs::create_dir(folder).with_context(|| folder.display().to_string());
    }
    if !folder.is_dir() {
        bail!("{}: is there already, and no folder", folder.display());
    }
    let empty = folder
        .read_dir()
        .with_context(|| folder.display().to_string())?
        .next()
        .is_none();
    if !empty && !folder.join(MARKER).is_file() && !force {
        bail!(
            "{}: holds files that are not the demo's; name another folder, or use --force",
            folder.display()
        );
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_its_own_folder_is_written_again() {
        let place = tempfile::tempdir().unwrap();
        let folder = place.path().join("saltmarsh");
        make_folder(&folder, false).unwrap();
        std::fs::write(folder.join("mine.txt"), "keep me").unwrap();
        assert!(make_folder(&folder, false).is_err());
        make_folder(&folder, true).unwrap();
        std::fs::write(folder.join(MARKER), "[]").unwrap();
        make_folder(&folder, false).unwrap();
    }
}
