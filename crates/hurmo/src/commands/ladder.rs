//! `hurmo ladder`: a model at several budgets, on one way down.

use super::parts::stem;
use crate::arguments::Shared;
use crate::render::Text;
use crate::{Ending, out};
use anyhow::{Context, Result, bail};
use hurmo_core::audit::{self};
use hurmo_core::units::{Axis, Length};
use hurmo_core::{Model, compare, decimate};
use hurmo_formats::{Format, WriteOptions};
use hurmo_pipeline::files::name_of;
use hurmo_pipeline::operation::feature_weights::WeightArguments;
use hurmo_pipeline::quantity::{Budget, angle, axis, length_in};
use hurmo_pipeline::record::{AuditDocument, LadderDocument, Pick, RungDocument, Screen, json};
use hurmo_pipeline::{Workspace, files};
use hurmo_view::{Rung, View, ladder_sheet};
use std::path::PathBuf;

/// Samples over the area of each rung, for all but the largest distance.
const SAMPLES: usize = 100_000;
/// The width of the sheet, in pixels.
const WIDTH: u32 = 1600;

/// Arguments of `hurmo ladder`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "DIR gets a file for each rung, named for its budget, a sheet with all of them \
    (ladder.png), and the table as JSON (ladder.json).\n\nExamples:\n  \
    hurmo ladder heron.ply -o rungs --to 50%,25%,10%,5k\n  \
    hurmo ladder heron.ply -o rungs --to 50%,25%,10%,5k --pick 0.1%\n  \
    hurmo ladder buoy.obj -o lod --to 50%,20%,5% --lod"
)]
pub struct Arguments {
    /// Model file to read
    #[arg(value_name = "IN")]
    input: PathBuf,
    /// Folder for the rungs, the sheet and the table
    #[arg(short, long, value_name = "DIR")]
    output: PathBuf,
    /// The budgets in triangles: 5000, 20k, 1.5M or 12.5%
    #[arg(long, value_name = "BUDGET,…", value_delimiter = ',', required = true)]
    to: Vec<Budget>,
    /// Name the lowest rung that is proved to lie within this distance; exit 1 if there is none
    #[arg(long, value_name = "LENGTH")]
    pick: Option<Length>,
    /// Report the distance from which each rung is good enough: off by at most this many pixels
    #[arg(long, value_name = "PIXELS", num_args = 0..=1, default_missing_value = "1",
        value_parser = pixels)]
    lod: Option<f64>,
    /// For --lod: the screen's height in pixels
    #[arg(long, value_name = "PIXELS", default_value_t = 1080, requires = "lod",
        value_parser = clap::value_parser!(u32).range(1..))]
    screen_height: u32,
    /// For --lod: what is seen from top to bottom, in degrees
    #[arg(long, value_name = "ANGLE", default_value = "60", requires = "lod",
        value_parser = field_of_view)]
    field_of_view: f64,
    #[command(flatten)]
    weights: WeightArguments,
    /// The format of the rungs, by its ending, as in ply; else that of IN
    #[arg(long, value_name = "ENDING")]
    format: Option<String>,
    /// Which axis of the model points up in the sheet: x, y or z
    #[arg(long, default_value = "z", value_parser = axis)]
    up: Axis,
    /// Overwrite files that are there
    #[arg(long)]
    force: bool,
    /// Write text rather than binary (STL, PLY)
    #[arg(long)]
    ascii: bool,
    #[command(flatten)]
    shared: Shared,
}

fn pixels(text: &str) -> Result<f64, String> {
    match text.parse::<f64>() {
        Ok(pixels) if pixels > 0.0 && pixels.is_finite() => Ok(pixels),
        _ => Err(format!("'{text}' is no number of pixels; write 1 or 0.5")),
    }
}

fn field_of_view(text: &str) -> Result<f64, String> {
    match angle(text)? {
        degrees if degrees > 0.0 && degrees < 180.0 => Ok(degrees),
        _ => Err("a field of view lies between 0 and 180 degrees".into()),
    }
}

/// A rung on its way.
struct Made {
    target: PathBuf,
    outcome: decimate::DecimateOutcome,
}

/// Runs `hurmo ladder`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let ending = ending(arguments)?;
    let brief = arguments.shared.brief()?;
    let loaded = workspace.load(&arguments.input, arguments.shared.unit())?;
    let model = loaded.model;
    let triangles = model.mesh.triangle_count();
    if triangles == 0 {
        bail!("{}: there is no face to reduce", arguments.input.display());
    }
    let diagonal = hurmo_core::measure::bounds(&model.mesh).map_or(0.0, |b| b.diagonal());
    let pick = match arguments.pick {
        Some(length) => Some(length_in(length, model.unit, diagonal)?),
        None => None,
    };
    let weights = arguments.weights.of(&model)?;
    let half = arguments.weights.half(&model)?;
    let budgets = arguments.budgets(triangles);
    let folder = &arguments.output;
    let mut targets: Vec<PathBuf> = file_names(&stem(&arguments.input), &budgets, &ending)
        .into_iter()
        .map(|name| folder.join(name))
        .collect();
    let [sheet, table] = ["ladder.png", "ladder.json"].map(|name| folder.join(name));
    targets.extend([sheet.clone(), table.clone()]);
    workspace.reads(&arguments.input);
    workspace.claim_folder(folder, &targets, arguments.force)?;
    let watch = workspace.observer();
    let outcomes = match &half {
        Some(half) => decimate::ladder_symmetric(&model, half, &budgets, &weights, watch),
        None => decimate::ladder(&model, &budgets, &weights, watch),
    }?;
    let rungs: Vec<Made> = targets
        .into_iter()
        .zip(outcomes)
        .map(|(target, outcome)| Made { target, outcome })
        .collect();
    let screen = arguments.lod.map(|error| Screen {
        error,
        height: arguments.screen_height,
        field_of_view: arguments.field_of_view,
    });
    let mut options = audit::AuditOptions::default();
    options.brief = brief;
    let documents = (rungs.iter())
        .map(|rung| {
            let screen = screen.as_ref();
            report(rung, &model, pick, screen, &options, arguments, workspace)
        })
        .collect::<Result<Vec<_>>>()?;
    let picture = drawn(
        arguments,
        (&model, triangles, loaded.bytes),
        &rungs,
        &documents,
    );
    files::write(&sheet, &picture.png()?)?;
    let picked = pick.map(|within| Pick {
        within,
        file: documents
            .iter()
            .rev()
            .find(|rung| rung.within <= within)
            .map(|rung| rung.file.clone()),
    });
    let sound = documents.iter().all(|rung| rung.blocks.is_empty())
        && picked.as_ref().is_none_or(|pick| pick.file.is_some());
    let document = LadderDocument {
        input: arguments.input.display().to_string(),
        triangles,
        diagonal,
        sheet: sheet.display().to_string(),
        rungs: documents,
        pick: picked,
        screen,
    };
    files::write(&table, json(&document).as_bytes())?;
    workspace.clear_progress();
    out::print(&match arguments.shared.json() {
        true => json(&document),
        false => document.text(),
    });
    Ok(sound.into())
}

impl Arguments {
    /// How many triangles the rungs may have, most first.
    fn budgets(&self, triangles: usize) -> Vec<usize> {
        let each = self.to.iter().map(|budget| budget.of(triangles).max(1));
        let mut budgets: Vec<usize> = each.collect();
        budgets.sort_unstable_by(|a, b| b.cmp(a));
        budgets.dedup();
        budgets
    }
}

/// The ending of the rungs' names.
fn ending(arguments: &Arguments) -> Result<String> {
    let own = arguments.input.extension().unwrap_or_default();
    let ending = match &arguments.format {
        Some(format) => format.trim_start_matches('.').to_lowercase(),
        None => own.to_string_lossy().into_owned(),
    };
    match Format::of_extension(&ending) {
        Some(_) => Ok(ending),
        None => bail!("rungs can't be written as '{ending}'; --format names a known one"),
    }
}

/// Writes a rung, reads it back, audits it and compares it with the model.
fn report(
    rung: &Made,
    model: &Model,
    pick: Option<f64>,
    screen: Option<&Screen>,
    audit_options: &audit::AuditOptions,
    arguments: &Arguments,
    workspace: &Workspace,
) -> Result<RungDocument> {
    let target = &rung.target;
    let mut options = WriteOptions::default();
    options.ascii = arguments.ascii;
    options.may_overwrite = arguments.force;
    let report = hurmo_formats::write(target, &rung.outcome.model, options)?;
    for lost in &report.lost {
        workspace.note(&format!("{}: can't hold {lost}", target.display()));
    }
    let written = workspace.read_back(target, model)?;
    let audit = audit::audit(&written.model, audit_options, workspace.observer())?;
    let document = AuditDocument::of(&audit, &written.model, &written.source, false);
    let mut compare_options = compare::CompareOptions::default();
    compare_options.samples = SAMPLES;
    compare_options.within = pick;
    let meshes = [&model.mesh, &written.model.mesh];
    let found = compare::compare(meshes[0], meshes[1], &compare_options, workspace.observer())?
        .with_context(|| format!("{}: nothing is left of the model", target.display()))?;
    let ways = [&found.from_before, &found.from_after];
    let squares: f64 = ways.iter().map(|way| way.rms * way.rms).sum();
    let from_distance = screen.map(|screen| screen.distance(found.at_most()));
    Ok(RungDocument {
        file: target.display().to_string(),
        triangles: document.mesh.triangles,
        bytes: written.bytes,
        off: found.max().distance,
        within: found.at_most(),
        rms: (squares / 2.0).sqrt(),
        turned: ways[0].turned[1].max(ways[1].turned[1]),
        blocks: document
            .blocking()
            .map(|found| found.check.to_string())
            .collect(),
        stopped_by: rung.outcome.stopped_by.map(|why| why.to_string()),
        from_distance,
        on_screen: screen
            .zip(from_distance)
            .map(|(screen, distance)| screen.share(found.diagonal, distance)),
    })
}

/// The sheet: the model first, then its rungs.
fn drawn(
    arguments: &Arguments,
    (model, triangles, bytes): (&Model, usize, u64),
    rungs: &[Made],
    documents: &[RungDocument],
) -> hurmo_view::Picture {
    let mut shown = vec![Rung {
        mesh: &model.mesh,
        heading: out::counted(triangles, "triangle"),
        lines: vec![name_of(&arguments.input), out::bytes(bytes)],
    }];
    shown.extend(rungs.iter().zip(documents).map(|(rung, document)| Rung {
        mesh: &rung.outcome.model.mesh,
        heading: out::counted(document.triangles, "triangle"),
        lines: vec![
            format!("{}, {}", name_of(&rung.target), out::bytes(document.bytes)),
            format!("off by up to {}", out::measure(document.off)),
            format!("rms {}", out::measure(document.rms)),
        ],
    }));
    let view = View::THREE_QUARTER.with_up(arguments.up);
    ladder_sheet(&shown, view, WIDTH)
}

/// A name for each rung: the model's, and its budget in a short form where that is unique among
/// them.
fn file_names(stem: &str, budgets: &[usize], ending: &str) -> Vec<String> {
    let short = |budget: usize| match budget {
        0..10_000 => budget.to_string(),
        10_000..10_000_000 => format!("{}k", (budget + 500) / 1_000),
        _ => format!("{}M", (budget + 500_000) / 1_000_000),
    };
    let is_alone = |name: &str| budgets.iter().filter(|&&b| short(b) == name).count() == 1;
    budgets
        .iter()
        .map(|&budget| {
            let name = Some(short(budget)).filter(|name| is_alone(name));
            format!(
                "{stem}-{}.{ending}",
                name.unwrap_or_else(|| budget.to_string())
            )
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::file_names;

    #[test]
    fn rungs_are_named_for_their_budgets() {
        let names = file_names("buoy", &[1_250_000, 100_400, 100_001, 5_000], "obj");
        let expected = [
            "buoy-1250k.obj",
            "buoy-100400.obj",
            "buoy-100001.obj",
            "buoy-5000.obj",
        ];
        assert_eq!(names, expected);
    }
}
