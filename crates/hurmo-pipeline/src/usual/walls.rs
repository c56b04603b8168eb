//! Sheets, which enclose nothing: they get walls, and keep their faces with all that these carry.

use super::crossings;
use crate::operation::mend::Mend;
use crate::runner::Runner;
use anyhow::Result;
use hurmo_core::units::Length;

const SHEETS: &str = "no-thickness";

/// As thick as a new skin would make them, in percent of the diagonal.
const THICKNESS: Length = Length::Percent(0.8);

/// Tries it where sheets block; `mend` is how mending is done here.
pub fn run(runner: &mut Runner<'_>, mend: Mend) -> Result<()> {
    let audit = runner.audit();
    if !audit.blocking().any(|finding| finding.check == SHEETS) {
        return Ok(());
    }
    let mut walls = mend.clone();
    walls.options.thicken = Some(THICKNESS);
    crossings::cut_after(runner, walls, SHEETS, mend)
}
