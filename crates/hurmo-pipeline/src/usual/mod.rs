//! The usual order of steps, for briefs that list none.
//!
//! ```text
//! mend ─▶ remesh ─▶ decimate ─▶ fill ─▶ mend ─▶ … until nothing blocks
//!      (if asked) (if asked) (if it must be closed)
//!                              ─▶ else crossings resolved (see `crossings`)
//!                              ─▶ else places closed anew (see `repatch`) ─▶ else a new skin (see `reskin`)
//! ```
//!
//! A step may make more of what blocks here, as when a mend takes sheets apart whose rims the fill
//! then closes: what counts is the end.

mod attempt;
mod concerned;
mod crossings;
mod repatch;
mod reskin;
mod scraps;

use crate::operation::Instruction;
use crate::plan::{MayBreak, Plan};
use crate::runner::{Mark, Runner};
use anyhow::{Result, anyhow};
use hurmo_core::audit::{Brief, Level};

/// Does the usual steps.
pub fn run(runner: &mut Runner<'_>, plan: &Plan) -> Result<()> {
    let budget = budget(runner, plan);
    step(runner, mend_words(plan))?;
    if let Some(edge) = plan.usual.remesh {
        let edge = format!("--edge={edge}");
        step(runner, vec!["remesh".into(), edge])?;
    }
    reduce(runner, budget)?;
    let unfilled = runner.mark();
    close_until_sound(runner, plan, budget)?;
    scraps::drop_cut_off(runner)?;
    if !runner.audit().passes() && crossings::run(runner, mend_words(plan))? {
        scraps::drop_cut_off(runner)?;
        reduce(runner, budget)?;
    }
    clear_the_rest(runner, plan, budget, unfilled)
}

/// Goes on with what was read back from the file, whose numbers are coarser: what that brought
/// is mended too. Crossings are not cut again: the file's numbers are too coarse for what that makes.
pub fn run_again(runner: &mut Runner<'_>, plan: &Plan) -> Result<()> {
    let budget = budget(runner, plan);
    let unfilled = runner.mark();
    close_until_sound(runner, plan, budget)?;
    scraps::drop_cut_off(runner)?;
    clear_the_rest(runner, plan, budget, unfilled)
}

/// What mending and filling leave: place by place, or by a new skin.
fn clear_the_rest(
    runner: &mut Runner<'_>,
    plan: &Plan,
    budget: Option<usize>,
    unfilled: Mark,
) -> Result<()> {
    if !runner.audit().passes() {
        repatch::run(runner, mend_words(plan))?;
        reduce(runner, budget)?;
    }
    if plan.brief.wants_closed() && !runner.audit().passes() {
        reskin::run(runner, budget, unfilled)?;
    }
    scraps::drop_cut_off(runner)
}

/// The budget that was asked for, of what was read; else the brief's limit.
fn budget(runner: &Runner<'_>, plan: &Plan) -> Option<usize> {
    let read = runner.triangles_read();
    let asked = plan.usual.to.map(|budget| budget.of(read).max(1));
    asked.or(plan.brief.limits.triangles)
}

/// Fills, mends and, where that went over the budget, reduces, until nothing blocks or nothing
/// changes any more.
fn close_until_sound(runner: &mut Runner<'_>, plan: &Plan, budget: Option<usize>) -> Result<()> {
    for _ in 0..3 {
        let done = runner.records.len();
        if plan.brief.wants_closed() {
            step(runner, vec!["fill".into()])?;
        }
        reduce(runner, budget)?;
        step(runner, mend_words(plan))?;
        let mut reports = runner.records[done..]
            .iter()
            .flat_map(|record| &record.reports);
        if reports.all(|reports| reports.did.is_empty()) || runner.audit().passes() {
            break;
        }
    }
    Ok(())
}

fn reduce(runner: &mut Runner<'_>, budget: Option<usize>) -> Result<()> {
    match budget.filter(|&budget| runner.model().mesh.triangle_count() > budget) {
        Some(budget) => {
            let words = vec!["decimate".into(), format!("--to={budget}")];
            step(runner, words)
        }
        None => Ok(()),
    }
}

fn step(runner: &mut Runner<'_>, words: Vec<String>) -> Result<()> {
    let instruction = Instruction::parse(words).map_err(|error| anyhow!("{}", error.0))?;
    runner.step(&instruction, &MayBreak::All)
}

fn mend_words(plan: &Plan) -> Vec<String> {
    let brief = &plan.brief;
    let mut words = vec!["mend".into()];
    let also = cleared_also(brief);
    if !also.is_empty() {
        words.push(format!("--also={}", also.join(",")));
    }
    if !brief.mending.keep.is_empty() {
        words.push(format!("--keep={}", brief.mending.keep.join(",")));
    }
    if brief.handoff.triangles {
        words.push("--triangulate=all".into());
    }
    if plan.usual.cut_one_sided {
        words.push("--cut-one-sided".into());
    }
    words
}

/// What is cleared besides what always is.
fn cleared_also(brief: &Brief) -> Vec<&str> {
    let mut clear: Vec<&str> = Vec::new();
    if brief.wants_no_scraps() {
        clear.push("floating-parts");
    }
    // Vertices that only line elements use go with these.
    if brief.level("stray-vertices") == Level::Block {
        clear.push("stray-edges");
    }
    let polygons = ["concave-faces", "non-planar-faces", "ngons"];
    let rejected = |check: &&str| brief.level(check) == Level::Block;
    clear.extend(polygons.into_iter().filter(rejected));
    clear.extend(brief.mending.clear.iter().map(String::as_str));
    clear
}
