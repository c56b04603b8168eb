//! Many models in one go, into a folder with a ledger.

use super::Arguments;
use crate::{Ending, out, render};
use anyhow::{Context, Result, bail};
use hurmo_formats::Format;
use hurmo_pipeline::Workspace;
use hurmo_pipeline::batch::{self, Ledger, Many, Planned, PreparedModel, Recorded, prepare_many};
use hurmo_pipeline::files;
use hurmo_pipeline::plan::Plan;
use hurmo_pipeline::record::{RunRecord, json};
use std::path::{Path, PathBuf};
/// Prepares all models that are meant.
pub fn many(
    arguments: &Arguments,
    plan: &Plan,
    run: &RunRecord,
    workspace: &Workspace,
) -> Result<Ending> {
    let planned = planned(arguments, plan)?;
    let (ledger, recorded) = match &arguments.output {
        Some(folder) => {
            std::fs::create_dir_all(folder).with_context(|| folder.display().to_string())?;
            let (ledger, recorded) = open_ledger(arguments, folder, run, workspace)?;
            (Some(ledger), recorded)
        }
        None => (None, Recorded::default()),
    };
    let many = Many {
        models: planned,
        unit: arguments.unit.unit,
        force: arguments.force,
        ascii: arguments.ascii,
        ledger: ledger.as_ref(),
        recorded,
        in_full: arguments.json.json,
    };
    let prepared = prepare_many(&many, plan, workspace)?;
    let failed = prepared
        .iter()
        .filter_map(|prepared| prepared.line.failure());
    let failed: Vec<_> = failed
        .map(|(path, error)| serde_json::json!({ "path": path, "error": error }))
        .collect();
    let sound = prepared.iter().all(|prepared| prepared.line.passes());
    let any_failed = !failed.is_empty();
    out::print(&match arguments.json.json {
        true => {
            let models = prepared.into_iter().filter_map(|prepared| prepared.whole);
            let models: Vec<_> = models.collect();
            json(&serde_json::json!({ "run": run, "models": models, "failed": failed }))
        }
        false => {
            let lines: Vec<_> = prepared
                .into_iter()
                .map(|PreparedModel { line, .. }| line)
                .collect();
            render::prep::many_text(&lines, &plan.brief.name, arguments.dry_run)
        }
    });
    Ok(match any_failed {
        true => Ending::Unusable,
        false => sound.into(),
    })
}

/// The models that are meant, and where each goes.
fn planned(arguments: &Arguments, plan: &Plan) -> Result<Vec<Planned>> {
    let output = arguments.output.as_deref();
    if let Some(file) = output.filter(|output| output.is_file()) {
        bail!(
            "{}: this is a file; many models go into a folder",
            file.display()
        );
    }
    if let Some(file) =
        output.filter(|output| !output.is_dir() && Format::of_name(output).is_some())
    {
        bail!(
            "{}: this is a file's name; many models go into a folder",
            file.display()
        );
    }
    let same = |one: &Path, two: &Path| match (one.canonicalize(), two.canonicalize()) {
        (Ok(one), Ok(two)) => one == two,
        _ => false,
    };
    if let Some(folder) = output
        && arguments.models.iter().any(|model| same(model, folder))
    {
        bail!(
            "{}: this folder is read from; write into another",
            folder.display()
        );
    }
    let list = arguments.files_from.as_deref();
    let mut models = files::found(&arguments.models, list, output)?;
    if let Some(pictures) = &arguments.picture
        && pictures.is_file()
    {
        bail!(
            "{}: this is a file; pictures of many models go into a folder",
            pictures.display()
        );
    }
    let format = arguments
        .format
        .as_ref()
        .or(plan.brief.handoff.format.as_ref());
    let ending = format.map(|ending| ending.trim_start_matches('.').to_lowercase());
    if let Some(ending) = &ending
        && Format::of_extension(ending).is_none()
    {
        let known = Format::known_extensions();
        bail!("'{ending}' is no format that can be written; these can: {known}");
    }
    let mut goes: Vec<Option<PathBuf>> = match output {
        Some(folder) => {
            let targets = batch::targets(&models, folder, ending.as_deref());
            targets.into_iter().map(Some).collect()
        }
        None => vec![None; models.len()],
    };
    if let Some(shard) = arguments.shard {
        (models, goes) = (shard.of(models), shard.of(goes));
    }
    if models.is_empty() && arguments.shard.is_none() {
        let known = Format::known_extensions();
        bail!("there is no model file there ({known})");
    }
    let picture = |goes: &PathBuf| -> Option<PathBuf> {
        let below = goes.strip_prefix(output?).ok()?;
        let mut name = arguments.picture.as_ref()?.join(below).into_os_string();
        name.push(".png");
        Some(name.into())
    };
    let planned = models.into_iter().zip(goes).map(|(model, goes)| Planned {
        input: model.path,
        picture: goes.as_ref().and_then(picture),
        output: goes,
    });
    Ok(planned.collect())
}

fn open_ledger(
    arguments: &Arguments,
    folder: &Path,
    run: &RunRecord,
    workspace: &Workspace,
) -> Result<(Ledger, Recorded)> {
    let path = arguments.ledger.clone().unwrap_or_else(|| {
        folder.join(match arguments.shard {
            Some(shard) => format!("ledger-{shard}.jsonl"),
            None => "ledger.jsonl".into(),
        })
    });
    if path.is_file() && arguments.resume {
        return Ledger::resume(&path, run);
    }
    if path.is_file() && !arguments.force {
        bail!(
            "{}: a run was begun here; --resume does what is left of it, --force begins anew",
            path.display()
        );
    }
    workspace.claim_to_keep(&path, arguments.force)?;
    Ok((Ledger::begin(&path, run)?, Recorded::default()))
}
