//! The last resort: where no mending clears what blocks, a new skin round what the model fills.
//!
//! ```text
//! still blocked ─▶ cells as the model's detail has it ─▶ a new skin of the parts concerned ─▶ kept if
//!       less blocks than before ─▶ else of all ─▶ else once more, with walls for sheets
//! ```
//!
//! It replaces every face of theirs, and with it UVs, groups and materials: so it is tried only when
//! all else has been, kept only if its audit is better, and reported with its reason and how far off it
//! lies.

use super::attempt::{FLOATING, attempt, last_resort};
use super::concerned::concerned;
use crate::operation::reskin::{Options, Then, WALL};
use crate::operation::{Instruction, parts};
use crate::plan::MayBreak;
use crate::quantity::Budget;
use crate::runner::{Mark, Runner};
use crate::said;
use anyhow::Result;
use hurmo_core::FaceId;
use hurmo_core::audit::{Audit, Elements};
use hurmo_core::remesh::dual_contouring;
use hurmo_core::topology::Parts;
use hurmo_core::units::Length;

/// Cells are no coarser than this share of the diagonal.
const COARSEST: f64 = 1.0 / 250.0;
/// And no finer than makes this many triangles.
const MOST_TRIANGLES: f64 = 400_000.0;
/// Parts that come nearer than this many cells to each other get one skin.
const NEAR: f64 = 2.0;
/// Parts are not reduced to fewer triangles than this by themselves.
const LEAST: usize = 1_000;
/// With a budget, the skin is first made of this many times as many triangles.
const FINER: f64 = 3.0;

/// What a new skin clears, where it blocks.
const CLEARED: &[&str] = &[
    "open-edges",
    "nonmanifold-edges",
    "misoriented-edges",
    "reversed-faces",
    "intersecting-faces",
    "crossing-parts",
    "nested-parts",
    "interior-faces",
    "no-thickness",
    "lamina-faces",
    "zero-area-faces",
    "pinched-vertices",
];

/// Tries a new skin, where what blocks is what that clears. `unfilled` is the model before its holes
/// were filled: of sheets, lids make flat pockets.
pub fn run(runner: &mut Runner<'_>, budget: Option<usize>, unfilled: Mark) -> Result<()> {
    let audit = runner.audit();
    let curable = |check: &str| CLEARED.contains(&check);
    if !audit.blocking().any(|finding| curable(finding.check)) {
        return Ok(());
    }
    let cell = cell(runner, budget);
    let mut skin = Options {
        cell: Some(short(cell)),
        ..Default::default()
    };
    if of_parts(runner, &skin, cell, budget)? {
        return Ok(());
    }
    skin.then_decimate = budget.map(to);
    let floated = runner.audit().count(FLOATING);
    let plain = attempt(runner, skin.clone(), last_resort)?;
    // Sheets that close in nothing have no skin of their own.
    if !plain {
        let filled = runner.mark();
        runner.go_back(unfilled);
        skin.min_thickness = Some(short(WALL * cell));
        let is_worse = |audit: &Audit| audit.blocking().count() > blocking(&filled);
        if !attempt(runner, skin, last_resort)? && is_worse(runner.audit()) {
            runner.go_back(filled);
        }
    }
    drop_small_parts(runner, floated)
}

/// Tries a skin of the parts concerned; says whether nothing blocks then.
fn of_parts(
    runner: &mut Runner<'_>,
    skin: &Options,
    cell: f64,
    budget: Option<usize>,
) -> Result<bool> {
    let model = runner.model();
    let Some(parts) = concerned(&model.mesh, runner.audit(), CLEARED, NEAR * cell) else {
        return Ok(false);
    };
    let of_part = Parts::of(&model.mesh);
    let stays = |face: &FaceId| {
        let part = of_part.of_face(&model.mesh, *face);
        part.is_none_or(|part| !parts.contains(&part))
    };
    let rest = model.mesh.face_ids().filter(stays);
    let rest: usize = rest
        .map(|face| model.mesh.face(face).len().max(2) - 2)
        .sum();
    let names: Vec<String> = parts.iter().map(ToString::to_string).collect();
    let left = budget.map(|budget| budget.saturating_sub(rest));
    if left.is_some_and(|left| left < LEAST) {
        return Ok(false);
    }
    let skin = Options {
        part: Some(names.join(",")),
        then_decimate: left.map(to),
        ..skin.clone()
    };
    let floated = runner.audit().count(FLOATING);
    let before = runner.mark();
    if !attempt(runner, skin, last_resort)? {
        return Ok(false);
    }
    drop_small_parts(runner, floated)?;
    let passes = runner.audit().passes();
    if !passes {
        // A skin of all is made of the model, and not of a skin.
        runner.throw_away(before, said!("blocks-still", "something blocks still"));
    }
    Ok(passes)
}

/// Drops what floats where less did before the skin: pieces of walls thinner than its cells.
fn drop_small_parts(runner: &mut Runner<'_>, floated: usize) -> Result<()> {
    let audit = runner.audit();
    let found = audit.blocking().find(|finding| finding.check == FLOATING);
    let small: Vec<String> = match found {
        Some(finding) if floated == 0 => {
            let parts = finding
                .found
                .places
                .iter()
                .flat_map(|place| match &place.elements {
                    Elements::Parts(parts) => &parts[..],
                    _ => &[],
                });
            parts.map(ToString::to_string).collect()
        }
        _ => return Ok(()),
    };
    let options = parts::Options {
        drop: Some(small.join(",")),
        ..Default::default()
    };
    runner.step(&Instruction::of(options), &MayBreak::All)
}

/// How many kinds of findings block at a mark.
fn blocking(mark: &Mark) -> usize {
    mark.audit()
        .map_or(usize::MAX, |audit| audit.blocking().count())
}

/// The length of a cell: as long as the model's own edges, or as the budget allows.
fn cell(runner: &Runner<'_>, budget: Option<usize>) -> f64 {
    let facts = &runner.audit().mesh;
    let triangles = facts.triangles + 2 * facts.quads + 3 * facts.ngons;
    // The side of an even triangle of mean area.
    let detail = (facts.area / triangles.max(1) as f64 * 4.0 / 3f64.sqrt()).sqrt();
    let finest = dual_contouring::cell_for(facts.area, MOST_TRIANGLES);
    let by_budget = budget.map_or(0.0, |to| {
        dual_contouring::cell_for(facts.area, FINER * to as f64)
    });
    detail
        .min(COARSEST * facts.diagonal)
        .max(finest)
        .max(by_budget)
}

/// A length to three digits.
fn short(length: f64) -> Length {
    Length::Own(format!("{length:.2e}").parse().unwrap_or(length))
}

/// Reduced to this many triangles.
fn to(triangles: usize) -> Then {
    Then::To(Budget::Count(triangles))
}
