//! Where faces that meet others block: closed parts that hang together by them become the boundary
//! of what they fill, exactly, and parts buried in others go. All other faces stay, with all that they
//! carry.

use super::attempt::{attempt_if, since_mending_leaves};
use crate::operation::mend::Mend;
use crate::record::Statement;
use crate::runner::Runner;
use crate::said;
use anyhow::Result;
use hurmo_core::audit::Audit;

/// What it clears, where it blocks.
const CLEARED: [&str; 4] = [
    "intersecting-faces",
    "crossing-parts",
    "interior-faces",
    "nested-parts",
];

/// What is mended for that.
const CURED: [&str; 2] = ["intersecting-faces", "nested-parts"];

/// Tries it on what blocks; `mend` is how mending is done here. Says whether that was kept.
pub fn run(runner: &mut Runner<'_>, mut mend: Mend) -> Result<bool> {
    let audit = runner.audit();
    if !audit
        .blocking()
        .any(|finding| CLEARED.contains(&finding.check))
    {
        return Ok(false);
    }
    let also: Vec<&str> = (CURED.into_iter())
        .filter(|check| audit.count(check) > 0)
        .collect();
    if also.is_empty() {
        return Ok(false);
    }
    mend.options.also.extend(also.into_iter().map(String::from));
    attempt_if(runner, mend, since_mending_leaves, is_better)
}

/// Whether less meets, and of nothing that blocks there is more.
fn is_better(before: &Audit, after: &Audit) -> Result<(), Statement> {
    let more = after
        .blocking()
        .find(|finding| before.count(finding.check) < finding.count());
    if let Some(finding) = more {
        return Err(said!(
            "brings",
            "it brings {checks}",
            checks = finding.check
        ));
    }
    let is_less = |check: &str| after.count(check) < before.count(check);
    match CLEARED.iter().any(|check| is_less(check)) {
        true => Ok(()),
        false => Err(said!("as-much-meets", "as much meets as before")),
    }
}
