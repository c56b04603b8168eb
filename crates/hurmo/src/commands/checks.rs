//! `hurmo checks`: what each check looks for.

use crate::render::{Table, level};
use crate::{Ending, out};
use anyhow::{Result, bail};
use hurmo_core::audit::{Brief, CHECKS, Check, Level};
use hurmo_pipeline::brief;
use hurmo_pipeline::cures::cure_of;

/// Arguments of `hurmo checks`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo checks\n  \
    hurmo checks pinched-vertices")]
pub struct Arguments {
    /// A check to explain; all are listed without one
    #[arg(value_name = "NAME")]
    name: Option<String>,
    /// Print all of them as a Markdown table
    #[arg(long, conflicts_with = "name")]
    markdown: bool,
}

const BRIEFS: [&str; 4] = ["general", "sculpt", "engine", "print"];

/// Runs `hurmo checks`.
pub fn run(arguments: &Arguments) -> Result<Ending> {
    let text = match &arguments.name {
        None if arguments.markdown => markdown(),
        None => list(),
        Some(name) => match hurmo_core::audit::named(name) {
            Some(check) => explained(check),
            None => {
                let names = CHECKS.iter().map(|check| check.name);
                match brief::nearest(name, names) {
                    Some(near) => bail!("'{name}' is no check; did you mean '{near}'?"),
                    None => bail!("'{name}' is no check; `hurmo checks` lists them"),
                }
            }
        },
    };
    out::print(&text);
    Ok(Ending::Clear)
}

fn list() -> String {
    let mut table = Table::new(&["check", "general", "sculpt", "engine", "print", "counts"]);
    for check in CHECKS {
        let levels = BRIEFS.map(|name| level_in(name, check));
        let cells = [out::bold(check.name)].into_iter().chain(levels);
        table.row(cells.chain([check.counts.to_string()]));
    }
    table.text() + "\n  `hurmo checks NAME` explains one\n"
}

fn level_of(brief: &str, check: &Check) -> Level {
    let brief = Brief::named(brief).expect("a built-in brief");
    brief.level(check.name)
}

fn level_in(brief: &str, check: &Check) -> String {
    match level_of(brief, check) {
        Level::Off => out::faint("-"),
        found => level(found),
    }
}

fn markdown() -> String {
    let mut text = String::from(
        "| check | counts | harm | cleared by | general | sculpt | engine | print |\n\
         |---|---|---|---|---|---|---|---|\n",
    );
    for check in CHECKS {
        let levels = BRIEFS.map(|name| level_of(name, check).name()).join(" | ");
        text += &format!(
            "| `{}` | {} | {} | {} | {levels} |\n",
            check.name,
            check.counts,
            check.harm,
            cure(check)
        );
    }
    text
}

fn explained(check: &Check) -> String {
    let mut text = format!("{}\n\n", out::bold(check.name));
    let mut say = |what: &str, words: &str| {
        text += &format!(
            "  {:12} {words}\n",
            out::faint(&format!("{what:12}")).trim_end()
        );
    };
    say("counts", check.counts);
    say("harm", check.harm);
    say("cleared by", cure(check));
    let levels = BRIEFS.map(|name| format!("{name} {}", level_in(name, check)));
    say("level", &levels.join(", "));
    text += &format!("{}\n", check.drawing);
    text
}

/// What clears the findings of a check.
fn cure(check: &Check) -> &'static str {
    cure_of(check.name).unwrap_or_default()
}
