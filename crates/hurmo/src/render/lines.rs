//! Many models: a line each, the worst first, and a summary.

use super::{Table, level};
use crate::out::{self, count, counted};
use hurmo_core::audit::{CHECKS, Level};
use hurmo_pipeline::record::ModelReport;
use hurmo_pipeline::verdict::purpose;

/// What a line says of a model.
#[derive(Clone, Debug)]
pub struct ModelLine {
    /// Its path.
    pub path: String,
    /// Its faces.
    pub faces: usize,
    /// Whether nothing blocks.
    pub passes: bool,
    /// What was found: check, level, count.
    pub found: Vec<(String, Level, usize)>,
}

impl From<&ModelReport> for ModelLine {
    fn from(report: &ModelReport) -> Self {
        let found = report.audit.findings.iter().filter(|f| f.count > 0);
        Self {
            path: report.path.clone(),
            faces: report.audit.mesh.faces,
            passes: report.passes,
            found: found
                .map(|f| (f.check.to_string(), f.level, f.count))
                .collect(),
        }
    }
}

impl ModelLine {
    fn count(&self, level: Level) -> usize {
        self.found.iter().filter(|(_, l, _)| *l == level).count()
    }

    /// What makes a model worse than another: kinds that block, kinds that warn, elements.
    fn badness(&self) -> (bool, usize, usize, usize) {
        let elements = self.found.iter().filter(|(_, l, _)| *l >= Level::Warn);
        let elements = elements.map(|(.., count)| count).sum();
        (
            !self.passes,
            self.count(Level::Block),
            self.count(Level::Warn),
            elements,
        )
    }
}

/// Puts the worst models first, then by path.
pub fn worst_first(lines: &mut [ModelLine]) {
    lines.sort_by(|a, b| b.badness().cmp(&a.badness()).then(a.path.cmp(&b.path)));
}

/// How many models get a line before the rest is only counted.
const SHOWN: usize = 40;

/// The lines and the summary. `unreadable` are paths with reasons.
pub fn lines_text(models: &[ModelLine], unreadable: &[(String, String)], brief: &str) -> String {
    let mut text = String::new();
    let mut table = Table::new(&["", "model", ">faces", "found, worst first"]);
    for model in models.iter().take(SHOWN) {
        let verdict = match (model.passes, model.count(Level::Warn)) {
            (false, _) => level(Level::Block),
            (true, 0) => out::good("good"),
            (true, _) => level(Level::Warn),
        };
        table.row([
            verdict,
            out::tail(&model.path),
            count(model.faces),
            found_text(model),
        ]);
    }
    if !models.is_empty() {
        text += &table.text();
    }
    if models.len() > SHOWN {
        let rest = &models[SHOWN..];
        let blocked = rest.iter().filter(|model| !model.passes).count();
        text += &out::faint(&format!(
            "  and {}, {} of them blocked; --json or --csv lists all\n",
            counted(rest.len(), "more model"),
            count(blocked)
        ));
    }
    for (path, reason) in unreadable.iter().take(SHOWN) {
        text += &format!("  {}  {path}: {reason}\n", out::bad("unreadable"));
    }
    text + "\n" + &summary(models, unreadable.len(), brief)
}

fn found_text(model: &ModelLine) -> String {
    let mut found: Vec<&(String, Level, usize)> = model
        .found
        .iter()
        .filter(|(_, level, _)| *level > Level::Note)
        .collect();
    found.sort_by_key(|(_, level, _)| std::cmp::Reverse(*level));
    let mut words: Vec<String> = found
        .iter()
        .take(3)
        .map(|(check, _, n)| format!("{check} {}", count(*n)))
        .collect();
    if found.len() > 3 {
        words.push(format!("and {} more", found.len() - 3));
    }
    words.join(", ")
}

fn summary(models: &[ModelLine], unreadable: usize, brief: &str) -> String {
    let passing = models.iter().filter(|model| model.passes).count();
    let purpose = purpose(brief);
    let mut text = format!(
        "  {} of {} good to go{purpose}",
        count(passing),
        counted(models.len() + unreadable, "model")
    );
    if unreadable > 0 {
        text += &format!(", {} unreadable", count(unreadable));
    }
    text += "\n";
    let mut blocking: Vec<(usize, &str)> = CHECKS
        .iter()
        .map(|check| {
            let fails = |model: &&ModelLine| {
                let mut found = model.found.iter();
                found.any(|(name, level, _)| name == check.name && *level == Level::Block)
            };
            (models.iter().filter(fails).count(), check.name)
        })
        .filter(|(count, _)| *count > 0)
        .collect();
    blocking.sort_by_key(|&(count, _)| std::cmp::Reverse(count));
    let named: Vec<String> = blocking
        .iter()
        .take(3)
        .map(|(n, check)| format!("{check} in {}", count(*n)))
        .collect();
    if !named.is_empty() {
        text += &format!("  fails most: {}\n", named.join(", "));
    }
    text
}
