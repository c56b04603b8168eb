//! One model, from its file to the file that it becomes.

use crate::files::name_of;
use crate::operation::Instruction;
use crate::operation::convert::{self, Place};
use crate::output::Output;
use crate::pictures::Side;
use crate::plan::{MayBreak, Plan};
use crate::record::{AuditDocument, FileRecord, ModelRecord};
use crate::runner::{Input, Job, Runner, Watch};
use crate::workspace::Workspace;
use crate::{files, memory, pictures, usual};
use anyhow::Result;
use glam::DAffine3;
use hurmo_core::Model;
use hurmo_core::units::Unit;
use hurmo_formats::Source;
use std::path::Path;

/// Sizes that differ by less are the same.
const SAME: f64 = 1e-9;

/// A model that is to be prepared.
pub struct One<'a> {
    /// The file to read.
    pub input: &'a Path,
    /// The file to write; nothing is written in a dry run.
    pub output: Option<&'a Output>,
    /// What one unit of its coordinates is.
    pub unit: Option<Unit>,
    /// Where the sheet goes that shows it before and after.
    pub picture: Option<&'a Path>,
}

/// Prepares a model.
///
/// # Errors
/// When it can't be read or written, a step can't be done on it, or the observer says to stop. Nothing is
/// written then.
pub fn prepare(one: &One<'_>, plan: &Plan, workspace: &Workspace) -> Result<ModelRecord> {
    let prepared = prepared(one, plan, workspace);
    if prepared.is_err() {
        workspace.take_back();
    }
    prepared
}

fn prepared(one: &One<'_>, plan: &Plan, workspace: &Workspace) -> Result<ModelRecord> {
    let watch = Watch::begin();
    memory::refuse_what_cannot_fit(one.input, memory::free_memory())?;
    let mut read = Input::read(workspace, one.input, one.unit, plan.brief.clone())?;
    read.single_precision = one.output.is_some_and(Output::is_single);
    let job = Job::begin(workspace, &read)?;
    let input = FileRecord::of(one.input)?;
    let mut runner = Runner::new(&job, workspace.observer());
    convert(
        &mut runner,
        convert::Options {
            place: plan.place(job.model),
            ..Default::default()
        },
    )?;
    match plan.steps.is_empty() {
        true => usual::run(&mut runner, plan)?,
        false => {
            for planned in &plan.steps {
                runner.step(&planned.instruction, &planned.may_break)?;
                if runner.stopped.is_some() {
                    break;
                }
            }
        }
    }
    if runner.stopped.is_none() {
        let options = converted_at_last(plan, runner.model());
        convert(&mut runner, options)?;
    }
    let (output, after) = match one.output {
        Some(output) => {
            let after = write(output, &job, &mut runner, plan)?;
            (Some(FileRecord::of(&output.output)?), after)
        }
        None => {
            let source = Source {
                format: job.format,
                lines: None,
            };
            let document = AuditDocument::of(runner.audit(), runner.model(), &source, false);
            (None, document)
        }
    };
    if let Some(path) = one.picture {
        draw(path, one, (&job, &mut runner, &after), plan, workspace)?;
    }
    let from_original = runner.apart();
    let watched = watch.end();
    Ok(ModelRecord {
        input,
        output,
        brief: plan.brief.name.clone(),
        notes: workspace.notes(),
        passes: runner.audit().passes() && runner.stopped.is_none() && runner.missed.is_empty(),
        steps: runner.records,
        stopped: runner.stopped,
        lost: runner.lost,
        missed: runner.missed,
        scaled: runner.scaled,
        from_original,
        before: job.before.clone(),
        after,
        seconds: watched.seconds,
        peak_bytes: watched.peak_bytes,
    })
}

/// Draws the model before and after.
fn draw(
    path: &Path,
    one: &One<'_>,
    (job, runner, after): (&Job<'_>, &mut Runner<'_>, &AuditDocument),
    plan: &Plan,
    workspace: &Workspace,
) -> Result<()> {
    workspace.observer().begin("drawing", 0);
    let (was, is) = (runner.original()?, runner.model());
    let after_name = one.output.map_or(one.input, |output| &output.output);
    let side = |path: &Path, model, document| Side {
        name: name_of(path),
        model,
        document,
    };
    let sheet = pictures::before_and_after(
        &side(one.input, &was, &job.before),
        &side(after_name, is, after),
        &plan.brief,
        workspace.observer(),
    )?;
    files::write(path, &sheet.png()?)
}

/// What is converted at last: how the model is stored; and its size and origin once more, where the
/// steps changed what they are measured by.
fn converted_at_last(plan: &Plan, model: &Model) -> convert::Options {
    let given = &plan.goes_on.place;
    let place = Place {
        real_size: given.real_size,
        origin: given.origin,
        ..Place::default()
    };
    let moves = place != Place::default()
        && place.apply(model.clone(), None).is_ok_and(|placed| {
            let way = placed.carried.unwrap_or(DAffine3::IDENTITY);
            !way.abs_diff_eq(DAffine3::IDENTITY, SAME)
        });
    convert::Options {
        place: if moves { place } else { Place::default() },
        tidy: plan.goes_on.tidy.clone(),
    }
}

/// Converts, where anything is asked for.
fn convert(runner: &mut Runner<'_>, options: convert::Options) -> Result<()> {
    if options == convert::Options::default() {
        return Ok(());
    }
    runner.step(&Instruction::of(options), &MayBreak::All)
}

/// Writes what the steps made, and goes on with what is in the file.
fn write(
    output: &Output,
    job: &Job<'_>,
    runner: &mut Runner<'_>,
    plan: &Plan,
) -> Result<AuditDocument> {
    let sound = runner.audit().passes();
    let mut written = job.write(runner.model(), output)?;
    if !written.audit.passes() && sound && plan.steps.is_empty() {
        runner.take(written.model, written.audit);
        usual::run_again(runner, plan)?;
        written = job.write(runner.model(), output)?;
    }
    runner.take(written.model, written.audit);
    Ok(written.document)
}
