//! What every command that turns a model into another has in common: read, audit, operate, write,
//! read back, audit again, report.

use crate::operation::{Context, Operation, Outcome};
use crate::output::Output;
use crate::record::{AuditDocument, JobReport, LevelReport};
use crate::workspace::Workspace;
use anyhow::Result;
use hurmo_core::Model;
use hurmo_core::audit::{self, Audit, Brief, MeshAnalysis, SortedAnalysis};
use hurmo_core::progress::Cancelled;
use hurmo_core::units::Unit;
use hurmo_formats::{Format, Source};
use std::path::Path;

/// A model that was read, and what it is for.
pub struct Input {
    /// The model.
    pub model: Model,
    /// What sets the levels.
    pub brief: Brief,
    /// Whether what is made of it goes to a file that holds single precision only.
    pub single_precision: bool,
    source: Source,
}

impl Input {
    /// Reads a model.
    pub fn read(
        workspace: &Workspace,
        input: &Path,
        unit: Option<Unit>,
        brief: Brief,
    ) -> Result<Self> {
        let loaded = workspace.load(input, unit)?;
        Ok(Self {
            model: loaded.model,
            brief,
            single_precision: false,
            source: loaded.source,
        })
    }

    /// A model that was made of what was read.
    pub fn made(model: Model, brief: Brief, source: Source) -> Self {
        Self {
            model,
            brief,
            single_precision: false,
            source,
        }
    }
}

/// A job under way.
pub struct Job<'a> {
    workspace: &'a Workspace,
    /// The model as it was read.
    pub model: &'a Model,
    /// What sets the levels.
    pub brief: &'a Brief,
    /// Whether what is made of it goes to a file that holds single precision only.
    pub single_precision: bool,
    /// The audit of the model as it was read.
    pub before: AuditDocument,
    /// The same, as it was found.
    pub audit: Audit,
    /// What it was worked out from, where a step builds on that.
    analysis: Option<SortedAnalysis<'a>>,
    /// The format that it was read from.
    pub format: Format,
    options: audit::AuditOptions,
}

impl<'a> Job<'a> {
    /// Audits the input, for whatever steps follow.
    ///
    /// # Errors
    /// When the workspace's observer says to stop.
    pub fn begin(workspace: &'a Workspace, input: &'a Input) -> Result<Self, Cancelled> {
        Self::analysed(workspace, input).map(|(job, _)| job)
    }

    fn analysed(
        workspace: &'a Workspace,
        input: &'a Input,
    ) -> Result<(Self, MeshAnalysis<'a>), Cancelled> {
        let mut options = audit::AuditOptions::default();
        options.brief = input.brief.clone();
        workspace.observer().begin("auditing", 0);
        let mut analysis = MeshAnalysis::of(&input.model);
        let audit = audit::report(&mut analysis, &options, workspace.observer())?;
        let before = AuditDocument::of(&audit, &input.model, &input.source, false);
        let job = Self {
            workspace,
            model: &input.model,
            brief: &input.brief,
            single_precision: input.single_precision,
            before,
            audit,
            analysis: None,
            format: input.source.format,
            options,
        };
        Ok((job, analysis))
    }

    /// The same; what only some steps build on is kept if this one does.
    ///
    /// # Errors
    /// When the workspace's observer says to stop.
    pub fn begin_for(
        workspace: &'a Workspace,
        input: &'a Input,
        work: &Operation,
    ) -> Result<Self, Cancelled> {
        let (mut job, analysis) = Self::analysed(workspace, input)?;
        if work.builds_on_analysis() {
            job.analysis = Some(analysis.into_sorted(workspace.observer()));
        }
        Ok(job)
    }

    /// The same, and for every face whether it meets others, where the brief asks for that.
    pub fn begin_with_contacts(
        workspace: &'a Workspace,
        input: &'a Input,
    ) -> Result<(Self, Option<Vec<bool>>), Cancelled> {
        let (job, analysis) = Self::analysed(workspace, input)?;
        Ok((job, analysis.meeting().map(|meeting| meeting.faces)))
    }

    /// Does a step to the model.
    pub fn apply(&mut self, work: &Operation) -> Result<Outcome> {
        let analysis = self.analysis.take();
        work.apply(&Context {
            model: self.model,
            audit: &self.audit,
            analysis: analysis.as_ref(),
            original: None,
            brief: self.brief,
            single_precision: self.single_precision,
            observer: self.workspace.observer(),
        })
    }

    /// Audits what has become of a model that was audited before.
    ///
    /// # Errors
    /// When the workspace's observer says to stop.
    pub fn audit(&self, model: &Model, before: (&Model, &Audit)) -> Result<Audit, Cancelled> {
        audit::audit_again(model, before, &self.options, self.workspace.observer())
    }

    /// Audits what a step has made of a model that was audited before, or what has been read back of it.
    ///
    /// # Errors
    /// When the workspace's observer says to stop.
    pub fn audit_done(
        &self,
        model: &Model,
        done: &Outcome,
        before: (&Model, &Audit),
    ) -> Result<Audit, Cancelled> {
        match done.faces_apart {
            true => {
                let observer = self.workspace.observer();
                audit::audit_known(model, &done.model.mesh, &self.options, observer)
            }
            false => self.audit(model, before),
        }
    }

    /// Writes a model, reads it back and audits what is in the file.
    ///
    /// # Errors
    /// When it can't be written or read back.
    pub fn write(&self, model: &Model, output: &Output) -> Result<Written> {
        self.written(model, output, |read| {
            self.audit(read, (self.model, &self.audit))
        })
    }

    fn written(
        &self,
        model: &Model,
        output: &Output,
        audit: impl FnOnce(&Model) -> Result<Audit, Cancelled>,
    ) -> Result<Written> {
        self.workspace.save(output, model)?;
        let loaded = self.workspace.read_back(&output.output, model)?;
        let found = audit(&loaded.model)?;
        Ok(Written {
            document: AuditDocument::of(&found, &loaded.model, &loaded.source, false),
            audit: found,
            model: loaded.model,
        })
    }

    /// Writes the result of a step, and reports the job; `input` names what was read.
    ///
    /// # Errors
    /// When it can't be written or read back.
    pub fn finish(&self, input: &str, output: &Output, done: &Outcome) -> Result<JobReport> {
        let written = self.written(&done.model, output, |read| {
            self.audit_done(read, done, (self.model, &self.audit))
        })?;
        let levels = self.write_levels(output, done)?;
        let blocks = levels.iter().any(|level| !level.blocks.is_empty());
        Ok(JobReport {
            input: input.to_string(),
            output: output.output.display().to_string(),
            brief: self.brief.name.clone(),
            steps: done.reports.clone(),
            lost: done.lost.clone(),
            missed: done.missed.clone(),
            passes: written.audit.passes() && done.missed.is_empty() && !blocks,
            levels,
            before: self.before.clone(),
            after: written.document,
        })
    }
}

impl Job<'_> {
    /// Claims the files of the levels that a step makes.
    ///
    /// # Errors
    /// When one can't be written, or is claimed already.
    pub fn claim_levels(workspace: &Workspace, work: &Operation, output: &Output) -> Result<()> {
        (1..=work.levels()).try_for_each(|level| workspace.claim_output(&output.of_level(level)))
    }

    /// Writes the levels that a step has made, each to a file of its own beside the output.
    fn write_levels(&self, output: &Output, done: &Outcome) -> Result<Vec<LevelReport>> {
        let reference = match done.levels.is_empty() {
            true => None,
            false => LevelReport::reference(&self.model.mesh),
        };
        let mut reports = Vec::new();
        for (made, level) in done.levels.iter().zip(1..) {
            let output = output.of_level(level);
            let written = self.write(&made.model, &output)?;
            let own = (&written.model.mesh, &written.document);
            let name = output.output.display().to_string();
            let report = reference
                .as_ref()
                .and_then(|reference| LevelReport::of(level, made, name, reference, own));
            reports.extend(report);
        }
        Ok(reports)
    }
}

/// What is in the file that was written.
pub struct Written {
    /// The model, read back.
    pub model: Model,
    /// Its audit.
    pub audit: Audit,
    /// The same, in the numbers of the file.
    pub document: AuditDocument,
}
