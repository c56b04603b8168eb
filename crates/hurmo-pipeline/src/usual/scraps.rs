//! Scraps that the steps have made themselves.

use crate::operation::{self, Instruction};
use crate::plan::MayBreak;
use crate::record::Value;
use crate::runner::Runner;
use crate::said;
use anyhow::Result;
use hurmo_core::parts::cut_off;

/// Where floating parts block, drops those that were pieces of something larger in the model that
/// was read: what mending cut off is no part that anyone wanted.
pub fn drop_cut_off(runner: &mut Runner<'_>) -> Result<()> {
    let blocks = |check: &str| runner.audit().blocking().any(|f| f.check == check);
    if !blocks("floating-parts") {
        return Ok(());
    }
    let parts = cut_off(&runner.original()?.mesh, &runner.model().mesh);
    if parts.is_empty() {
        return Ok(());
    }
    let names: Vec<String> = parts.iter().map(ToString::to_string).collect();
    let options = operation::parts::Options {
        drop: Some(names.join(",")),
        ..Default::default()
    };
    runner.step(&Instruction::of(options), &MayBreak::All)?;
    let record = runner.records.last_mut();
    if let Some(report) = record.and_then(|record| record.reports.first_mut()) {
        report.single.push(said!(
            "scraps",
            "{scraps:scrap} cut off before: {were} of something larger",
            scraps = parts.len(),
            were = Value::Grammar(match parts.len() {
                1 => "it was a piece",
                _ => "they were pieces",
            }),
        ));
    }
    Ok(())
}
