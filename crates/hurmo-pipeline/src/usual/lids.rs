//! Rims that no lid closes without a crossing: they get one that crosses, and it is cut, exactly.
//!
//! ```text
//! rims left, and few ─▶ lids that may cross ─▶ crossings resolved ─▶ kept if fewer kinds block
//! ```

use super::crossings;
use crate::operation::fill;
use crate::operation::mend::Mend;
use crate::runner::Runner;
use anyhow::Result;

const OPEN: &str = "open-edges";

/// With a larger share of open edges the model is a sheet rather than a solid with gaps.
const FEW: f64 = 0.05;

/// Tries it where open edges block; `mend` is how mending is done here.
pub fn run(runner: &mut Runner<'_>, mend: Mend) -> Result<()> {
    let audit = runner.audit();
    let blocks = audit.blocking().any(|finding| finding.check == OPEN);
    if !blocks || audit.count(OPEN) as f64 > FEW * audit.mesh.faces as f64 {
        return Ok(());
    }
    let lids = fill::Options {
        may_cross: true,
        ..Default::default()
    };
    crossings::cut_after(runner, lids, OPEN, mend)
}
