//! Before the last resort: where few faces are at fault, their places are cut out and closed anew.
//! All other faces stay, with all that they carry.

use super::attempt::{attempt, since_mending_leaves};
use crate::operation::mend::Mend;
use crate::operation::repatch::Places;
use crate::runner::Runner;
use crate::said;
use crate::text;
use anyhow::Result;
use hurmo_core::repatch::CHECKS;

/// With a larger share of faces at fault it is no matter of places any more.
const FEW: f64 = 0.05;
/// The surface may move by so much of the diagonal: a new skin of all moves it by less.
const FAR: f64 = 0.01;

/// Tries it on what blocks; `mend` is how mending is done here.
pub fn run(runner: &mut Runner<'_>, mut mend: Mend) -> Result<()> {
    let audit = runner.audit();
    let most = FEW * audit.mesh.faces as f64;
    let found = audit
        .blocking()
        .filter(|finding| CHECKS.contains(&finding.check));
    let checks: Vec<String> = found
        .filter(|finding| finding.count() as f64 <= most)
        .map(|finding| finding.check.to_string())
        .collect();
    if checks.is_empty() {
        return Ok(());
    }
    mend.options.repatch.repatch = Some(Places::Checks(checks));
    let before = runner.mark();
    if !attempt(runner, mend, since_mending_leaves)? {
        return Ok(());
    }
    let diagonal = runner.audit().mesh.diagonal;
    let reports = runner
        .records
        .last()
        .map_or(&[][..], |record| &record.reports);
    let moved = reports
        .iter()
        .filter_map(|reports| reports.moved)
        .fold(0.0, f64::max);
    if moved > FAR * diagonal {
        let by = (moved, text::of_diagonal(moved, diagonal));
        let why = said!(
            "too-far",
            "it would move the surface by up to {by}",
            by = by
        );
        runner.throw_away(before, why);
    }
    Ok(())
}
