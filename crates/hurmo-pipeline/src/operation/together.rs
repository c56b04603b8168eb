//! Which options go together.

use anyhow::{Result, bail};

/// An option, and whether it is given.
pub(super) type Given = (&'static str, bool);

/// Refuses others beside one.
pub(super) fn excludes(one: Given, others: &[Given]) -> Result<()> {
    match others.iter().find(|(_, given)| one.1 && *given) {
        Some((other, _)) => bail!("--{} and --{other} don't go together", one.0),
        None => Ok(()),
    }
}

/// Refuses one without the other that it belongs to.
pub(super) fn needs(one: Given, other: Given) -> Result<()> {
    match one.1 && !other.1 {
        true => bail!("--{} is for --{}, which isn't given", one.0, other.0),
        false => Ok(()),
    }
}

/// Refuses that none of these is given.
pub(super) fn any_of(options: &[Given], what: &str) -> Result<()> {
    if options.iter().any(|(_, given)| *given) {
        return Ok(());
    }
    let names: Vec<String> = options
        .iter()
        .map(|(name, _)| format!("--{name}"))
        .collect();
    let (last, others) = names.split_last().expect("there are some");
    match others.is_empty() {
        true => bail!("{what}: {last}"),
        false => bail!("{what}: {} or {last}", others.join(", ")),
    }
}

/// Refuses a number that makes no sense.
pub(super) fn within(name: &str, number: f64, range: std::ops::RangeInclusive<f64>) -> Result<()> {
    match range.contains(&number) {
        true => Ok(()),
        false => bail!(
            "--{name} {number} makes no sense; it lies from {} to {}",
            range.start(),
            range.end()
        ),
    }
}
