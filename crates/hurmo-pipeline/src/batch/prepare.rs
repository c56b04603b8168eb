//! Many models, several at once, one bad model never stopping the rest.

use super::ledger::{Ledger, Recorded};
use crate::memory::free_memory;
use crate::memory::{Gate, estimate};
use crate::output::Output;
use crate::plan::Plan;
use crate::prepare::{One, prepare};
use crate::record::{FileRecord, PreparedLine};
use crate::workspace::Workspace;
use anyhow::{Context, Result, anyhow, bail};
use hurmo_core::progress::Cancelled;
use hurmo_core::units::Unit;
use serde_json::Value;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Models that are to be prepared.
pub struct Many<'a> {
    /// The models.
    pub models: Vec<Planned>,
    /// What one unit of their coordinates is.
    pub unit: Option<Unit>,
    /// Whether files that are there may be overwritten.
    pub force: bool,
    /// Whether text is written rather than binary.
    pub ascii: bool,
    /// What is written down for every model.
    pub ledger: Option<&'a Ledger>,
    /// What was written down before.
    pub recorded: Recorded,
    /// Whether whole records are kept, or only what a line says.
    pub in_full: bool,
}

/// One of many models.
pub struct Planned {
    /// The file to read.
    pub input: PathBuf,
    /// The file to write; nothing is written in a dry run.
    pub output: Option<PathBuf>,
    /// Where the sheet goes that shows it before and after.
    pub picture: Option<PathBuf>,
}

/// A model that was prepared, or why it could not be.
pub struct PreparedModel {
    /// What a line says of it.
    pub line: PreparedLine,
    /// All of it.
    pub whole: Option<Value>,
}

/// Prepares models, as many at once as there are processors and memory for. What is returned is in
/// the order of the models.
///
/// # Errors
/// When it was cancelled; what was finished before is in the ledger.
pub fn prepare_many(
    many: &Many<'_>,
    plan: &Plan,
    workspace: &Workspace,
) -> Result<Vec<PreparedModel>, Cancelled> {
    let count = many.models.len();
    let gate = Gate::new(free_memory());
    let (next, done) = (AtomicUsize::new(0), AtomicUsize::new(0));
    let prepared: Vec<Mutex<Option<PreparedModel>>> =
        many.models.iter().map(|_| Mutex::new(None)).collect();
    workspace.observer().begin("preparing models", count as u64);
    let work = || {
        loop {
            let i = next.fetch_add(1, Ordering::Relaxed);
            let Some(model) = many.models.get(i) else {
                break;
            };
            if workspace.observer().cancelled() {
                break;
            }
            let about = gate.through(estimate(&model.input), || many.one(model, plan, workspace));
            if let Ok(mut slot) = prepared[i].lock() {
                *slot = Some(about);
            }
            let done = 1 + done.fetch_add(1, Ordering::Relaxed);
            workspace.observer().at(done as u64);
        }
    };
    let workers = std::thread::available_parallelism().map_or(1, |n| n.get());
    std::thread::scope(|scope| {
        // One of them is this thread, so that there is one wherever no other can be had.
        for _ in 1..workers.min(count) {
            let _ = std::thread::Builder::new().spawn_scoped(scope, work);
        }
        work();
    });
    workspace.clear_progress();
    workspace.observer().check()?;
    let prepared = prepared.into_iter();
    Ok(prepared
        .filter_map(|slot| slot.into_inner().ok().flatten())
        .collect())
}

impl Many<'_> {
    fn one(&self, planned: &Planned, plan: &Plan, run: &Workspace) -> PreparedModel {
        if let Some(model) = self.done_before(planned) {
            return self.prepared(model.clone(), true);
        }
        // One model on which the program itself fails must not take the others with it.
        let made = catch_unwind(AssertUnwindSafe(|| self.made(planned, plan, run)));
        let made = made.unwrap_or_else(|_| Err(anyhow!("the program failed on this model")));
        let written_down = made.and_then(|model| {
            if let Some(ledger) = self.ledger {
                ledger.done(&model)?;
            }
            Ok(model)
        });
        written_down.map_or_else(
            |error| self.failed(&planned.input, &error),
            |model| self.prepared(model, false),
        )
    }

    fn failed(&self, input: &Path, error: &anyhow::Error) -> PreparedModel {
        let is_cancelled = error.is::<Cancelled>();
        let error = format!("{error:#}");
        let named = format!("{}: ", input.display());
        let error = error.strip_prefix(&named).unwrap_or(&error);
        if let (Some(ledger), false) = (self.ledger, is_cancelled) {
            // The line says it all the same.
            let _ = ledger.failed(input, error);
        }
        PreparedModel {
            line: PreparedLine::failed(input, error),
            whole: None,
        }
    }

    fn prepared(&self, model: Value, before: bool) -> PreparedModel {
        PreparedModel {
            line: PreparedLine::of(&model, before),
            whole: self.in_full.then_some(model),
        }
    }

    fn made(&self, planned: &Planned, plan: &Plan, run: &Workspace) -> Result<Value> {
        let workspace = run.beside_others();
        let input = &planned.input;
        if !input.exists() {
            bail!("there is no such file");
        }
        let output = planned.output.as_ref().map(|path| Output {
            output: path.clone(),
            force: self.force || self.recorded.begun.contains(path),
            ascii: self.ascii,
            textures: plan.textures.clone(),
        });
        for path in planned.output.iter().chain(&planned.picture) {
            let folder = path.parent().unwrap_or(Path::new(""));
            std::fs::create_dir_all(folder).with_context(|| folder.display().to_string())?;
        }
        if let Some(output) = &output {
            workspace.reads(input);
            workspace.claim_output(output)?;
            if let Some(picture) = &planned.picture {
                workspace.claim(picture, output.force)?;
            }
            if let Some(ledger) = self.ledger {
                ledger.begun(input, &output.output)?;
            }
        }
        let one = One {
            input,
            output: output.as_ref(),
            unit: self.unit,
            picture: planned.picture.as_deref(),
        };
        let record = prepare(&one, plan, &workspace)?;
        serde_json::to_value(&record).context("the record of a model")
    }

    /// What was written down of a model, where its files are still as they were then.
    fn done_before(&self, planned: &Planned) -> Option<&Value> {
        let (input, output) = (&planned.input, planned.output.as_ref()?);
        let file = |model: &Value, which: &str| -> Option<FileRecord> {
            serde_json::from_value(model.get(which)?.clone()).ok()
        };
        self.recorded.models.iter().rev().find(|model| {
            let files = (file(model, "input"), file(model, "output"));
            match files {
                (Some(read), Some(written)) => {
                    let same = read.path == *input && written.path == *output;
                    same && read.holds() && written.holds()
                }
                _ => false,
            }
        })
    }
}
