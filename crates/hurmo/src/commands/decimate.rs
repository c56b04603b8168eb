//! `hurmo decimate`: reduces to a budget.

use crate::Ending;
use crate::care::{CareArguments, shares};
use crate::cli::By;
use crate::job::{Job, JobArguments};
use crate::quantity::{Budget, length_in};
use crate::session::Session;
use anyhow::{Result, bail};
use hurmo_core::decimate;
use hurmo_core::units::Length;

/// Arguments of `hurmo decimate`.
#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  \
    hurmo decimate heron.ply -o heron-20k.ply --to 20k\n  \
    hurmo decimate buoy.obj -o buoy-low.obj --to 12.5%\n  \
    hurmo decimate heron.ply -o heron-near.ply --within 0.1%\n  \
    hurmo decimate bollard.obj -o bollard-low.obj --flat\n  \
    hurmo decimate lantern.obj -o lantern-low.obj --to 50% --each part --keep rims")]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    /// At most so many triangles: 5000, 20k, 1.5M or 12.5%
    #[arg(long, value_name = "BUDGET", required_unless_present_any = ["within", "flat"])]
    to: Option<Budget>,
    /// As few triangles as stay within this distance of the model, both ways; with --to, what
    /// comes first
    #[arg(long, value_name = "LENGTH")]
    within: Option<Length>,
    /// Take only what lies flat or straight, within this distance: the shape stays as it is
    #[arg(long, value_name = "LENGTH", num_args = 0..=1, default_missing_value = "0.0001%",
        conflicts_with = "within")]
    flat: Option<Length>,
    /// A budget for each part, group or material, rather than for all together
    #[arg(long, value_name = "WHAT", requires = "to", conflicts_with = "within")]
    each: Option<By>,
    /// Parts that reach less far across may go, where that costs least; without, none ever does
    #[arg(long, value_name = "LENGTH")]
    may_drop_parts_under: Option<Length>,
    #[command(flatten)]
    care: CareArguments,
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: Option<String>,
}

/// Runs `hurmo decimate`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let job = Job::begin(session, &arguments.job, arguments.brief.as_deref())?;
    let length = |name: &str, given: Option<Length>| -> Result<Option<f64>> {
        let Some(length) = given else {
            return Ok(None);
        };
        let length = length_in(length, job.model.unit, job.before.mesh.diagonal)?;
        match length > 0.0 {
            true => Ok(Some(length)),
            false => bail!("{name} takes a length above 0"),
        }
    };
    if arguments.flat.is_some() && arguments.care.evens() {
        bail!("--flat takes only what the shape doesn't need, and leaves no room for --even");
    }
    let whole = match arguments.each {
        Some(_) => None,
        None => arguments.to.map(|to| to.of(job.triangles()).max(1)),
    };
    let shares = arguments
        .each
        .zip(arguments.to)
        .map(|(each, to)| shares(&job.model, each.into(), |triangles| to.of(triangles).max(1)));
    let options = decimate::Options {
        to: whole,
        may_drop_under: length("--may-drop-parts-under", arguments.may_drop_parts_under)?,
        care: arguments.care.of(&job.model)?,
        shares,
        within: length("--within", arguments.within)?,
        flat: length("--flat", arguments.flat)?,
    };
    let (model, step) = crate::pipeline::decimated(&job.model, &options, &session.progress);
    job.finish(&model, vec![step], Vec::new())
}
