//! `hurmo mend`: clears faults, by kind.

use crate::job::{self, TellOrJobArguments};
use crate::render::Table;
use crate::{Ending, out};
use anyhow::{Result, bail};
use hurmo_core::mend::{self, WeldTrial};
use hurmo_pipeline::Workspace;
use hurmo_pipeline::operation::Operation;
use hurmo_pipeline::operation::mend::{Mend, Options, distance};
use hurmo_pipeline::record::json;

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
    hurmo mend heron.ply -o mended.ply --repatch 0.2,0,0.9,0.1\n  \
    hurmo mend lantern.obj -o printable.obj --unit m --thicken 2mm\n  \
    hurmo mend bollard.obj -o bollard.stl --triangulate all"
)]
pub struct Arguments {
    #[command(flatten)]
    job: TellOrJobArguments,
    #[command(flatten)]
    options: Options,
    /// Show what a weld would do at several distances; write nothing
    #[arg(long, conflicts_with_all = ["output", "near", "clear", "triangulate", "thicken", "repatch"])]
    try_weld: bool,
}

/// Runs `hurmo mend`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    if arguments.try_weld {
        return try_weld(arguments, workspace);
    }
    let work = Operation::Mend(Mend {
        options: arguments.options.clone(),
        force: arguments.job.force,
    });
    work.check()?;
    let Some(job) = arguments.job.job() else {
        bail!("name the file to write, with -o");
    };
    job::run(workspace, &job, &work)
}

fn try_weld(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let loaded = workspace.load(&arguments.job.input, arguments.job.shared.unit())?;
    let mesh = &loaded.model.mesh;
    let diagonal = hurmo_core::measure::bounds(mesh).map_or(0.0, |bounds| bounds.diagonal());
    let trials = mend::weld_trials(mesh, arguments.options.seams_only, workspace.observer());
    let best = mend::best_weld(&trials);
    workspace.clear_progress();
    out::print(&match arguments.job.shared.json() {
        true => json(&serde_json::json!({ "trials": trials, "best": best })),
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
