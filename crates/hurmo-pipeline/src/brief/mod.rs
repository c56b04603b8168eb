//! Brief files: what a handoff asks for, as TOML.
//!
//! ```text
//! --for NAME|FILE ─▶ find ─┬─ a built-in name ─▶ Brief
//!                          └─ a file ─▶ read ─▶ Brief, on top of what it extends
//! hurmo brief NAME ─▶ write ─▶ TOML with comments, which reads back as the same brief
//! ```

mod read;
mod steps;
mod write;

pub use read::from_toml;
pub use write::to_toml;

use crate::plan::PlannedStep;
use anyhow::{Context, Result, bail};
use hurmo_core::audit::Brief;
use std::path::Path;

/// A brief with all that its file says.
pub struct WholeBrief {
    /// What the handoff asks for.
    pub brief: Brief,
    /// The steps that it lists.
    pub steps: Vec<PlannedStep>,
    /// Its text.
    pub text: String,
}

/// The brief of a built-in name, or in a file.
pub fn find(name: &str) -> Result<Brief> {
    Ok(find_whole(name)?.brief)
}

/// The same, with its steps.
pub fn find_whole(name: &str) -> Result<WholeBrief> {
    if let Some(brief) = Brief::named(name) {
        return Ok(WholeBrief {
            text: to_toml(&brief),
            brief,
            steps: Vec::new(),
        });
    }
    let path = Path::new(name);
    if !path.exists() {
        let known = Brief::BUILT_IN.join(", ");
        let near = nearest(name, Brief::BUILT_IN)
            .map_or(String::new(), |near| format!("; did you mean {near}?"));
        bail!("'{name}' is no brief: it is neither {known}, nor a file{near}");
    }
    let text = hurmo_formats::plain::read(path).with_context(|| format!("{name}: not readable"))?;
    let text = String::from_utf8(text).with_context(|| format!("{name}: not readable"))?;
    let default_name = path
        .file_stem()
        .map_or(name.into(), |stem| stem.to_string_lossy());
    let read = from_toml(&text, &default_name);
    let (brief, steps) = read.map_err(|error| anyhow::anyhow!("{name}: {error}"))?;
    Ok(WholeBrief { brief, steps, text })
}

/// The known word that is most like another, if any is like it at all.
pub fn nearest<'w>(word: &str, known: impl IntoIterator<Item = &'w str>) -> Option<&'w str> {
    known
        .into_iter()
        .map(|candidate| (strsim::jaro_winkler(word, candidate), candidate))
        .filter(|(likeness, _)| *likeness > 0.7)
        .max_by(|a, b| a.0.total_cmp(&b.0))
        .map(|(_, candidate)| candidate)
}
