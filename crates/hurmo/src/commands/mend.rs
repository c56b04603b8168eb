//! `hurmo mend`: clears faults, by kind.

use crate::Ending;
use crate::job::{Job, TellOrJobArguments};
use crate::quantity::length_in;
use crate::report::Table;
use crate::session::Session;
use crate::story::Step;
use crate::{out, report};
use anyhow::{Result, bail};
use clap::ValueEnum;
use hurmo_core::audit::Brief;
use hurmo_core::mend::{self, MendError, Options, WeldTrial};
use hurmo_core::thicken::thicken;
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
    hurmo mend lantern.obj --try-weld\n  \
    hurmo mend lantern.obj -o welded.obj --near auto --seams-only\n  \
    hurmo mend lantern.obj -o mended.obj --clear interior-faces\n  \
    hurmo mend lantern.obj -o mended.obj --keep duplicate-vertices\n  \
    hurmo mend lantern.obj -o printable.obj --unit m --thicken 2mm\n  \
    hurmo mend bollard.obj -o bollard.stl --triangulate all"
)]
pub struct Arguments {
    #[command(flatten)]
    job: TellOrJobArguments,
    /// Clear only these checks' findings, or 'all' that is cured without dropping surface;
    /// floating-parts, nested-parts and interior-faces go only by name
    #[arg(long, value_name = "CHECK,…", value_delimiter = ',')]
    clear: Vec<String>,
    /// Leave these checks' findings
    #[arg(long, value_name = "CHECK,…", value_delimiter = ',')]
    keep: Vec<String>,
    /// Weld vertices up to this far apart, not only those at one place; 'auto' finds the least
    /// distance that closes all the open edges that a safe weld can close
    #[arg(long, value_name = "LENGTH|auto")]
    near: Option<Near>,
    /// Weld only vertices on open edges, so that fine detail is left alone
    #[arg(long)]
    seams_only: bool,
    /// Show what welds at several distances would do, and do none
    #[arg(long, conflicts_with_all = ["output", "near", "clear", "triangulate", "thicken"])]
    try_weld: bool,
    /// Turn open parts so that the side that is seen is their front, consistent ones too
    #[arg(long)]
    turn_outward: bool,
    /// Cut one-sided parts open along few edges, so that their faces can be made consistent
    #[arg(long)]
    cut_one_sided: bool,
    /// Then give open sheets a wall so thick, behind their fronts
    #[arg(long, value_name = "LENGTH")]
    thicken: Option<Length>,
    /// Cut n-gons, or all polygons, into triangles
    #[arg(long, value_name = "ngons|all", num_args = 0..=1, default_missing_value = "ngons")]
    triangulate: Option<Polygons>,
    /// What the model is handed off to: sculpt, engine, print, or a brief file
    #[arg(long = "for", value_name = "BRIEF")]
    brief: Option<String>,
}

/// How far apart vertices may be that become one.
#[derive(Clone, Copy, Debug)]
enum Near {
    Auto,
    Within(Length),
}

impl std::str::FromStr for Near {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        match text {
            "auto" => Ok(Near::Auto),
            _ => text.parse().map(Near::Within),
        }
    }
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
    if arguments.try_weld {
        return try_weld(arguments, session);
    }
    let clear = cleared(&arguments.clear)?;
    let keep = cleared(&arguments.keep)?;
    check_facing_is_cleared(arguments, &clear, &keep)?;
    let Some(job_arguments) = arguments.job.job() else {
        bail!("name the file to write, with -o");
    };
    let job = Job::begin(session, &job_arguments, arguments.brief.as_deref())?;
    let diagonal = job.before.mesh.diagonal;
    let near = match arguments.near {
        None => None,
        Some(Near::Within(length)) => Some(length_in(length, job.model.unit, diagonal)?),
        Some(Near::Auto) => {
            let mesh = &job.model.mesh;
            let trials = mend::weld_trials(mesh, arguments.seams_only, &session.progress);
            let best = mend::best_weld(&trials);
            session.note(&format!("welding within {}", distance(best, diagonal)));
            Some(best)
        }
    };
    let brief = &job.brief;
    let (clear, keep) = match clear.is_empty() && keep.is_empty() {
        true => asked_for_by(brief),
        false => (clear, keep),
    };
    let options = Options {
        clear,
        keep,
        near: near.or(brief.wants_all_welded().then_some(0.0)),
        sliver_ratio: Some(brief.thresholds.sliver_ratio),
        turn_outward: arguments.turn_outward,
        cut_one_sided: arguments.cut_one_sided,
        seams_only: arguments.seams_only,
        force: arguments.job.force,
        triangulate: arguments.triangulate.map(|polygons| match polygons {
            Polygons::Ngons => Which::Ngons,
            Polygons::All => Which::All,
        }),
        gap: crate::pipeline::GAP * diagonal,
        found_nothing: job.audit.clear().collect(),
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
    let mut steps = vec![Step::mended(&job.model, &outcome)];
    let mut model = outcome.model;
    if let Some(thickness) = arguments.thicken {
        let thickness = length_in(thickness, job.model.unit, diagonal)?;
        if thickness <= 0.0 {
            bail!("--thicken takes a length above 0");
        }
        let thickened = thicken(&model, thickness);
        steps.push(Step::thickened(&model, &thickened));
        model = thickened.model;
    }
    job.finish(&model, steps, Vec::new())
}

/// A distance, and what it is of the diagonal.
fn distance(distance: f64, diagonal: f64) -> String {
    match distance > 0.0 {
        true => format!(
            "{} ({}% of the diagonal)",
            crate::out::measure(distance),
            crate::out::measure(100.0 * distance / diagonal)
        ),
        false => "0: only what is at one place".into(),
    }
}

fn try_weld(arguments: &Arguments, session: &Session) -> Result<Ending> {
    let loaded = session.load(&arguments.job.input, arguments.job.unit)?;
    let mesh = &loaded.model.mesh;
    let diagonal = hurmo_core::measure::bounds(mesh).map_or(0.0, |bounds| bounds.diagonal());
    let trials = mend::weld_trials(mesh, arguments.seams_only, &session.progress);
    let best = mend::best_weld(&trials);
    session.clear_progress();
    out::print(&match arguments.job.json {
        true => report::json(&serde_json::json!({ "trials": trials, "best": best })),
        false => trials_in_words(&trials, best, diagonal),
    });
    Ok(Ending::Clear)
}

fn trials_in_words(trials: &[WeldTrial], best: f64, diagonal: f64) -> String {
    let mut table = Table::new(&[
        ">distance",
        ">of diagonal",
        ">vertices join",
        ">open edges close",
        ">faces collapse",
        ">new non-manifold",
        "",
    ]);
    for trial in trials {
        let share = 100.0 * trial.distance / diagonal.max(f64::MIN_POSITIVE);
        table.row([
            out::measure(trial.distance),
            format!("{}%", out::measure(share)),
            out::count(trial.joined),
            out::count(trial.closed),
            out::count(trial.collapsed),
            out::count(trial.nonmanifold),
            match trial {
                _ if trial.distance == best => "<- --near auto".into(),
                _ if !trial.is_safe() => "spoils".into(),
                _ => String::new(),
            },
        ]);
    }
    let spoils = trials.iter().find(|trial| !trial.is_safe());
    let end = match spoils {
        Some(trial) => format!(
            "the safe range ends below {}",
            distance(trial.distance, diagonal)
        ),
        None => "all of these are safe".into(),
    };
    format!("{}\n  {end}\n", table.text())
}

/// What a brief says to clear, beyond what is safe, and to leave.
fn asked_for_by(brief: &Brief) -> (Vec<String>, Vec<String>) {
    let mending = &brief.mending;
    let mut clear = mending.clear.clone();
    if !clear.is_empty() {
        clear.extend(mend::safe().map(String::from));
    }
    (clear, mending.keep.clone())
}

/// Makes sure that options of the cure for facing are not given where that cure is not done.
fn check_facing_is_cleared(arguments: &Arguments, clear: &[String], keep: &[String]) -> Result<()> {
    const FACING: [&str; 2] = ["misoriented-edges", "reversed-faces"];
    let option = match (arguments.turn_outward, arguments.cut_one_sided) {
        (true, _) => "--turn-outward",
        (_, true) => "--cut-one-sided",
        _ => return Ok(()),
    };
    let among = |list: &[String]| FACING.map(|check| list.iter().any(|name| name == check));
    let named = clear.is_empty() || among(clear).contains(&true);
    if !named || among(keep) == [true, true] {
        bail!(
            "{option} is part of clearing {}, which --clear or --keep leaves out here",
            FACING.join(" and ")
        );
    }
    Ok(())
}

/// The checks to clear, made sure that each has a cure.
fn cleared(names: &[String]) -> Result<Vec<String>> {
    let (all, single): (Vec<&String>, Vec<&String>) = names.iter().partition(|name| *name == "all");
    for name in &single {
        if !mend::curable().any(|check| check == name.as_str()) {
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
    let mut checks: Vec<String> = single.into_iter().cloned().collect();
    if !all.is_empty() {
        let cures = mend::CURES.iter().filter(|cure| !cure.drops);
        checks.extend(
            cures
                .flat_map(|cure| cure.clears)
                .map(|&check| check.into()),
        );
    }
    Ok(checks)
}
