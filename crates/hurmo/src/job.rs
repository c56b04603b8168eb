//! What every command that turns a model into another has in common: read, judge, work, write,
//! read back, judge again, tell.

use crate::cli::unit;
use crate::report::AuditDocument;
use crate::session::{Output, Session};
use crate::story::{Step, Story};
use crate::{Ending, briefs, out, report};
use anyhow::Result;
use hurmo_core::Model;
use hurmo_core::audit::{self, Audit, Brief};
use hurmo_core::units::Unit;
use hurmo_formats::Format;
use std::path::PathBuf;

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
            },
            unit: self.unit,
            json: self.json,
        })
    }
}

/// A job under way.
pub struct Job<'a> {
    session: &'a Session,
    arguments: &'a JobArguments,
    /// The model as it was read.
    pub model: Model,
    /// What sets the levels.
    pub brief: Brief,
    /// The audit of the model as it was read.
    pub before: AuditDocument,
    /// The same, as it was found.
    pub audit: Audit,
    options: audit::Options,
}

impl<'a> Job<'a> {
    /// Reads and audits the input, after making sure that the output may be written.
    pub fn begin(
        session: &'a Session,
        arguments: &'a JobArguments,
        brief: Option<&str>,
    ) -> Result<Self> {
        session.check_output(&arguments.output, &arguments.input)?;
        let brief = match brief {
            Some(name) => briefs::find(name)?,
            None => Brief::general(),
        };
        let loaded = session.load(&arguments.input, arguments.unit)?;
        let options = audit::Options {
            brief: brief.clone(),
            ..audit::Options::default()
        };
        let audit = audit::audit(&loaded.model, &options, &session.progress);
        let before = AuditDocument::of(&audit, &loaded.model, &loaded.source, false);
        let model = loaded.model;
        Ok(Self {
            session,
            arguments,
            model,
            brief,
            before,
            audit,
            options,
        })
    }

    /// The format that will be written.
    pub fn target_format(&self) -> Format {
        Format::of_name(&self.arguments.output.output).expect("checked when the job began")
    }

    /// How many triangles the model has, its polygons counted as cut up.
    pub fn triangles(&self) -> usize {
        triangle_count(&self.model)
    }

    /// Audits what has become of the model.
    pub fn audit(&self, model: &Model) -> Audit {
        let before = (&self.model, &self.audit);
        audit::audit_again(model, before, &self.options, &self.session.progress)
    }

    /// Writes a model, reads it back and audits what is in the file.
    pub fn write(&self, model: &Model) -> Result<Written> {
        self.session.save(&self.arguments.output, model)?;
        let mut written = self.session.read_back(&self.arguments.output)?;
        // What the unit is was stated once, and holds for the file too.
        written.model.unit = written.model.unit.or(model.unit);
        let audit = self.audit(&written.model);
        Ok(Written {
            passes: audit.passes(),
            audit: AuditDocument::of(&audit, &written.model, &written.source, false),
            model: written.model,
        })
    }

    /// Writes the result and tells the story.
    pub fn finish(&self, model: &Model, steps: Vec<Step>, lost: Vec<String>) -> Result<Ending> {
        let written = self.write(model)?;
        self.tell(written, steps, lost).map(|(ending, _)| ending)
    }

    /// Tells the story of a result that has been written.
    pub fn tell(
        &self,
        written: Written,
        steps: Vec<Step>,
        lost: Vec<String>,
    ) -> Result<(Ending, Story)> {
        let story = Story {
            input: self.arguments.input.display().to_string(),
            output: self.arguments.output.output.display().to_string(),
            brief: self.brief.name.clone(),
            steps,
            lost,
            passes: written.passes,
            before: self.before.clone(),
            after: written.audit,
        };
        self.session.clear_progress();
        out::print(&match self.arguments.json {
            true => report::json(&story),
            false => story.text(),
        });
        Ok((story.passes.into(), story))
    }
}

/// What is in the file that was written.
pub struct Written {
    /// The model, read back.
    pub model: Model,
    /// Its audit.
    pub audit: AuditDocument,
    /// Whether nothing blocks.
    pub passes: bool,
}

/// How many triangles a model has, its polygons counted as cut up.
pub fn triangle_count(model: &Model) -> usize {
    let sides = model.mesh.faces().map(|(_, face)| face.len());
    sides.map(|sides| sides.saturating_sub(2)).sum()
}
