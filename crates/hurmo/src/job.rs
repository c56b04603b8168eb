//! What every command of one operation has in common: its arguments, and what it prints.

use crate::arguments::Shared;
use crate::{Ending, out, render};
use anyhow::Result;
use hurmo_pipeline::operation::{Operation, Outcome};
use hurmo_pipeline::record::{self, JobReport};
use hurmo_pipeline::runner::{Input, Job};
use hurmo_pipeline::{Output, TextureOptions, Workspace};
use std::path::PathBuf;

/// Arguments of a command of one operation.
#[derive(Clone, Debug, clap::Args)]
pub struct JobArguments {
    /// Model file to read
    #[arg(value_name = "IN")]
    pub input: PathBuf,
    /// Where the result goes.
    #[command(flatten)]
    pub output: Output,
    /// The brief, and the form of the report.
    #[command(flatten)]
    pub shared: Shared,
}

/// The same for a command that only reports where no output is named.
#[derive(Clone, Debug, clap::Args)]
pub struct TellOrJobArguments {
    /// Model file to read
    #[arg(value_name = "IN")]
    pub input: PathBuf,
    /// File to write; its ending says the format. Without it, nothing is written
    #[arg(short, long, value_name = "OUT")]
    pub output: Option<PathBuf>,
    /// Overwrite OUT, and do what would be refused as unsafe
    #[arg(long)]
    pub force: bool,
    /// Write text rather than binary (STL, PLY)
    #[arg(long)]
    pub ascii: bool,
    /// The brief, and the form of the report.
    #[command(flatten)]
    pub shared: Shared,
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
            shared: self.shared.clone(),
        })
    }
}

/// Reads the input of a job, after making sure that its output may be written.
pub fn read(workspace: &Workspace, arguments: &JobArguments) -> Result<Input> {
    workspace.reads(&arguments.input);
    workspace.claim_output(&arguments.output)?;
    let brief = arguments.shared.brief()?;
    let mut read = Input::read(workspace, &arguments.input, arguments.shared.unit(), brief)?;
    read.single_precision = arguments.output.is_single();
    Ok(read)
}

/// The same for an operation that may write levels beside its output.
pub fn read_for(
    workspace: &Workspace,
    arguments: &JobArguments,
    work: &Operation,
) -> Result<Input> {
    workspace.reads(&arguments.input);
    Job::claim_levels(workspace, work, &arguments.output)?;
    read(workspace, arguments)
}

/// Does a whole job of one operation.
pub fn run(workspace: &Workspace, arguments: &JobArguments, work: &Operation) -> Result<Ending> {
    work.check()?;
    let input = read_for(workspace, arguments, work)?;
    let mut job = Job::begin_for(workspace, &input, work)?;
    let done = job.apply(work)?;
    finish(workspace, &job, arguments, &done)
}

/// Writes the result of a job, and reports it.
pub fn finish(
    workspace: &Workspace,
    job: &Job<'_>,
    arguments: &JobArguments,
    done: &Outcome,
) -> Result<Ending> {
    let input = arguments.input.display().to_string();
    let report = job.finish(&input, &arguments.output, done)?;
    Ok(print(workspace, &report, arguments.shared.json()))
}

/// Prints the report of a job.
pub fn print(workspace: &Workspace, report: &JobReport, json: bool) -> Ending {
    workspace.clear_progress();
    out::print(&match json {
        true => record::json(report),
        false => render::job_text(report),
    });
    report.passes.into()
}
