//! Before the last resort: where few faces are at fault, their places are cut out and closed anew.
//! All other faces stay, with all that they carry.

use super::attempt::attempt;
use super::runner::Runner;
use anyhow::Result;
use hurmo_core::repatch::CHECKS;

/// With a larger share of faces at fault it is no matter of places any more.
const FEW: f64 = 0.05;

/// Tries it on what blocks; `mend` is how mending is done here.
pub fn run(runner: &mut Runner<'_>, mend: Vec<String>) -> Result<()> {
    let audit = runner.audit();
    let most = FEW * audit.mesh.faces as f64;
    let found = audit
        .blocking()
        .filter(|finding| CHECKS.contains(&finding.check));
    let checks: Vec<&str> = found
        .filter(|finding| finding.count() as f64 <= most)
        .map(|finding| finding.check)
        .collect();
    if checks.is_empty() {
        return Ok(());
    }
    let mut words = mend;
    words.push(format!("--repatch={}", checks.join(",")));
    attempt(runner, words, "since mending leaves")?;
    Ok(())
}
