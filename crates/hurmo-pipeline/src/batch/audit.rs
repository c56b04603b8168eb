//! Many models: audited in parallel, one bad file never stopping the rest.

use crate::record::{AuditDocument, AuditReport, ModelReport, Unreadable};
use crate::workspace::Workspace;
use hurmo_core::audit::{self, AuditOptions};
use hurmo_core::units::Unit;
use rayon::prelude::*;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU64, Ordering};

/// Audits all files. The report has them in the order given.
pub fn audit_all(
    files: &[PathBuf],
    options: &AuditOptions,
    unit: Option<Unit>,
    workspace: &Workspace,
) -> AuditReport {
    workspace
        .observer()
        .begin("auditing files", files.len() as u64);
    let done = AtomicU64::new(0);
    let outcomes: Vec<Result<ModelReport, Unreadable>> = files
        .par_iter()
        .with_max_len(1)
        .map(|path| {
            // One model on which the program itself fails must not take the others with it.
            let audited = || audit_one(path, options, unit);
            let outcome = catch_unwind(AssertUnwindSafe(audited)).unwrap_or_else(|_| {
                Err(Unreadable {
                    path: path.display().to_string(),
                    error: "the program failed on this model".into(),
                })
            });
            workspace
                .observer()
                .at(1 + done.fetch_add(1, Ordering::Relaxed));
            outcome
        })
        .collect();
    workspace.clear_progress();
    let mut report = AuditReport {
        brief: options.brief.name.clone(),
        models: Vec::new(),
        unreadable: Vec::new(),
    };
    for outcome in outcomes {
        match outcome {
            Ok(model) => report.models.push(model),
            Err(unreadable) => report.unreadable.push(unreadable),
        }
    }
    report
}

fn audit_one(
    path: &Path,
    options: &AuditOptions,
    unit: Option<Unit>,
) -> Result<ModelReport, Unreadable> {
    let unreadable = |error: &dyn std::fmt::Display| Unreadable {
        path: path.display().to_string(),
        error: error.to_string(),
    };
    let mut loaded = hurmo_formats::read(path).map_err(|error| unreadable(&error))?;
    loaded.model.unit = unit.or(loaded.model.unit);
    let found = audit::audit(&loaded.model, options, &()).map_err(|error| unreadable(&error))?;
    let all = options.places == usize::MAX;
    Ok(ModelReport {
        path: path.display().to_string(),
        format: loaded.source.format.name(),
        notes: loaded.notes,
        passes: found.passes(),
        audit: AuditDocument::of(&found, &loaded.model, &loaded.source, all),
    })
}
