//! What preparing did, for people: a model in full, or many with a line each.

use super::{Table, heading, proof, step_text};
use crate::out::{self, count, counted, measure};
use hurmo_core::audit::Level;
use hurmo_core::measure::Deviation;
use hurmo_pipeline::record::{
    Apart, LineOutcome, ModelRecord, Most, PreparedFigures, PreparedLine, StepRecord, StepReport,
    shorten,
};
use hurmo_pipeline::verdict::purpose;

/// A model in full. `in_steps`: each step with its options, what it found, and what blocks after it.
pub fn model_text(record: &ModelRecord, in_steps: bool) -> String {
    let input = record.input.path.display();
    let files = match &record.output {
        Some(output) => format!("{input} → {}", output.path.display()),
        None => format!("{input}, a dry run: nothing is written"),
    };
    let read = record.before.mesh.diagonal;
    let mut text = heading(&files, &record.brief);
    let mut shown: Vec<&StepReport> = Vec::new();
    for (i, step) in record.steps.iter().enumerate() {
        if in_steps {
            text += &step_heading(i + 1, step);
        }
        for one in &step.reports {
            if in_steps || says_something_new(one, &shown) {
                text += &step_text(one, read * step.scaled);
            }
            shown.push(one);
        }
        if in_steps {
            text += &out::faint(&format!("            {}\n", blocks_text(step)));
        }
    }
    if let Some(stopped) = &record.stopped {
        let step = record.steps.get(stopped.step - 1);
        let name = step.map_or("", |step| step.step);
        let kept = match record.output.is_some() {
            true => "what was there before it is in the file",
            false => "what was there before it would be written",
        };
        text += &format!(
            "  {} at step {}, {name}: {}; its result was thrown away, and {kept}\n",
            out::bad("stopped"),
            stopped.step,
            stopped.why
        );
    }
    for lost in &record.lost {
        text += &format!("  {} {lost}\n", out::bold("lost     "));
    }
    text += &cost_text(record, read * record.scaled);
    let after_is = match record.output.is_some() {
        true => "read back from the file",
        false => "as it would be",
    };
    text += &proof(&record.before, &record.after, after_is, &record.brief);
    if let Some(stopped) = &record.stopped {
        let step = record
            .steps
            .get(stopped.step - 1)
            .map_or("", |step| step.step);
        let done = format!("step {}, {step}, nor any after it", stopped.step);
        text += &format!("  {} {done}\n", out::bad("not done:"));
    }
    for missed in &record.missed {
        text += &format!("  {} {missed}\n", out::bad("missed"));
    }
    let output = record.output.as_ref().unwrap_or(&record.input);
    text + &super::next_steps(&record.after, &output.path)
}

/// Whether a step changed anything, or left what no step before it did.
fn says_something_new(step: &StepReport, shown: &[&StepReport]) -> bool {
    let is_same = |old: &&StepReport| old.step == step.step && old.left == step.left;
    let is_old = step.did.is_empty() && shown.iter().any(is_same);
    !step.is_empty() && !is_old
}

fn step_heading(number: usize, step: &StepRecord) -> String {
    let options: String = step.options.iter().map(|word| format!(" {word}")).collect();
    let mut text = format!("  {number}. {}{options}\n", step.step);
    if !step.found.is_empty() {
        let mut found = step.found.clone();
        shorten(&mut found, 6);
        text += &format!("            found {}\n", out::joined(&found));
    }
    out::faint(&text)
}

fn blocks_text(step: &StepRecord) -> String {
    let left: Vec<String> = step
        .blocks
        .iter()
        .filter(|blocks| blocks.after > 0)
        .map(|blocks| {
            let was = match blocks.before == blocks.after {
                true => String::new(),
                false => format!(" (was {})", count(blocks.before)),
            };
            format!("{} {}{was}", blocks.check, count(blocks.after))
        })
        .collect();
    match left.is_empty() {
        true => "nothing blocks now".into(),
        false => format!("now blocked by {}", left.join(", ")),
    }
}

fn cost_text(record: &ModelRecord, diagonal: f64) -> String {
    let mut words = Vec::new();
    if let (Some(off), true) = (&record.from_original, diagonal > 0.0) {
        let far = |off: &Deviation| {
            let share = 100.0 * off.max / diagonal;
            format!("up to {} ({share:.3}% of the diagonal)", measure(off.max))
        };
        let (new, old) = (&off.new_from_old, &off.old_from_new);
        // What lies below rounding has not moved.
        words.push(match new.max.max(old.max) <= diagonal * 1e-12 {
            true => "surface unchanged, sampled".into(),
            false => format!(
                "sampled distance: result to original {}, original to result {}",
                far(new),
                far(old)
            ),
        });
    }
    let mut cost = format!("{:.1} s", record.seconds);
    if let Some(peak) = record.peak_bytes {
        cost += &format!(", {} of memory at most", out::bytes(peak));
    }
    words.push(cost);
    let lines: String = words.iter().map(|words| format!("  {words}\n")).collect();
    out::faint(&lines)
}

/// Many models: those that are not good to go first, then by path; and a summary.
pub fn many_text(lines: &[PreparedLine], brief: &str, dry: bool) -> String {
    let mut sorted: Vec<&PreparedLine> = lines.iter().collect();
    sorted.sort_by(|a, b| (a.passes(), &a.path).cmp(&(b.passes(), &b.path)));
    let mut table = Table::new(&[
        "",
        "model",
        ">faces",
        "",
        ">after",
        ">new from old",
        ">old from new",
        ">time",
        "",
    ]);
    let mut any = false;
    let mut text = String::new();
    for line in sorted {
        let LineOutcome::Prepared { summary, .. } = &line.outcome else {
            continue;
        };
        any = true;
        let share = |way: fn(&Apart) -> &Most| match &summary.from_original {
            Some(apart) if summary.before.mesh.diagonal > 0.0 => {
                let diagonal = summary.before.mesh.diagonal * summary.scaled;
                format!("{:.3}%", 100.0 * way(apart).max / diagonal)
            }
            _ => String::new(),
        };
        table.row([
            match (&summary.stopped, summary.passes) {
                (Some(_), _) => out::bad("stopped"),
                (None, true) => out::good("good"),
                (None, false) => super::level(Level::Block),
            },
            out::tail(&line.path),
            count(summary.before.mesh.faces),
            "→".into(),
            count(summary.after.mesh.faces),
            share(|apart| &apart.new_from_old),
            share(|apart| &apart.old_from_new),
            format!("{:.1} s", summary.seconds),
            {
                let before = line.was_done_before().then(|| "done before".to_string());
                let remarks: Vec<String> = before.into_iter().chain(remark(summary)).collect();
                remarks.join("; ")
            },
        ]);
    }
    if any {
        text += &table.text();
    }
    for (path, error) in lines.iter().filter_map(PreparedLine::failure) {
        text += &format!("  {}  {path}: {error}\n", out::bad("failed"));
    }
    text + "\n" + &summary(lines, brief, dry)
}

/// What keeps a model from being good to go.
fn remark(summary: &PreparedFigures) -> Option<String> {
    if let Some(stopped) = &summary.stopped {
        return Some(format!("step {}: {}", stopped.step, stopped.why));
    }
    let blocking = summary.after.findings.iter();
    let mut blocking: Vec<String> = blocking
        .filter(|finding| finding.level == "block" && finding.count > 0)
        .map(|finding| format!("{} {}", finding.check, count(finding.count)))
        .collect();
    crate::out::shorten(&mut blocking, 3);
    (!blocking.is_empty()).then(|| blocking.join(", "))
}

fn summary(lines: &[PreparedLine], brief: &str, dry: bool) -> String {
    let count_of =
        |is: &dyn Fn(&PreparedLine) -> bool| lines.iter().filter(|line| is(line)).count();
    let are = if dry { "would be " } else { "" };
    let mut text = format!(
        "  {} of {} {are}good to go{}",
        count(count_of(&PreparedLine::passes)),
        counted(lines.len(), "model"),
        purpose(brief)
    );
    let before = count_of(&PreparedLine::was_done_before);
    if before > 0 {
        text += &format!(", {} done before", count(before));
    }
    let failed = count_of(&|line: &PreparedLine| line.failure().is_some());
    if failed > 0 {
        text += &format!(", {} failed", count(failed));
    }
    if dry {
        text += "; nothing was written";
    }
    text + "\n"
}
