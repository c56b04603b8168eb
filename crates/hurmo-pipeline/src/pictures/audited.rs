//! A file that was written, audited and drawn.

use super::Subject;
use crate::files::{self, name_of};
use crate::record::{AuditDocument, AuditReport, ModelReport};
use crate::workspace::Workspace;
use anyhow::{Context, Result};
use hurmo_core::Model;
use hurmo_core::audit::{self, AuditOptions, Brief};
use hurmo_core::units::Axis;
use hurmo_view::Show;
use std::path::Path;

/// A model that was written, with its audit.
pub struct AuditedFile {
    /// What is in the file.
    pub model: Model,
    /// What `hurmo audit --json` says of it.
    pub report: AuditReport,
}

impl AuditedFile {
    /// Its audit.
    pub fn document(&self) -> &AuditDocument {
        &self.report.models[0].audit
    }
}

/// Audits a file, and draws it with its faults.
pub fn audited_sheet(
    file: &Path,
    picture: &Path,
    brief: &Brief,
    workspace: &Workspace,
) -> Result<AuditedFile> {
    let loaded = hurmo_formats::read(file).with_context(|| file.display().to_string())?;
    let mut options = AuditOptions::default();
    options.brief = brief.clone();
    options.places = usize::MAX;
    let audit = audit::audit(&loaded.model, &options, workspace.observer())?;
    let document = AuditDocument::of(&audit, &loaded.model, &loaded.source, false);
    let subject = Subject {
        name: name_of(file),
        model: &loaded.model,
        looks: Vec::new(),
        audit: &audit,
        document: &document,
        brief: &brief.name,
        up: brief.handoff.up.or(loaded.model.up).unwrap_or(Axis::Z),
        whole: true,
    };
    let sheet = subject.overview(Show::Faults, [1280, 800]);
    files::write(picture, &sheet.png()?)?;
    let report = AuditReport {
        brief: brief.name.clone(),
        models: vec![ModelReport {
            path: name_of(file),
            format: loaded.source.format.name(),
            notes: loaded.notes,
            audit: document,
            passes: audit.passes(),
        }],
        unreadable: Vec::new(),
    };
    Ok(AuditedFile {
        model: loaded.model,
        report,
    })
}
