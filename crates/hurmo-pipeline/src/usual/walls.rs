//! Sheets, which enclose nothing to print: given walls, which keep their faces and all that these carry.

use super::attempt::{attempt_if, is_better, since_mending_leaves};
use super::crossings;
use crate::operation::mend::Mend;
use crate::record::Statement;
use crate::runner::Runner;
use crate::said;
use anyhow::Result;
use hurmo_core::audit::Audit;
use hurmo_core::units::Length;

const SHEETS: &str = "no-thickness";

/// As thick as a new skin would make them, in percent of the diagonal.
const THICKNESS: Length = Length::Percent(0.8);

/// Tries it where sheets block; `mend` is how mending is done here.
pub fn run(runner: &mut Runner<'_>, mend: Mend) -> Result<()> {
    let found = runner.audit().clone();
    if !found.blocking().any(|finding| finding.check == SHEETS) {
        return Ok(());
    }
    let before = runner.mark();
    let mut walls = mend.clone();
    walls.options.thicken = Some(THICKNESS);
    if !attempt_if(runner, walls, since_mending_leaves, fewer_sheets)? {
        return Ok(());
    }
    crossings::run_against(runner, mend, &found)?;
    if let Err(why) = is_better(&found, runner.audit()) {
        runner.throw_away(before, why);
    }
    Ok(())
}

fn fewer_sheets(before: &Audit, after: &Audit) -> Result<(), Statement> {
    match after.count(SHEETS) < before.count(SHEETS) {
        true => Ok(()),
        false => Err(said!("as-many-sheets", "as many sheets as before")),
    }
}
