//! `hurmo audit`: finds faults and says where.

use super::picture;
use crate::arguments::Shared;
use crate::render::{self, ModelLine};
use crate::{Ending, out};
use anyhow::{Result, bail};
use hurmo_core::audit::{self, Audit, AuditOptions, CHECKS, Level};
use hurmo_core::units::{Axis, Length};
use hurmo_formats::Loaded;
use hurmo_pipeline::files::{self, Shard};
use hurmo_pipeline::pictures::Subject;
use hurmo_pipeline::quantity::{axis, uv_set};
use hurmo_pipeline::record::{AuditDocument, AuditReport, ModelReport, Unreadable, json};
use hurmo_pipeline::{Workspace, batch, brief};
use hurmo_view::Show;
use std::path::{Path, PathBuf};

/// Arguments of `hurmo audit`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Checks that are off in the brief can be added by name with --also.\n\n\
    Examples:\n  \
    hurmo audit bollard.obj\n  \
    hurmo audit --for print heron.ply --unit mm --picture heron.png\n  \
    hurmo audit --for harbour.toml --json --places all buoy.stl > buoy.json\n  \
    hurmo audit --for engine props/ --csv props.csv --junit props.xml\n  \
    hurmo audit --files-from list.txt --shard 3/16 --json > part-3.json\n  \
    hurmo audit --merge part-1.json part-2.json part-3.json"
)]
pub struct Arguments {
    /// Model files, folders to walk, or patterns; with --merge, reports
    #[arg(value_name = "MODEL", required_unless_present_any = ["files_from", "schema"])]
    models: Vec<PathBuf>,
    #[command(flatten)]
    shared: Shared,
    /// Run these checks only
    #[arg(long, value_name = "CHECK,…", value_delimiter = ',')]
    only: Vec<String>,
    /// Run these checks too, even if the brief turns them off
    #[arg(long, value_name = "CHECK,…", value_delimiter = ',')]
    also: Vec<String>,
    /// Skip these checks
    #[arg(long, value_name = "CHECK,…", value_delimiter = ',')]
    skip: Vec<String>,
    /// Count vertices up to this far apart as duplicates
    #[arg(long, value_name = "LENGTH")]
    near: Option<Length>,
    /// Look for walls thinner than this
    #[arg(long, value_name = "LENGTH")]
    wall: Option<Length>,
    /// The model is one half of a whole that is mirrored along this axis, at 0
    #[arg(long, value_name = "AXIS", value_parser = axis)]
    mirror: Option<Axis>,
    /// Which set of UVs to look at, from 1
    #[arg(long, value_name = "N", default_value = "1", value_parser = uv_set)]
    uv_set: usize,
    /// How many places to list for each finding, or 'all' (3 in text, 20 in JSON)
    #[arg(long, value_name = "N|all", value_parser = places)]
    places: Option<usize>,
    /// Draw the faults, and the worst places from close by
    #[arg(long, value_name = "PNG")]
    picture: Option<PathBuf>,
    /// Write the model with its faults marked, for any viewer of glTF
    #[arg(long, value_name = "GLB")]
    mark: Option<PathBuf>,
    /// Write a test report for build servers
    #[arg(long, value_name = "XML")]
    junit: Option<PathBuf>,
    /// Write a table with a row a model
    #[arg(long, value_name = "CSV")]
    csv: Option<PathBuf>,
    /// Overwrite files that are there
    #[arg(long)]
    force: bool,
    /// Audit the models in this list too: a path a line, '-' for standard input
    #[arg(long, value_name = "LIST")]
    files_from: Option<PathBuf>,
    /// Audit every 16th model, from the third on, as in 3/16: all shares together are the whole list
    #[arg(long, value_name = "N/OF")]
    shard: Option<Shard>,
    /// Join reports that --json made
    #[arg(long, conflicts_with_all = ["files_from", "shard", "picture", "mark", "junit", "csv"])]
    merge: bool,
    /// Print the JSON Schema of the document that --json prints
    #[arg(long)]
    schema: bool,
}

fn places(text: &str) -> Result<usize, String> {
    match text {
        "all" => Ok(usize::MAX),
        number => number
            .parse()
            .map_err(|_| format!("'{text}' is no number of places; write 5 or all")),
    }
}

/// The most models named one by one that get a full report each.
const IN_FULL: usize = 3;

/// Runs `hurmo audit`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    if arguments.schema {
        out::print(&json(&hurmo_pipeline::record::schema_of::<AuditReport>(
            "`hurmo audit`",
        )));
        return Ok(Ending::Clear);
    }
    if arguments.merge {
        return merge(arguments);
    }
    let options = options(arguments)?;
    let mut models = files::expanded(&arguments.models, arguments.files_from.as_deref())?;
    models.iter().for_each(|model| workspace.reads(model));
    let written = [&arguments.mark, &arguments.junit, &arguments.csv];
    for path in written.into_iter().flatten() {
        workspace.claim(path, arguments.force)?;
    }
    if let Some(path) = &arguments.picture {
        workspace.claim_png(path, arguments.force)?;
        workspace.claim(&picture::places_file(path), arguments.force)?;
    }
    let named = arguments.models.iter().all(|path| !path.is_dir());
    let in_full = named && arguments.files_from.is_none() && models.len() <= IN_FULL;
    if let Some(shard) = arguments.shard {
        models = shard.of(models);
    }
    if models.len() != 1 && (arguments.picture.is_some() || arguments.mark.is_some()) {
        bail!(
            "--picture and --mark show one model; {} are named",
            models.len()
        );
    }
    if models.is_empty() && arguments.shard.is_none() {
        bail!(
            "there is no model file there ({})",
            hurmo_formats::Format::known_extensions()
        );
    }
    let in_full = in_full || arguments.picture.is_some() || arguments.mark.is_some();
    let found = match in_full {
        true => one_by_one(arguments, &options, &models, workspace)?,
        false => batch::audit_all(&models, &options, arguments.shared.unit(), workspace),
    };
    if let Some(path) = &arguments.junit {
        files::write(path, render::junit(&found)?.as_bytes())?;
    }
    if let Some(path) = &arguments.csv {
        files::write(path, render::csv(&found)?.as_bytes())?;
    }
    if arguments.shared.json() {
        out::print(&json(&found));
    }
    if !in_full {
        let unreadable = found.unreadable.iter();
        let unreadable: Vec<_> = unreadable
            .map(|u| (u.path.clone(), u.error.clone()))
            .collect();
        match arguments.shared.json() {
            true => unreadable
                .iter()
                .for_each(|(path, error)| out::error(&anyhow::anyhow!("{path}: {error}"))),
            false => {
                let mut lines: Vec<ModelLine> = found.models.iter().map(ModelLine::from).collect();
                render::worst_first(&mut lines);
                out::print(&render::lines_text(&lines, &unreadable, &found.brief));
            }
        }
    }
    Ok(match found.unreadable.is_empty() {
        false => Ending::Unusable,
        true => found.models.iter().all(|model| model.passes).into(),
    })
}

/// What to look for.
fn options(arguments: &Arguments) -> Result<AuditOptions> {
    let mut brief = arguments.shared.brief()?;
    for name in [&arguments.only, &arguments.also, &arguments.skip]
        .into_iter()
        .flatten()
    {
        if audit::named(name).is_none() {
            let near = brief::nearest(name, CHECKS.iter().map(|check| check.name));
            let near = near.map_or("`hurmo checks` lists them".into(), |near| {
                format!("did you mean '{near}'?")
            });
            bail!("'{name}' is no check; {near}");
        }
    }
    if let Some(near) = arguments.near {
        brief.thresholds.near = Some(near);
    }
    if let Some(wall) = arguments.wall {
        brief.thresholds.wall = Some(wall);
        if brief.level("thin-walls") == Level::Off {
            brief.set_level("thin-walls", Level::Warn);
        }
    }
    if !arguments.only.is_empty() {
        for check in CHECKS
            .iter()
            .filter(|check| !arguments.only.iter().any(|n| n == check.name))
        {
            brief.set_level(check.name, Level::Off);
        }
    }
    for name in arguments.only.iter().chain(&arguments.also) {
        if brief.level(name) == Level::Off {
            brief.set_level(name, Level::Note);
        }
    }
    arguments
        .skip
        .iter()
        .for_each(|name| brief.set_level(name, Level::Off));
    let usual = if arguments.shared.json() { 20 } else { 3 };
    let mut options = AuditOptions::default();
    options.brief = brief;
    options.places = arguments.places.unwrap_or(usual);
    options.mirror = arguments.mirror;
    options.uv_set = arguments.uv_set - 1;
    Ok(options)
}

/// Models one after the other, each with its full report.
fn one_by_one(
    arguments: &Arguments,
    options: &AuditOptions,
    models: &[PathBuf],
    workspace: &Workspace,
) -> Result<AuditReport> {
    let mut found = AuditReport {
        brief: options.brief.name.clone(),
        models: Vec::new(),
        unreadable: Vec::new(),
    };
    for path in models {
        let loaded = match workspace.load(path, arguments.shared.unit()) {
            Ok(loaded) => loaded,
            Err(error) => {
                workspace.clear_progress();
                out::error(&error);
                found.unreadable.push(Unreadable {
                    path: path.display().to_string(),
                    error: format!("{:#}", error.root_cause()),
                });
                continue;
            }
        };
        let document = model_report(path, &loaded, options, arguments, workspace)?;
        if !arguments.shared.json() {
            if !found.models.is_empty() {
                out::print("\n");
            }
            let title = format!(
                "{}  ({}, {})",
                path.display(),
                loaded.source.format.name(),
                out::bytes(loaded.bytes)
            );
            let brief = &options.brief.name;
            out::print(&render::audit_text(
                &title,
                &document.audit,
                brief,
                options.places,
            ));
        }
        found.models.push(document);
    }
    Ok(found)
}

fn model_report(
    path: &Path,
    loaded: &Loaded,
    options: &AuditOptions,
    arguments: &Arguments,
    workspace: &Workspace,
) -> Result<ModelReport> {
    let pictured = arguments.picture.is_some() || arguments.mark.is_some();
    let mut all_places = options.clone();
    all_places.places = usize::MAX;
    let asked = if pictured { &all_places } else { options };
    let mut audit = audit::audit(&loaded.model, asked, workspace.observer())?;
    if pictured {
        show(path, loaded, &audit, options, arguments, workspace)?;
        let findings = audit.findings.iter_mut();
        findings.for_each(|finding| finding.found.places.truncate(options.places));
    }
    workspace.clear_progress();
    let all = options.places == usize::MAX;
    Ok(ModelReport {
        path: path.display().to_string(),
        format: loaded.source.format.name(),
        notes: loaded.notes.clone(),
        passes: audit.passes(),
        audit: AuditDocument::of(&audit, &loaded.model, &loaded.source, all),
    })
}

/// Writes the pictures and the marked-up model that were asked for.
fn show(
    path: &Path,
    loaded: &Loaded,
    audit: &Audit,
    options: &AuditOptions,
    arguments: &Arguments,
    workspace: &Workspace,
) -> Result<()> {
    let document = AuditDocument::of(audit, &loaded.model, &loaded.source, false);
    let mut written = Vec::new();
    if let Some(output) = &arguments.picture {
        let subject = Subject {
            name: hurmo_pipeline::files::name_of(path),
            model: &loaded.model,
            looks: Vec::new(),
            audit,
            document: &document,
            brief: &options.brief.name,
            up: (options.brief.handoff.up.or(loaded.model.up)).unwrap_or(Axis::Z),
            whole: true,
        };
        workspace.observer().begin("drawing", 0);
        written = picture::sheets(&subject, Show::Faults, output, [1280, 800])?;
    }
    if let Some(output) = &arguments.mark {
        workspace.observer().begin("marking", 0);
        files::write(output, &crate::marking::glb(&loaded.model, audit)?)?;
        written.push(output.clone());
    }
    workspace.clear_progress();
    for path in written {
        workspace.note(&format!("{} written", path.display()));
    }
    Ok(())
}

fn merge(arguments: &Arguments) -> Result<Ending> {
    let merged = render::merged(&arguments.models)?;
    match arguments.shared.json() {
        true => out::print(&json(&merged.document)),
        false => {
            let mut lines = merged.lines;
            render::worst_first(&mut lines);
            out::print(&render::lines_text(
                &lines,
                &merged.unreadable,
                &merged.brief,
            ));
            return Ok(ending(&lines, &merged.unreadable));
        }
    }
    Ok(ending(&merged.lines, &merged.unreadable))
}

fn ending(lines: &[ModelLine], unreadable: &[(String, String)]) -> Ending {
    match unreadable.is_empty() {
        false => Ending::Unusable,
        true => lines.iter().all(|line| line.passes).into(),
    }
}
