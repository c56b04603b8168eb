//! Joining the reports of several runs.

use super::ModelLine;
use anyhow::{Context, Result, bail};
use hurmo_core::audit::Level;
use serde::Deserialize;
use serde_json::Value;
use std::path::PathBuf;

/// Reports as they were read, joined.
pub struct Merged {
    /// The whole document.
    pub document: Value,
    /// The models, for people.
    pub lines: Vec<ModelLine>,
    /// Paths that could not be read, with the reason.
    pub unreadable: Vec<(String, String)>,
    /// The brief of all of them.
    pub brief: String,
}

/// The part of a report that its summary needs.
#[derive(Deserialize)]
struct Report {
    brief: String,
    models: Vec<Value>,
    unreadable: Vec<Value>,
}

#[derive(Deserialize)]
struct Model {
    path: String,
    passes: bool,
    mesh: Mesh,
    findings: Vec<Finding>,
}

#[derive(Deserialize)]
struct Mesh {
    faces: usize,
}

#[derive(Deserialize)]
struct Finding {
    check: String,
    level: String,
    count: usize,
}

#[derive(Deserialize)]
struct Unreadable {
    path: String,
    error: String,
}

/// Joins the reports in these files; models stand in order of their paths. A model that is in several
/// of them is refused, as are reports for different briefs.
pub fn merged(paths: &[PathBuf]) -> Result<Merged> {
    let mut brief: Option<String> = None;
    let mut models: Vec<(ModelLine, Value)> = Vec::new();
    let mut unreadable = Vec::new();
    let mut unreadable_values = Vec::new();
    let mut seen = std::collections::BTreeMap::new();
    for path in paths {
        let name = path.display().to_string();
        let text = hurmo_formats::plain::read(path).with_context(|| name.clone())?;
        let report: Report = serde_json::from_slice(&text)
            .with_context(|| format!("{name}: this is no report of `hurmo audit --json`"))?;
        match &brief {
            Some(brief) if *brief != report.brief => bail!(
                "{name}: its brief is {}, that of the others {brief}",
                report.brief
            ),
            _ => brief = Some(report.brief),
        }
        for value in report.models {
            let line = line_of(&value).with_context(|| format!("{name}: a model's report"))?;
            if let Some(other) = seen.insert(line.path.clone(), name.clone()) {
                bail!("{} is in {other} and in {name}", line.path);
            }
            models.push((line, value));
        }
        for value in report.unreadable {
            let entry = Unreadable::deserialize(&value).with_context(|| name.clone())?;
            unreadable.push((entry.path, entry.error));
            unreadable_values.push(value);
        }
    }
    models.sort_by(|(a, _), (b, _)| a.path.cmp(&b.path));
    let brief = brief.unwrap_or_default();
    let (lines, values): (Vec<ModelLine>, Vec<Value>) = models.into_iter().unzip();
    Ok(Merged {
        document: serde_json::json!({
            "brief": brief,
            "models": values,
            "unreadable": unreadable_values,
        }),
        lines,
        unreadable,
        brief,
    })
}

fn line_of(value: &Value) -> Result<ModelLine> {
    let model = Model::deserialize(value)?;
    let level = |name: &str| Level::ALL.into_iter().find(|level| level.name() == name);
    let found = model.findings.into_iter().filter(|f| f.count > 0);
    Ok(ModelLine {
        path: model.path,
        faces: model.mesh.faces,
        passes: model.passes,
        found: found
            .map(|f| {
                let level = level(&f.level).with_context(|| format!("a level '{}'", f.level))?;
                Ok((f.check, level, f.count))
            })
            .collect::<Result<_>>()?,
    })
}
