//! `hurmo mend`: clears faults, by kind.

use crate::Ending;
use crate::job::{Job, JobArguments};
use crate::quantity::length_in;
use crate::session::Session;
use crate::story::Step;
use anyhow::{Result, bail};
use clap::ValueEnum;
use hurmo_core::mend::{self, MendError, Options};
use hurmo_core::triangulate::Which;
use hurmo_core::units::Length;

/// Arguments of `hurmo mend`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Without --clear, all that is safe is cleared: what changes no shape and \
    loses nothing.\n\nExamples:\n  \
    hurmo mend lantern.obj -o mended.obj\n  \
    hurmo mend lantern.obj -o mended.obj --clear duplicate-vertices,lamina-faces\n  \
    hurmo mend heron.ply -o welded.ply --near 0.01%\n  \
    hurmo mend lantern.obj -o mended.obj --clear interior-faces\n  \
    hurmo mend bollard.obj -o bollard.stl --triangulate all"
)]
pub struct Arguments {
    #[command(flatten)]
    job: JobArguments,
    /// Clear only these checks' findings, or 'all' that is cured without dropping surface;
    /// floating-parts, nested-parts and interior-faces go only by name
    #[arg(long, value_name = "CHECK,…", value_delimiter = ',')]
    clear: Vec<String>,
    /// Weld vertices up to this far apart, not only those at one place
    #[arg(long, value_name = "LENGTH")]
    near: Option<Length>,
    /// Cut n-gons, or all polygons, into triangles
    #[arg(long, value_name = "ngons|all", num_args = 0..=1, default_missing_value = "ngons")]
    triangulate: Option<Polygons>,
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: Option<String>,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
enum Polygons {
    /// Faces of five or more sides
    Ngons,
    /// All faces of more than three
    All,
}

/// Runs `hurmo mend`.
pub fn run(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let clear = cleared(&arguments.clear)?;
    let job = Job::begin(session, &arguments.job, arguments.brief.as_deref())?;
    let diagonal = job.before.mesh.diagonal;
    let near = arguments
        .near
        .map(|near| length_in(near, job.model.unit, diagonal))
        .transpose()?;
    let gap = match job.target_format().entry().holds.shared_vertices {
        true => 0.0,
        false => crate::pipeline::GAP * diagonal,
    };
    let options = Options {
        clear,
        near,
        force: arguments.job.output.force,
        triangulate: arguments.triangulate.map(|polygons| match polygons {
            Polygons::Ngons => Which::Ngons,
            Polygons::All => Which::All,
        }),
        gap,
    };
    let outcome = match mend::mend(&job.model, &options, &session.progress) {
        Ok(outcome) => outcome,
        Err(MendError::WeldTooFar {
            distance,
            faces,
            safe,
        }) => bail!(
            "a weld at {} would collapse {}; the largest safe distance is {} ({}% of the \
             diagonal). --force welds all the same",
            crate::out::measure(distance),
            crate::out::counted(faces, "face"),
            crate::out::measure(safe),
            crate::out::measure(100.0 * safe / diagonal),
        ),
    };
    let step = Step::mended(&job.model, &outcome);
    job.finish(&outcome.model, vec![step], Vec::new())
}

/// The checks to clear, made sure that each has a cure.
fn cleared(names: &[String]) -> Result<Vec<String>> {
    if names.iter().any(|name| name == "all") {
        let cures = mend::CURES.iter().filter(|cure| !cure.drops);
        let checks = cures.flat_map(|cure| cure.clears);
        return Ok(checks.map(|check| check.to_string()).collect());
    }
    for name in names {
        if !mend::curable().any(|check| check == name) {
            let curable: Vec<_> = mend::curable().collect();
            let exists = hurmo_core::audit::named(name).is_some();
            let why = if exists {
                "has no cure in mend"
            } else {
                "is no check"
            };
            bail!("'{name}' {why}; these have one: {}", curable.join(", "));
        }
    }
    Ok(names.to_vec())
}
