//! Rims that nothing closes without a crossing: closed all the same, and what crosses is cut then, exactly.
//!
//! ```text
//! rims left, and few ─▶ lids that may cross ─▶ crossings resolved ─▶ kept if fewer kinds block
//! ```

use super::attempt::{attempt_if, is_better, since_mending_leaves, too_far};
use super::crossings;
use crate::operation::fill;
use crate::operation::mend::Mend;
use crate::record::Statement;
use crate::runner::Runner;
use crate::said;
use anyhow::Result;
use hurmo_core::audit::Audit;

const OPEN: &str = "open-edges";

/// With a larger share of open edges the model is a sheet rather than a solid with gaps.
const FEW: f64 = 0.05;

/// Tries it where open edges block; `mend` is how mending is done here.
pub fn run(runner: &mut Runner<'_>, mend: Mend) -> Result<()> {
    let found = runner.audit().clone();
    let open = found.count(OPEN);
    let blocks = found.blocking().any(|finding| finding.check == OPEN);
    if !blocks || open as f64 > FEW * found.mesh.faces as f64 {
        return Ok(());
    }
    let before = runner.mark();
    let begin = runner.records.len();
    let lids = fill::Options {
        may_cross: true,
        ..Default::default()
    };
    if !attempt_if(runner, lids, since_mending_leaves, closes_some)? {
        return Ok(());
    }
    crossings::run_against(runner, mend, &found)?;
    let verdict = is_better(&found, runner.audit()).err();
    if let Some(why) = verdict.or_else(|| too_far(runner, begin)) {
        runner.throw_away(before, why);
    }
    Ok(())
}

fn closes_some(before: &Audit, after: &Audit) -> Result<(), Statement> {
    match after.count(OPEN) < before.count(OPEN) {
        true => Ok(()),
        false => Err(said!("as-much-open", "as much is open as before")),
    }
}
