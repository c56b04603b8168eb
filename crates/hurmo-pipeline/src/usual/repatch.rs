//! Before the last resort: where few faces are at fault, their places are cut out and closed anew.
//! All other faces stay, with all that they carry.

use super::attempt::{attempt, since_mending_leaves, too_far};
use crate::operation::mend::Mend;
use crate::operation::repatch::Places;
use crate::runner::Runner;
use anyhow::Result;
use hurmo_core::repatch::CHECKS;

/// With a larger share of faces at fault it is no matter of places any more.
const FEW: f64 = 0.05;

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
    let begin = runner.records.len();
    if attempt(runner, mend, since_mending_leaves)?
        && let Some(why) = too_far(runner, begin)
    {
        runner.throw_away(before, why);
    }
    Ok(())
}
