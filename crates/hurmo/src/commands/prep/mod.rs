//! `hurmo prep`: the whole job in one go, on one model or on many.

mod many;

use crate::arguments::{AsJson, InUnit};
use crate::{Ending, out, render};
use anyhow::{Result, bail};
use hurmo_core::units::Length;
use hurmo_formats::Format;
use hurmo_pipeline::files::{self, Shard, name_of};
use hurmo_pipeline::operation::{NamedOptions, convert};
use hurmo_pipeline::pack::{Pack, Packing};
use hurmo_pipeline::plan::{Plan, Usual};
use hurmo_pipeline::quantity::Budget;
use hurmo_pipeline::record::{OneLedger, RunRecord, json};
use hurmo_pipeline::{One, Output, TextureOptions, Workspace, brief};
use many::many;
use std::path::{Path, PathBuf};

/// Arguments of `hurmo prep`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "A brief may list its steps as [[step]]; else the usual ones are done. Many \
    models, or a folder, go into the folder OUT, with a ledger there that grows by a line for \
    each.\n\nExamples:\n  \
    hurmo prep heron.ply -o heron.stl --for print --to 50k\n  \
    hurmo prep lantern.obj -o lantern-game.obj --for engine --to 2k --picture lantern.png\n  \
    hurmo prep buoy.obj -o buoy-sculpt.obj --for sculpt --remesh 1% --ledger buoy.json\n  \
    hurmo prep lantern.obj --for engine --pack lantern-handoff\n  \
    hurmo prep heron.ply --for harbour.toml --dry-run\n  \
    hurmo prep props/ -o ready --for engine --format ply\n  \
    hurmo prep props/ -o ready --for engine --format ply --resume"
)]
pub struct Arguments {
    /// Model files, folders to walk, or patterns
    #[arg(value_name = "MODEL", required_unless_present = "files_from")]
    models: Vec<PathBuf>,
    /// File to write; its ending says the format. Of many models, the folder to write into
    #[arg(short, long, value_name = "OUT", required_unless_present_any = ["dry_run", "pack"])]
    output: Option<PathBuf>,
    /// Put all that goes with the model into this folder: its textures, its audit, pictures, the
    /// ledger, and a page of text for who receives it; OUT is its name there
    #[arg(long, value_name = "DIR", conflicts_with_all = ["dry_run", "ledger", "picture", "resume", "shard", "files_from"])]
    pack: Option<PathBuf>,
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: String,
    /// At most this many triangles: 5000, 20k, 1.5M or 12.5%; else the brief's limit
    #[arg(long, value_name = "BUDGET")]
    to: Option<Budget>,
    /// Cut one-sided parts open along few edges, to make their faces consistent
    #[arg(long)]
    cut_one_sided: bool,
    /// Rebuild with even triangles of about this side first
    #[arg(long, value_name = "LENGTH")]
    remesh: Option<Length>,
    /// Do all of it, report what each step finds and does, and write nothing
    #[arg(long, conflicts_with_all = ["output", "ledger", "picture", "resume"])]
    dry_run: bool,
    /// Write down what was done, with the brief and a hash of each file, as JSON
    #[arg(long, value_name = "FILE")]
    ledger: Option<PathBuf>,
    /// Draw the model before and after, and where it moved, into this PNG; of many models, into
    /// this folder
    #[arg(long, value_name = "PNG|DIR")]
    picture: Option<PathBuf>,
    /// Go on with a run on many models that broke off, and do only what is left
    #[arg(long, conflicts_with = "force")]
    resume: bool,
    /// Prepare the models in this list too: a path a line, '-' for standard input
    #[arg(long, value_name = "LIST")]
    files_from: Option<PathBuf>,
    /// Prepare this share of the models, as 3/16: all shares together are all of them
    #[arg(long, value_name = "N/OF")]
    shard: Option<Shard>,
    /// Of many models: the format to write, by its ending, as in ply; else that of the brief, or
    /// of each model
    #[arg(long, value_name = "ENDING")]
    format: Option<String>,
    /// Overwrite files that are there
    #[arg(long)]
    force: bool,
    /// Write text rather than binary (STL, PLY)
    #[arg(long)]
    ascii: bool,
    #[command(flatten)]
    unit: InUnit,
    #[command(flatten)]
    goes_on: convert::Options,
    #[command(flatten)]
    textures: TextureOptions,
    #[command(flatten)]
    json: AsJson,
}

/// Runs `hurmo prep`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let brief = brief::find_whole(&arguments.brief)?;
    let run = RunRecord {
        version: env!("CARGO_PKG_VERSION").into(),
        brief: brief.brief.name.clone(),
        brief_text: brief.text,
        options: options_given(arguments),
    };
    let plan = Plan {
        brief: brief.brief,
        steps: brief.steps,
        usual: Usual {
            cut_one_sided: arguments.cut_one_sided,
            to: arguments.to,
            remesh: arguments.remesh,
        },
        goes_on: arguments.goes_on.clone(),
        textures: TextureOptions {
            safe_names: arguments.goes_on.tidy.safe_names,
            ..arguments.textures.clone()
        },
    };
    plan.goes_on.check()?;
    let of_usual = arguments.to.is_some() || arguments.remesh.is_some() || arguments.cut_one_sided;
    if !plan.steps.is_empty() && of_usual {
        bail!(
            "the brief {} lists its steps: --to, --remesh and --cut-one-sided belong there",
            plan.brief.name
        );
    }
    if let Some(folder) = &arguments.pack {
        return match &arguments.models[..] {
            [model] if !files::may_mean_many(model) => {
                packed(arguments, (model, folder), &plan, run, workspace)
            }
            _ => bail!("--pack packs one model at a time"),
        };
    }
    match &arguments.models[..] {
        [model] if is_one(arguments, model) => one(arguments, model, &plan, run, workspace),
        _ => many(arguments, &plan, &run, workspace),
    }
}

/// Whether a single file becomes a single file.
fn is_one(arguments: &Arguments, model: &Path) -> bool {
    let ends_in_slash = |path: &Path| path.as_os_str().to_string_lossy().ends_with('/');
    let into_folder = |output: &PathBuf| output.is_dir() || ends_in_slash(output);
    !files::may_mean_many(model)
        && arguments.files_from.is_none()
        && arguments.shard.is_none()
        && !(arguments.resume || arguments.output.as_ref().is_some_and(into_folder))
}

/// The options that change what comes out.
fn options_given(arguments: &Arguments) -> Vec<String> {
    let flags = [
        (arguments.cut_one_sided, "--cut-one-sided"),
        (arguments.ascii, "--ascii"),
    ];
    let given = [
        arguments.to.map(|to| format!("--to={to}")),
        arguments.remesh.map(|edge| format!("--remesh={edge}")),
        arguments.format.as_ref().map(|e| format!("--format={e}")),
        arguments.unit.unit.map(|unit| format!("--unit={unit}")),
    ];
    let flags = flags.into_iter().filter(|(given, _)| *given);
    let flags = flags.map(|(_, name)| name.to_string());
    let goes_on = &arguments.goes_on;
    let handoff = [
        goes_on.place.written(),
        goes_on.tidy.written(),
        arguments.textures.words(),
    ];
    let given = given.into_iter().flatten().chain(flags);
    given.chain(handoff.into_iter().flatten()).collect()
}

fn one(
    arguments: &Arguments,
    model: &Path,
    plan: &Plan,
    run: RunRecord,
    workspace: &Workspace,
) -> Result<Ending> {
    let output = arguments.output.as_ref().map(|path| Output {
        output: path.clone(),
        force: arguments.force,
        ascii: arguments.ascii,
        textures: plan.textures.clone(),
    });
    workspace.reads(model);
    if let Some(output) = &output {
        workspace.claim_output(output)?;
        check_format(&output.output, plan)?;
    }
    if let Some(ledger) = &arguments.ledger {
        workspace.claim(ledger, arguments.force)?;
    }
    if let Some(picture) = &arguments.picture {
        workspace.claim_png(picture, arguments.force)?;
    }
    let one = One {
        input: model,
        output: output.as_ref(),
        unit: arguments.unit.unit,
        picture: arguments.picture.as_deref(),
    };
    let record = hurmo_pipeline::prepare(&one, plan, workspace)?;
    workspace.clear_progress();
    if let Some(ledger) = &arguments.ledger {
        let document = OneLedger {
            run: &run,
            model: &record,
        };
        files::write(ledger, json(&document).as_bytes())?;
    }
    let in_steps = arguments.dry_run || !plan.steps.is_empty();
    out::print(&match arguments.json.json {
        true => json(&record),
        false => render::prep::model_text(&record, in_steps),
    });
    Ok(record.passes.into())
}

/// Prepares a model, and packs it with all that goes with it.
fn packed(
    arguments: &Arguments,
    (model, folder): (&Path, &Path),
    plan: &Plan,
    run: RunRecord,
    workspace: &Workspace,
) -> Result<Ending> {
    let name = match &arguments.output {
        Some(name) if name.components().count() == 1 => name_of(name),
        Some(name) => bail!(
            "{}: with --pack this is a name, without folders",
            name.display()
        ),
        None => Pack::name_for(model, plan),
    };
    let pack = Pack::of(folder, &name);
    let output = Output {
        output: pack.model.clone(),
        force: arguments.force,
        ascii: arguments.ascii,
        textures: plan.textures.clone(),
    };
    if Format::of_name(&output.output).is_none() {
        return Err(hurmo_formats::WriteError::UnknownFormat(output.output).into());
    }
    check_format(&output.output, plan)?;
    if !model.is_file() {
        bail!("{}: there is no such file", model.display());
    }
    let packing = Packing {
        pack: &pack,
        input: model,
        output: &output,
        unit: arguments.unit.unit,
        run: &run,
    };
    let record = packing.make(plan, workspace)?;
    workspace.clear_progress();
    out::print(&match arguments.json.json {
        true => json(&record),
        false => {
            let text = render::prep::model_text(&record, !plan.steps.is_empty());
            format!("{text}\n  packed in {}\n", folder.display())
        }
    });
    Ok(record.passes.into())
}

/// Refuses a file of another format than the brief asks for.
fn check_format(output: &Path, plan: &Plan) -> Result<()> {
    let Some(format) = &plan.brief.handoff.format else {
        return Ok(());
    };
    if Format::of_name(output) != Format::of_extension(format) {
        let brief = &plan.brief.name;
        bail!("the brief {brief} asks for .{format}; name the output so");
    }
    Ok(())
}
