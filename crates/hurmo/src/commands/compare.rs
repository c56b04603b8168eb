//! `hurmo compare`: how far two models lie apart, and what else differs.

use crate::arguments::Shared;
use crate::render::Text;
use crate::{Ending, out};
use anyhow::{Result, bail};
use hurmo_core::audit::{self};
use hurmo_core::compare::{self, Comparison};
use hurmo_core::units::{Axis, Length};
use hurmo_core::{Mesh, Model};
use hurmo_pipeline::files::name_of;
use hurmo_pipeline::pictures::DeviationMap;
use hurmo_pipeline::quantity::{axis, length_in};
use hurmo_pipeline::record::{AuditDocument, ComparisonDocument, json};
use hurmo_pipeline::{Workspace, files};
use hurmo_view::{Beside, Scene, Show, View, side_by_side};
use std::path::{Path, PathBuf};

/// Arguments of `hurmo compare`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Distances are measured both ways: what was lost lies far from what is there \
    now, and what was added from what was there.\n\nExamples:\n  \
    hurmo compare heron.ply heron-20k.ply\n  \
    hurmo compare heron.ply heron-20k.ply --at-most 0.1%\n  \
    hurmo compare heron.ply heron-20k.ply --picture apart.png"
)]
pub struct Arguments {
    /// Model file to compare with
    #[arg(value_name = "BEFORE")]
    before: PathBuf,
    /// Model file to be compared
    #[arg(value_name = "AFTER")]
    after: PathBuf,
    /// Exit 1 if they lie further apart than this anywhere, or that can't be proved
    #[arg(long, value_name = "LENGTH")]
    at_most: Option<Length>,
    /// Samples over the area of each, for all but the largest distance
    #[arg(long, value_name = "N", default_value_t = 200_000)]
    samples: usize,
    /// Draw both side by side, and where they lie apart, into this PNG
    #[arg(long, value_name = "PNG")]
    picture: Option<PathBuf>,
    /// Which axis of the models points up in the picture: x, y or z
    #[arg(long, default_value = "z", value_parser = axis)]
    up: Axis,
    /// Overwrite the picture if it is there
    #[arg(long)]
    force: bool,
    #[command(flatten)]
    shared: Shared,
}

/// Runs `hurmo compare`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    workspace.reads(&arguments.before);
    workspace.reads(&arguments.after);
    if let Some(picture) = &arguments.picture {
        workspace.claim_png(picture, arguments.force)?;
    }
    let mut options = audit::AuditOptions::default();
    options.brief = arguments.shared.brief()?;
    let read = |path: &Path| -> Result<(Model, AuditDocument)> {
        let loaded = workspace.load(path, arguments.shared.unit())?;
        let audit = audit::audit(&loaded.model, &options, workspace.observer())?;
        let findings = AuditDocument::of(&audit, &loaded.model, &loaded.source, false);
        Ok((loaded.model, findings))
    };
    let (before, findings_before) = read(&arguments.before)?;
    let (after, findings_after) = read(&arguments.after)?;
    if let (Some(one), Some(two)) = (before.unit, after.unit)
        && one != two
    {
        bail!(
            "one model is in {}, the other in {}: `hurmo convert` changes units",
            one.name(),
            two.name()
        );
    }
    let limit = match arguments.at_most {
        Some(length) => Some(length_in(
            length,
            before.unit,
            findings_before.mesh.diagonal,
        )?),
        None => None,
    };
    let mut compare_options = compare::CompareOptions::default();
    compare_options.samples = arguments.samples;
    compare_options.within = limit;
    let (one, two) = (&before.mesh, &after.mesh);
    let Some(comparison) = compare::compare(one, two, &compare_options, workspace.observer())?
    else {
        bail!("a model without faces lies nowhere, and can't be compared");
    };
    let passes = limit.is_none_or(|limit| comparison.at_most() <= limit);
    if let Some(picture) = &arguments.picture {
        draw(arguments, [one, two], &comparison, picture)?;
    }
    let document = ComparisonDocument {
        files: [&arguments.before, &arguments.after].map(|path| path.display().to_string()),
        comparison,
        limit,
        passes,
        before: findings_before,
        after: findings_after,
    };
    workspace.clear_progress();
    out::print(&match arguments.shared.json() {
        true => json(&document),
        false => document.text(),
    });
    Ok(passes.into())
}

/// Both models with their edges, and the finer one in colours of its distance from the other.
fn draw(
    arguments: &Arguments,
    [before, after]: [&Mesh; 2],
    found: &Comparison,
    output: &Path,
) -> Result<()> {
    let names = [name_of(&arguments.before), name_of(&arguments.after)];
    let map = DeviationMap::new(before, after, |of_first| {
        let way = if of_first {
            &found.from_before
        } else {
            &found.from_after
        };
        Some(way.max.distance)
    });
    let heading = match map.of_first {
        true => format!("{} to {}", names[0], names[1]),
        false => format!("{} to {}", names[1], names[0]),
    };
    let [one, two] = [before, after].map(|mesh| Scene::of(mesh, Show::Wire));
    let [name_one, name_two] = names;
    let plain = |scene, heading| Beside {
        scene,
        heading,
        scale: Vec::new(),
        close_up: None,
    };
    let scenes = [
        plain(&one, name_one),
        plain(&two, name_two),
        Beside {
            scene: &map.scene,
            heading,
            scale: map.scale,
            close_up: None,
        },
    ];
    let [shape_one, shape_two] = &found.shapes;
    let share = |length: f64| format!("{:.3}% of the diagonal", 100.0 * length / found.diagonal);
    let most = found.max().distance;
    let lines = [
        format!(
            "{} and {}",
            out::counted(shape_one.triangles, "triangle"),
            out::counted(shape_two.triangles, "triangle")
        ),
        format!("up to {} apart, {}", out::measure(most), share(most)),
        format!("there at {}", out::position(found.max().at)),
        format!(
            "no more than {} anywhere: proved",
            out::measure(found.at_most())
        ),
        format!(
            "rms {} one way, {} the other",
            out::measure(found.from_before.rms),
            out::measure(found.from_after.rms)
        ),
        String::new(),
        "how far from the other, a mean over each face:".into(),
    ];
    let view = View::THREE_QUARTER.with_up(arguments.up);
    let picture = side_by_side(&scenes, &lines, view, [1280, 800]);
    files::write(output, &picture.png()?)
}
