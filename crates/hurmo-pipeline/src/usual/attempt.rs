//! Steps that are tried, and kept only where less blocks than before.

use crate::operation::{Instruction, NamedOptions, Operation};
use crate::record::Statement;
use crate::runner::Runner;
use crate::said;
use crate::text;
use anyhow::Result;
use hurmo_core::audit::Audit;

/// What may float afterwards: that is seen to by itself.
pub const FLOATING: &str = "floating-parts";

/// Does a step where something blocks, and records the reason; says whether its result was kept, which is so where fewer kinds of
/// faults block. That it could not be done is no error of the job.
pub fn attempt(
    runner: &mut Runner<'_>,
    options: impl NamedOptions + Into<Operation>,
    why: fn(Vec<Statement>) -> Statement,
) -> Result<bool> {
    attempt_if(runner, options, why, is_better)
}

/// The same, kept where another comparison of the audits finds no reason against it.
pub fn attempt_if(
    runner: &mut Runner<'_>,
    options: impl NamedOptions + Into<Operation>,
    why: fn(Vec<Statement>) -> Statement,
    better: impl Fn(&Audit, &Audit) -> Result<(), Statement>,
) -> Result<bool> {
    let blocking = runner.audit().blocking();
    let found: Vec<Statement> = blocking
        .map(|finding| {
            said!(
                "blocks",
                "{count} {check}",
                count = finding.count(),
                check = finding.check
            )
        })
        .collect();
    let why = why(found);
    let instruction = Instruction::of(options);
    match runner.attempt(&instruction, better) {
        Ok(kept) => {
            let reports = runner.records.last_mut().map(|record| &mut record.reports);
            let first =
                reports.and_then(|all| all.iter_mut().find(|report| !report.did.is_empty()));
            if let (true, Some(report)) = (kept, first) {
                report.did.push(why);
            }
            Ok(kept)
        }
        Err(error) => {
            let why = said!("failed", "{error}", error = error.to_string());
            runner.tried_in_vain(instruction.operation.name(), &instruction, why);
            Ok(false)
        }
    }
}

/// A step that is done for what mending leaves.
pub fn since_mending_leaves(found: Vec<Statement>) -> Statement {
    said!("since", "since mending leaves {found}", found = found)
}

/// The last that is done for it.
pub fn last_resort(found: Vec<Statement>) -> Statement {
    said!(
        "last-resort",
        "the last resort, since mending leaves {found}",
        found = found
    )
}

/// Whether less blocks after than before: fewer kinds, and none anew.
pub fn is_better(before: &Audit, after: &Audit) -> Result<(), Statement> {
    let blocking = |audit: &Audit| {
        let findings = audit.blocking().map(|finding| finding.check);
        findings
            .filter(|&check| check != FLOATING)
            .collect::<Vec<_>>()
    };
    let (was, is) = (blocking(before), blocking(after));
    let anew: Vec<Statement> = after
        .blocking()
        .filter(|finding| finding.check != FLOATING)
        .filter(|finding| before.count(finding.check) < finding.count())
        .map(|finding| {
            said!(
                "blocks",
                "{check} {count}",
                check = finding.check,
                count = finding.count()
            )
        })
        .collect();
    if is.len() < was.len() && (anew.is_empty() || is.is_empty()) {
        return Ok(());
    }
    Err(match anew.is_empty() {
        true => said!("as-much-blocks", "as much blocks as before"),
        false => said!("brings", "it brings {checks}", checks = anew),
    })
}

/// The surface may move by so much of the diagonal: a new skin of all moves it by less.
const FAR: f64 = 0.01;

/// Why the steps from one on would move the surface too far, if they would.
pub fn too_far(runner: &Runner<'_>, from: usize) -> Option<Statement> {
    let diagonal = runner.audit().mesh.diagonal;
    let reports = runner.records[from..]
        .iter()
        .flat_map(|record| &record.reports);
    let moved = reports
        .filter_map(|report| report.moved)
        .fold(0.0, f64::max);
    let by = (moved, text::of_diagonal(moved, diagonal));
    (moved > FAR * diagonal).then(|| {
        said!(
            "too-far",
            "it would move the surface by up to {by}",
            by = by
        )
    })
}
