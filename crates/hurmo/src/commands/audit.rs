//! `hurmo audit`: finds faults and says where.

use crate::cli::{BriefName, unit};
use crate::report::{self, AuditReport, ModelReport, Unreadable};
use crate::session::Session;
use crate::{Ending, out};
use anyhow::Result;
use hurmo_core::audit::{self, Brief};
use hurmo_core::units::Unit;
use std::path::PathBuf;

/// Arguments of `hurmo audit`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo audit bollard.obj\n  \
    hurmo audit --for print heron.ply lantern.obj\n  \
    hurmo audit --json --places all buoy.stl > buoy.json")]
pub struct Arguments {
    /// Model files
    #[arg(required = true, value_name = "MODEL")]
    models: Vec<PathBuf>,
    /// What the model is handed off to; sets how bad each finding is
    #[arg(long = "for", value_name = "BRIEF")]
    brief: Option<BriefName>,
    /// Print one JSON document instead of text
    #[arg(long)]
    json: bool,
    /// How many places to list for each finding, or 'all' (3 in text, 20 in JSON)
    #[arg(long, value_name = "N|all", value_parser = places)]
    places: Option<usize>,
    /// What one unit of the model's coordinates is: mm, cm, m or in
    #[arg(long, value_parser = unit)]
    unit: Option<Unit>,
}

fn places(text: &str) -> Result<usize, String> {
    match text {
        "all" => Ok(usize::MAX),
        number => number
            .parse()
            .map_err(|_| format!("'{text}' is no number of places; write 5 or all")),
    }
}

/// Runs `hurmo audit`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let brief = arguments.brief.map_or(Brief::General, Brief::from);
    let shown = arguments
        .places
        .unwrap_or(if arguments.json { 20 } else { 3 });
    let options = audit::Options {
        brief,
        places: shown.saturating_add(1),
    };
    let mut report = AuditReport {
        brief,
        models: Vec::new(),
        unreadable: Vec::new(),
    };
    for path in &arguments.models {
        let loaded = match session.load(path, arguments.unit) {
            Ok(loaded) => loaded,
            Err(error) => {
                session.clear_progress();
                out::error(&error);
                report.unreadable.push(Unreadable {
                    path: path.display().to_string(),
                    error: format!("{:#}", error.root_cause()),
                });
                continue;
            }
        };
        let mut audit = audit::audit(&loaded.model, &options, &session.progress);
        session.clear_progress();
        let passes = audit.passes();
        if !arguments.json {
            let title = format!(
                "{}  ({}, {})",
                path.display(),
                loaded.format.name(),
                out::bytes(loaded.bytes)
            );
            if !report.models.is_empty() {
                out::print("\n");
            }
            let unit = loaded.model.unit;
            out::print(&report::audit_text(&title, &audit, brief, unit, shown));
        }
        for finding in &mut audit.findings {
            finding.places.truncate(shown);
        }
        report.models.push(ModelReport {
            path: path.display().to_string(),
            format: loaded.format.name(),
            audit,
            passes,
        });
    }
    if arguments.json {
        out::print(&report::json(&report));
    }
    Ok(if !report.unreadable.is_empty() {
        Ending::Unusable
    } else {
        report.models.iter().all(|model| model.passes).into()
    })
}
