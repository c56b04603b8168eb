//! `hurmo fill`: lists rims, and closes holes.

use crate::Ending;
use crate::cli::axis;
use crate::job::{Job, TellOrJobArguments};
use crate::quantity::{RimSize, length_in, numbered, point};
use crate::report::rims::RimsDocument;
use crate::session::Session;
use crate::story::Step;
use crate::{out, report};
use anyhow::{Result, bail};
use clap::ValueEnum;
use glam::DVec3;
use hurmo_core::fill::{self, Islands, Options, Surface};
use hurmo_core::units::Axis;
use std::ops::RangeInclusive;

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
    /// Close only these rims: R1, or R1,R3..R5
    #[arg(long, value_name = "RIM,…")]
    rim: Option<String>,
    /// Close only rims on these parts: P1, or P2..
    #[arg(long, value_name = "PART,…")]
    part: Option<String>,
    /// Close only rims of at most this size: a number of edges, or a length
    #[arg(long, value_name = "EDGES|LENGTH")]
    up_to: Option<RimSize>,
    /// Close only the rim nearest to this point
    #[arg(long, value_name = "X,Y,Z", value_parser = point, allow_hyphen_values = true)]
    nearest: Option<DVec3>,
    /// Leave so many of the longest: a bust's base, a sheet's border
    #[arg(long, value_name = "N", default_value_t = 0)]
    leave_longest: usize,
    /// Leave rims in the plane through the origin across this axis: the model is one half of a
    /// mirrored whole
    #[arg(long, value_name = "x|y|z", value_parser = axis)]
    mirror: Option<Axis>,
    /// Join two rims with a band of faces, and close none
    #[arg(long, value_name = "RIM,RIM", conflicts_with_all = [
        "rim", "part", "up_to", "nearest", "leave_longest", "mirror", "trim", "surface", "islands",
    ])]
    bridge: Option<String>,
    /// What becomes of parts that float in a hole; they are left unless this says
    #[arg(long, value_name = "drop|join")]
    islands: Option<IslandsArgument>,
    /// Take so many rows of ragged faces off the border first
    #[arg(long, value_name = "ROWS", default_value_t = 0)]
    trim: usize,
    /// What the new faces are like
    #[arg(long, value_name = "flat|tight|round|grid")]
    surface: Option<Shape>,
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: Option<String>,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum IslandsArgument {
    /// They go, and the hole closes over where they were
    Drop,
    /// The new faces take them in
    Join,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Shape {
    /// The least area, over the rim's own vertices
    Flat,
    /// As dense as the surroundings, and taut
    Tight,
    /// As dense as the surroundings, and curved on as they are
    Round,
    /// Quads across, for rims with an even number of edges
    Grid,
}

/// Runs `hurmo fill`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let rims = ranges(&arguments.rim, 'R')?;
    let parts = ranges(&arguments.part, 'P')?;
    let Some(job) = arguments.job.job() else {
        return list(arguments, session);
    };
    let job = Job::begin(session, &job, arguments.brief.as_deref())?;
    if let Some(pair) = &arguments.bridge {
        return bridge(&job, pair);
    }
    let mesh = &job.before.mesh;
    check_there(&rims, 'R', mesh.rims, "rim")?;
    check_there(&parts, 'P', mesh.parts, "part")?;
    let mut options = Options {
        rims,
        parts,
        nearest: arguments.nearest,
        leave_longest: arguments.leave_longest,
        mirror: arguments.mirror,
        trim: arguments.trim,
        islands: arguments.islands.map(|islands| match islands {
            IslandsArgument::Drop => Islands::Drop,
            IslandsArgument::Join => Islands::Join,
        }),
        surface: arguments.surface.map(|shape| match shape {
            Shape::Flat => Surface::Flat,
            Shape::Tight => Surface::Tight,
            Shape::Round => Surface::Round,
            Shape::Grid => Surface::Grid,
        }),
        ..Options::default()
    };
    match arguments.up_to {
        Some(RimSize::Edges(edges)) => options.up_to_edges = Some(edges),
        Some(RimSize::Length(length)) => {
            let length = length_in(length, job.model.unit, mesh.diagonal)?;
            options.up_to_length = Some(length);
        }
        None => {}
    }
    let outcome = fill::fill(&job.model, &options, &session.progress);
    let step = Step::filled(&job.model, &outcome);
    job.finish(&outcome.model, vec![step], Vec::new())
}

fn bridge(job: &Job<'_>, pair: &str) -> Result<Ending> {
    let rims: Vec<usize> = numbered(pair, 'R')?.into_iter().flatten().take(3).collect();
    let &[one, two] = rims.as_slice() else {
        bail!("--bridge joins two rims, as in --bridge R1,R2");
    };
    let bridged = fill::bridge(&job.model, [one, two])?;
    let step = Step::bridged(&job.model, [one, two], &bridged);
    job.finish(&bridged.model, vec![step], Vec::new())
}

fn ranges(list: &Option<String>, letter: char) -> Result<Vec<RangeInclusive<usize>>> {
    match list {
        Some(list) => numbered(list, letter),
        None => Ok(Vec::new()),
    }
}

fn check_there(
    ranges: &[RangeInclusive<usize>],
    letter: char,
    there: usize,
    noun: &str,
) -> Result<()> {
    if let Some(range) = ranges.iter().find(|range| *range.start() >= there) {
        bail!(
            "there is no {letter}{}: the model has {}",
            range.start() + 1,
            out::counted(there, noun)
        );
    }
    Ok(())
}

fn list(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let loaded = session.load(&arguments.job.input, arguments.job.unit)?;
    let rims = fill::rims_described(&loaded.model.mesh);
    let document = RimsDocument::of(&arguments.job.input, &loaded.model, rims);
    session.clear_progress();
    out::print(&match arguments.job.json {
        true => report::json(&document),
        false => document.text(),
    });
    Ok(Ending::Clear)
}
