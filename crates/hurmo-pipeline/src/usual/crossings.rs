//! Where faces that meet others block: closed parts that hang together by them become the boundary
//! of what they fill, exactly, and parts buried in others go. All other faces stay, with all that they
//! carry.

use super::attempt::{attempt_if, is_better, since_mending_leaves, too_far};
use super::{repatch, scraps};
use crate::operation::mend::Mend;
use crate::operation::{Instruction, NamedOptions, Operation};
use crate::plan::MayBreak;
use crate::record::Statement;
use crate::runner::Runner;
use crate::said;
use anyhow::Result;
use hurmo_core::audit::{Audit, Finding};

/// What it clears, where it blocks.
const CLEARED: [&str; 4] = [
    "intersecting-faces",
    "crossing-parts",
    "interior-faces",
    "nested-parts",
];

/// What is mended for that.
const CURED: [&str; 2] = ["intersecting-faces", "nested-parts"];

/// Tries it on what blocks, and tidies what it leaves; `mend` is how mending is done here. Says whether that
/// was kept.
pub fn run(runner: &mut Runner<'_>, mend: Mend) -> Result<bool> {
    let found = runner.audit().clone();
    run_against(runner, mend, &found)
}

/// Does a step that clears findings of a check and may make faces cross, and cuts what crosses. Both are kept
/// where fewer kinds of faults block then and the surface stays near.
pub fn cut_after(
    runner: &mut Runner<'_>,
    step: impl NamedOptions + Into<Operation>,
    check: &'static str,
    mend: Mend,
) -> Result<()> {
    let found = runner.audit().clone();
    let before = runner.mark();
    let begin = runner.records.len();
    let clears_some = |before: &Audit, after: &Audit| match after.count(check) < before.count(check)
    {
        true => Ok(()),
        false => Err(said!("as-many", "as many {check} as before", check = check)),
    };
    if !attempt_if(runner, step, since_mending_leaves, clears_some)? {
        return Ok(());
    }
    run_against(runner, mend, &found)?;
    let verdict = is_better(&found, runner.audit()).err();
    if let Some(why) = verdict.or_else(|| too_far(runner, begin)) {
        runner.throw_away(before, why);
    }
    Ok(())
}

/// Like [`run`], kept where it is better than what was `found`.
fn run_against(runner: &mut Runner<'_>, mend: Mend, found: &Audit) -> Result<bool> {
    let audit = runner.audit();
    if !audit
        .blocking()
        .any(|finding| CLEARED.contains(&finding.check))
    {
        return Ok(false);
    }
    let also: Vec<&str> = (CURED.into_iter())
        .filter(|check| audit.count(check) > 0)
        .collect();
    if also.is_empty() {
        return Ok(false);
    }
    let mut cure = mend.clone();
    let also = also.into_iter().map(String::from);
    cure.options.also.extend(also);
    let before = runner.mark();
    if !attempt_if(runner, cure, since_mending_leaves, less_meets)? {
        return Ok(false);
    }
    if more_blocks(found, runner.audit()).is_some() {
        runner.step(&Instruction::of(mend.clone()), &MayBreak::All)?;
        scraps::drop_cut_off(runner)?;
    }
    if more_blocks(found, runner.audit()).is_some() {
        repatch::run(runner, mend)?;
    }
    let why = match more_blocks(found, runner.audit()) {
        Some(check) => said!("brings", "it brings {checks}", checks = check),
        None => match less_meets(found, runner.audit()) {
            Ok(()) => return Ok(true),
            Err(why) => why,
        },
    };
    runner.throw_away(before, why);
    Ok(false)
}

/// Something that blocks, of which there is more than before.
fn more_blocks(before: &Audit, after: &Audit) -> Option<&'static str> {
    let is_more = |finding: &&Finding| before.count(finding.check) < finding.count();
    after.blocking().find(is_more).map(|finding| finding.check)
}

/// Whether less meets.
fn less_meets(before: &Audit, after: &Audit) -> Result<(), Statement> {
    let is_less = |check: &str| after.count(check) < before.count(check);
    match CLEARED.iter().any(|check| is_less(check)) {
        true => Ok(()),
        false => Err(said!("as-much-meets", "as much meets as before")),
    }
}
