//! The usual order of steps, for briefs that list none.
//!
//! ```text
//! mend ─▶ remesh ─▶ decimate ─▶ fill ─▶ mend ─▶ … until nothing blocks
//!      (if asked) (if asked) (if it must be closed)
//!                              ─▶ else crossings resolved (see `crossings`)
//!                              ─▶ else rims closed across what is there, and that resolved (see `lids`)
//!                              ─▶ else sheets given walls (see `walls`)
//!                              ─▶ else places closed anew (see `repatch`) ─▶ else a new skin (see `reskin`)
//! ```
//!
//! A step may make more of what blocks here, as when a mend takes sheets apart whose rims the fill
//! then closes: what counts is the end.

mod attempt;
mod concerned;
mod crossings;
mod lids;
mod repatch;
mod reskin;
mod scraps;
mod walls;

use crate::operation::mend::{self, Mend, Polygons};
use crate::operation::{Instruction, NamedOptions, Operation, decimate, fill, remesh};
use crate::plan::{MayBreak, Plan};
use crate::quantity::Budget;
use crate::runner::{Mark, Runner};
use anyhow::Result;
use hurmo_core::audit::{Brief, Level};

/// Does the usual steps.
pub fn run(runner: &mut Runner<'_>, plan: &Plan) -> Result<()> {
    let budget = budget(runner, plan);
    step(runner, mending(plan))?;
    if let Some(edge) = plan.usual.remesh {
        let options = remesh::Options {
            edge: Some(edge),
            ..Default::default()
        };
        step(runner, options)?;
    }
    reduce(runner, budget)?;
    let unfilled = runner.mark();
    close_until_sound(runner, plan, budget)?;
    scraps::drop_cut_off(runner)?;
    if !runner.audit().passes() && crossings::run(runner, mending(plan))? {
        scraps::drop_cut_off(runner)?;
        reduce(runner, budget)?;
    }
    if plan.brief.wants_closed() && !runner.audit().passes() {
        lids::run(runner, mending(plan))?;
        walls::run(runner, mending(plan))?;
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
        repatch::run(runner, mending(plan))?;
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
            step(runner, fill::Options::default())?;
        }
        reduce(runner, budget)?;
        step(runner, mending(plan))?;
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
            let options = decimate::Options {
                to: Some(Budget::Count(budget)),
                ..Default::default()
            };
            step(runner, options)
        }
        None => Ok(()),
    }
}

/// Does a step that may make more of what blocks: what counts is the end.
fn step(runner: &mut Runner<'_>, options: impl NamedOptions + Into<Operation>) -> Result<()> {
    runner.step(&Instruction::of(options), &MayBreak::All)
}

/// How models are mended here: as the brief asks.
fn mending(plan: &Plan) -> Mend {
    let brief = &plan.brief;
    let also = cleared_also(brief).into_iter().map(String::from);
    let options = mend::Options {
        also: also.collect(),
        keep: brief.mending.keep.clone(),
        triangulate: brief.handoff.triangles.then_some(Polygons::All),
        cut_one_sided: plan.usual.cut_one_sided,
        ..Default::default()
    };
    Mend {
        options,
        force: false,
    }
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
