//! What a job of one operation did.

use super::{heading, next_steps, proof, rebuilt_text};
use crate::out::{self, measure};
use hurmo_pipeline::record::{JobReport, LevelReport, StepReport};
use std::path::Path;

/// What lies below this share of the diagonal is rounding.
const ROUNDING: f64 = 1e-12;

/// An operation; the diagonal is that of the model.
pub fn step_text(step: &StepReport, diagonal: f64) -> String {
    let what = match (step.did.is_empty(), step.step) {
        (true, "fill") if !step.left.is_empty() => "nothing done".to_string(),
        (true, _) => "nothing to do".to_string(),
        (false, _) => out::joined(&step.did),
    };
    let moved = match step.moved {
        // What lies below rounding has not moved.
        Some(d) if d <= diagonal * ROUNDING => "; surface not moved".to_string(),
        Some(d) if diagonal > 0.0 => format!(
            "; moved up to {} ({}, sampled)",
            measure(d),
            out::of_diagonal(d, diagonal)
        ),
        _ => String::new(),
    };
    let mut text = format!(
        "  {} {what}{}\n",
        out::bold(&format!("{:9}", step.step)),
        out::faint(&moved)
    );
    for single in &step.single {
        text += &format!("            {single}\n");
    }
    for left in &step.left {
        text += &format!("            {}\n", out::doubtful(&left.to_string()));
    }
    text += &step.rebuilt.as_deref().map_or(String::new(), rebuilt_text);
    text
}

/// A level of the result.
fn level_text(level: &LevelReport, diagonal: f64) -> String {
    let off = level
        .deviation
        .new_from_old
        .both(level.deviation.old_from_new);
    let lies = match off.max <= diagonal * ROUNDING {
        true => "on the model".to_string(),
        false => format!(
            "off by up to {} ({}; rms {}, sampled)",
            measure(off.max),
            out::of_diagonal(off.max, diagonal),
            measure(off.rms),
        ),
    };
    let mut text = format!(
        "  {} {}: {}, {lies}\n",
        out::bold(&format!("{:9}", format!("level {}", level.level))),
        level.output,
        out::counted(level.quads, "quad"),
    );
    let left = [
        (level.too_far, "have no place on the model within reach"),
        (level.held, "stay short of the model, lest quads fold"),
    ];
    for (count, why) in left.into_iter().filter(|(count, _)| *count > 0) {
        let vertices = out::counted(count, "vertex");
        text += &format!(
            "            {}\n",
            out::doubtful(&format!("{vertices} {why}"))
        );
    }
    if !level.blocks.is_empty() {
        let blocks = format!("blocks: {}", level.blocks.join(", "));
        text += &format!("            {}\n", out::bad(&blocks));
    }
    text
}

/// A job of one operation.
pub fn job_text(job: &JobReport) -> String {
    let files = format!("{} → {}", job.input, job.output);
    let mut text = heading(&files, &job.brief);
    for step in &job.steps {
        text += &step_text(step, job.before.mesh.diagonal);
    }
    for lost in &job.lost {
        text += &format!("  {} {lost}\n", out::bold("lost     "));
    }
    for level in &job.levels {
        text += &level_text(level, job.before.mesh.diagonal);
    }
    let after_is = "read back from the file";
    text += &proof(&job.before, &job.after, after_is, &job.brief);
    for missed in &job.missed {
        text += &format!("  {} {missed}\n", out::bad("missed"));
    }
    text + &next_steps(&job.after, Path::new(&job.output))
}
