//! `hurmo fill`: lists rims, and closes holes.

use crate::job::{self, TellOrJobArguments};
use crate::render::Text;
use crate::{Ending, out};
use anyhow::Result;
use hurmo_core::fill;
use hurmo_pipeline::Workspace;
use hurmo_pipeline::operation::Operation;
use hurmo_pipeline::operation::fill::Options;
use hurmo_pipeline::record::{RimsDocument, json};

/// Arguments of `hurmo fill`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Rims are named as in the audit: R1 is the longest. Without -o they are listed. \
    Of all that is said, rims must meet every condition; without one, every rim is closed that is \
    no seam. Flat rims are filled flat, others round, unless --surface says.\n\nExamples:\n  \
    hurmo fill heron.ply\n  \
    hurmo fill heron.ply -o closed.ply\n  \
    hurmo fill heron.ply -o closed.ply --up-to 40 --surface tight\n  \
    hurmo fill lantern.obj -o closed.obj --rim R1,R3..R5\n  \
    hurmo fill lantern.obj -o closed.obj --unit cm --up-to 12mm\n  \
    hurmo fill heron.ply -o closed.ply --trim 1\n  \
    hurmo fill pipes.obj -o pipe.obj --bridge R1,R2\n  \
    hurmo fill scan.ply -o closed.ply --islands drop\n  \
    hurmo fill bust.stl -o bust-closed.stl --leave-longest 1"
)]
pub struct Arguments {
    #[command(flatten)]
    job: TellOrJobArguments,
    #[command(flatten)]
    options: Options,
}

/// Runs `hurmo fill`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let work = Operation::Fill(arguments.options.clone());
    match arguments.job.job() {
        Some(job) => job::run(workspace, &job, &work),
        None => {
            work.check()?;
            list(arguments, workspace)
        }
    }
}

fn list(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let loaded = workspace.load(&arguments.job.input, arguments.job.shared.unit())?;
    let rims = fill::rims_described(&loaded.model.mesh);
    let document = RimsDocument::of(&arguments.job.input, &loaded.model, rims);
    workspace.clear_progress();
    out::print(&match arguments.job.shared.json() {
        true => json(&document),
        false => document.text(),
    });
    Ok(Ending::Clear)
}
