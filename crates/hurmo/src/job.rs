//! What every command that turns a model into another has in common: read, judge, work, write,
//! read back, judge again, tell.

use crate::cli::unit;
use crate::report::AuditDocument;
use crate::session::{Output, Session, TextureOptions};
use crate::steps::{At, Done, Work};
use crate::story::Story;
use crate::{Ending, briefs, out, report};
use anyhow::Result;
use hurmo_core::Model;
use hurmo_core::audit::{self, Audit, Brief, Needs, Survey};
use hurmo_core::progress::Observer;
use hurmo_core::units::Unit;
use hurmo_formats::{Format, Source};
use std::path::{Path, PathBuf};

/// Arguments of such a command.
#[derive(Clone, Debug, clap::Args)]
pub struct JobArguments {
    /// Model file to read
    #[arg(value_name = "IN")]
    pub input: PathBuf,
    /// Where the result goes.
    #[command(flatten)]
    pub output: Output,
    /// What one unit of the model's coordinates is: mm, cm, m or in
    #[arg(long, value_parser = unit)]
    pub unit: Option<Unit>,
    /// Print one JSON document instead of text
    #[arg(long)]
    pub json: bool,
}

/// The same of a command that only tells where no output is named.
#[derive(Clone, Debug, clap::Args)]
pub struct TellOrJobArguments {
    /// Model file to read
    #[arg(value_name = "IN")]
    pub input: PathBuf,
    /// File to write; its ending says the format. Without it, nothing is written
    #[arg(short, long, value_name = "OUT")]
    pub output: Option<PathBuf>,
    /// Overwrite OUT if it is there, and do what would otherwise be refused as unsafe
    #[arg(long)]
    pub force: bool,
    /// Write text rather than binary (STL, PLY)
    #[arg(long)]
    pub ascii: bool,
    /// What one unit of the model's coordinates is: mm, cm, m or in
    #[arg(long, value_parser = unit)]
    pub unit: Option<Unit>,
    /// Print one JSON document instead of text
    #[arg(long)]
    pub json: bool,
}

impl TellOrJobArguments {
    /// The arguments of the job, if there is one to do.
    pub fn job(&self) -> Option<JobArguments> {
        Some(JobArguments {
            input: self.input.clone(),
            output: Output {
                output: self.output.clone()?,
                force: self.force,
                ascii: self.ascii,
                textures: TextureOptions::default(),
            },
            unit: self.unit,
            json: self.json,
        })
    }
}

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
    /// Reads the input of a job, after making sure that its output may be written.
    pub fn of(session: &Session, arguments: &JobArguments, brief: Option<&str>) -> Result<Self> {
        session.reads(&arguments.input);
        session.claim_output(&arguments.output)?;
        let brief = match brief {
            Some(name) => briefs::find(name)?,
            None => Brief::general(),
        };
        let read = Self::read(session, &arguments.input, arguments.unit, brief)?;
        Ok(Self {
            single_precision: arguments.output.is_single(),
            ..read
        })
    }

    /// Reads a model.
    pub fn read(session: &Session, input: &Path, unit: Option<Unit>, brief: Brief) -> Result<Self> {
        let loaded = session.load(input, unit)?;
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
    session: &'a Session,
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
    survey: Option<Survey<'a>>,
    /// The format that it was read from.
    pub format: Format,
    options: audit::Options,
}

impl<'a> Job<'a> {
    /// Audits the input, for whatever steps follow.
    pub fn begin(session: &'a Session, input: &'a Input) -> Self {
        Self {
            survey: None,
            ..Self::surveyed(session, input)
        }
    }

    fn surveyed(session: &'a Session, input: &'a Input) -> Self {
        let options = audit::Options {
            brief: input.brief.clone(),
            ..audit::Options::default()
        };
        session.progress.begin("auditing", 0);
        let mut survey = Survey::of(&input.model);
        let audit = audit::report(&mut survey, &options, &session.progress);
        let before = AuditDocument::of(&audit, &input.model, &input.source, false);
        Self {
            session,
            model: &input.model,
            brief: &input.brief,
            single_precision: input.single_precision,
            before,
            audit,
            survey: Some(survey),
            format: input.source.format,
            options,
        }
    }

    /// The same; what only some steps build on is kept if this one does.
    pub fn begin_for(session: &'a Session, input: &'a Input, work: &Work) -> Self {
        if !work.builds_on_survey() {
            return Self::begin(session, input);
        }
        let mut job = Self::surveyed(session, input);
        if let Some(survey) = &mut job.survey {
            survey.prepare(Needs::Soup, &session.progress);
        }
        job
    }

    /// The same, and for every face whether it meets others, where the brief asks for that.
    pub fn begin_with_contacts(
        session: &'a Session,
        input: &'a Input,
    ) -> (Self, Option<Vec<bool>>) {
        let mut job = Self::surveyed(session, input);
        let survey = job.survey.take();
        let contacts = survey.as_ref().and_then(|survey| survey.contacts());
        let faces = input.model.mesh.face_ids();
        let meets = contacts.map(|contacts| faces.map(|face| contacts.touches(face)).collect());
        (job, meets)
    }

    /// A whole job of one step.
    pub fn run(
        session: &'a Session,
        arguments: &JobArguments,
        brief: Option<&str>,
        work: &Work,
    ) -> Result<Ending> {
        work.check()?;
        let input = Input::of(session, arguments, brief)?;
        let mut job = Job::begin_for(session, &input, work);
        let done = job.apply(work)?;
        job.finish(arguments, &done)
    }

    /// Does a step to the model.
    pub fn apply(&mut self, work: &Work) -> Result<Done> {
        let survey = self.survey.take();
        work.apply(&At {
            model: self.model,
            audit: &self.audit,
            survey: survey.as_ref(),
            original: None,
            brief: self.brief,
            single_precision: self.single_precision,
            observer: &self.session.progress,
        })
    }

    /// Audits what has become of a model that was audited before.
    pub fn audit(&self, model: &Model, before: (&Model, &Audit)) -> Audit {
        audit::audit_again(model, before, &self.options, &self.session.progress)
    }

    /// Writes a model, reads it back and audits what is in the file.
    pub fn write(&self, model: &Model, output: &Output) -> Result<Written> {
        self.session.save(output, model)?;
        let loaded = self.session.read_back(&output.output, model)?;
        let found = self.audit(&loaded.model, (self.model, &self.audit));
        Ok(Written {
            told: AuditDocument::of(&found, &loaded.model, &loaded.source, false),
            audit: found,
            model: loaded.model,
        })
    }

    /// Writes the result and tells the story.
    pub fn finish(&self, arguments: &JobArguments, done: &Done) -> Result<Ending> {
        let input = arguments.input.display().to_string();
        self.finish_as(&input, &arguments.output, arguments.json, done)
    }

    /// The same, of what was read under these names.
    pub fn finish_as(
        &self,
        input: &str,
        output: &Output,
        json: bool,
        done: &Done,
    ) -> Result<Ending> {
        let written = self.write(&done.model, output)?;
        let story = Story {
            input: input.to_string(),
            output: output.output.display().to_string(),
            brief: self.brief.name.clone(),
            steps: done.told.clone(),
            lost: done.lost.clone(),
            missed: done.missed.clone(),
            passes: written.audit.passes() && done.missed.is_empty(),
            before: self.before.clone(),
            after: written.told,
        };
        self.session.clear_progress();
        out::print(&match json {
            true => report::json(&story),
            false => story.text(),
        });
        Ok(story.passes.into())
    }
}

/// What is in the file that was written.
pub struct Written {
    /// The model, read back.
    pub model: Model,
    /// Its audit.
    pub audit: Audit,
    /// The same, in the numbers of the file.
    pub told: AuditDocument,
}

/// How many triangles a model has, its polygons counted as cut up.
pub fn triangle_count(model: &Model) -> usize {
    let sides = model.mesh.faces().map(|(_, face)| face.len());
    sides.map(|sides| sides.saturating_sub(2)).sum()
}
