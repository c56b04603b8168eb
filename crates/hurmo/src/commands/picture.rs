//! `hurmo picture`: draws a model, and its faults.

use crate::arguments::{ForBrief, InUnit};
use crate::{Ending, out};
use anyhow::{Context, Result, bail};
use hurmo_core::Model;
use hurmo_core::audit::{self, AuditOptions, Brief};
use hurmo_core::paint::Look;
use hurmo_core::units::Axis;
use hurmo_pipeline::files::name_of;
use hurmo_pipeline::pictures::{Subject, is_of_uvs};
use hurmo_pipeline::quantity::{axis, uv_set};
use hurmo_pipeline::record::AuditDocument;
use hurmo_pipeline::{Workspace, files};
use hurmo_view::{Frame, Picture, Scene, Show, View};
use std::path::{Path, PathBuf};

/// Arguments of `hurmo picture`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Without --view, a sheet: three quarters, front, right side, and a legend with \
    the counts. With --show faults, a second file OUT-places.png shows the worst places from \
    close by.\n\nExamples:\n  \
    hurmo picture heron.ply -o heron.png\n  \
    hurmo picture buoy.obj -o buoy.png --show through\n  \
    hurmo picture lantern.obj -o lantern-uv.png --show uv\n  \
    hurmo picture lantern.obj -o lantern.png --view 200,30 --show sides --up z"
)]
pub struct Arguments {
    /// Model file to read
    #[arg(value_name = "IN")]
    input: PathBuf,
    /// PNG file to write
    #[arg(short, long, value_name = "OUT")]
    output: PathBuf,
    /// Overwrite OUT if it is there
    #[arg(long)]
    force: bool,
    /// plain, wire, through (buried parts show), faults, parts, density (small faces blue, large
    /// ones orange), sides (backs violet), look (with its textures and colours) or uv (the layout
    /// in its textures)
    #[arg(long, default_value = "faults", value_parser = show)]
    show: Show,
    /// One view instead of a sheet: front, right, back, left, top, bottom, three-quarter, or
    /// degrees round and up, as 30,20
    #[arg(long, value_parser = view, allow_hyphen_values = true)]
    view: Option<View>,
    /// Which axis of the model points up: x, y or z [default: what the format says, or z]
    #[arg(long, value_parser = axis)]
    up: Option<Axis>,
    #[command(flatten)]
    brief: ForBrief,
    /// Which set of UVs to look at, from 1
    #[arg(long, value_name = "N", default_value = "1", value_parser = uv_set)]
    uv_set: usize,
    #[command(flatten)]
    unit: InUnit,
    /// Width and height in pixels
    #[arg(long, value_name = "WxH", default_value = "1280x800", value_parser = size)]
    size: (u32, u32),
}

fn size(text: &str) -> Result<(u32, u32), String> {
    let parse = |side: &str| side.parse::<u32>().ok().filter(|s| (16..=8192).contains(s));
    text.split_once('x')
        .and_then(|(w, h)| Some((parse(w)?, parse(h)?)))
        .ok_or_else(|| format!("'{text}' is no size; write 1280x800, each from 16 to 8192"))
}

fn show(text: &str) -> Result<Show, String> {
    let found = Show::NAMED.iter().find(|(name, _)| *name == text);
    found.map(|(_, show)| *show).ok_or_else(|| {
        let names: Vec<&str> = Show::NAMED.iter().map(|(name, _)| *name).collect();
        format!(
            "'{text}' is no way to show a model; write {}",
            names.join(", ")
        )
    })
}

fn view(text: &str) -> Result<View, String> {
    if let Some((_, view)) = View::NAMED.iter().find(|(name, _)| *name == text) {
        return Ok(*view);
    }
    let angles = text.split_once(',').and_then(|(turn, rise)| {
        let angle = |text: &str| text.trim().parse::<f64>().ok().filter(|a| a.abs() <= 360.0);
        Some((angle(turn)?, angle(rise).filter(|rise| rise.abs() <= 90.0)?))
    });
    angles
        .map(|(turn, rise)| View::new(turn, rise))
        .ok_or_else(|| {
            let names: Vec<&str> = View::NAMED.iter().map(|(name, _)| *name).collect();
            format!(
                "'{text}' is no view; write {}, or degrees as 30,20",
                names.join(", ")
            )
        })
}

/// Runs `hurmo picture`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    workspace.reads(&arguments.input);
    workspace.claim_png(&arguments.output, arguments.force)?;
    let close = places_file(&arguments.output);
    let with_places = arguments.show == Show::Faults && arguments.view.is_none();
    if with_places {
        workspace.claim(&close, arguments.force)?;
    }
    let brief = arguments.brief.find()?;
    let loaded = workspace.load(&arguments.input, arguments.unit.unit)?;
    let model = &loaded.model;
    let up = arguments.up.or(model.up).unwrap_or(Axis::Z);
    let (width, height) = arguments.size;
    if arguments.show == Show::Uv {
        arguments.check_uvs(model)?;
    }
    let needs_audit =
        arguments.view.is_none() || [Show::Faults, Show::Through].contains(&arguments.show);
    let written = match needs_audit {
        false => {
            let scene = scene(model, arguments.show, workspace);
            let view = arguments.view.unwrap_or(View::THREE_QUARTER).with_up(up);
            let picture = hurmo_view::single(&scene, view, [width, height]);
            files::write(&arguments.output, &picture.png()?)?;
            vec![arguments.output.clone()]
        }
        true => {
            let whole = [Show::Faults, Show::Through].contains(&arguments.show);
            let options = arguments.audit_options(brief, whole);
            let audit = audit::audit(model, &options, workspace.observer())?;
            let subject = Subject {
                name: name_of(&arguments.input),
                model,
                looks: looks(model, arguments.show, workspace),
                audit: &audit,
                document: &AuditDocument::of(&audit, model, &loaded.source, false),
                brief: &options.brief.name,
                up,
                whole,
            };
            workspace.observer().begin("drawing", 0);
            match arguments.view {
                Some(view) => {
                    let scene = subject.scene(arguments.show);
                    let view = view.with_up(up);
                    let picture = hurmo_view::single(&scene, view, [width, height]);
                    files::write(&arguments.output, &picture.png()?)?;
                    vec![arguments.output.clone()]
                }
                None => sheets(&subject, arguments.show, &arguments.output, [width, height])?,
            }
        }
    };
    workspace.clear_progress();
    for path in written {
        out::print(&format!("{}\n", path.display()));
    }
    Ok(Ending::Clear)
}

impl Arguments {
    /// Refuses to draw UVs that the model has not, or from a side.
    fn check_uvs(&self, model: &Model) -> Result<()> {
        if self.view.is_some() {
            bail!("--show uv shows the plane of the textures: there is no --view of it");
        }
        let sets = model.attributes.uv_sets().count();
        if sets < self.uv_set {
            let has = match sets {
                0 => "no UVs".to_string(),
                sets => out::counted(sets, "set") + " of UVs",
            };
            bail!("{}: the model has {has}", self.input.display());
        }
        Ok(())
    }

    /// What is looked for; not all where the picture has the counts only.
    fn audit_options(&self, brief: Brief, whole: bool) -> AuditOptions {
        let mut options = AuditOptions::default();
        options.brief = brief;
        options.places = usize::MAX;
        options.uv_set = self.uv_set - 1;
        if !whole {
            // For the counts beside the model, what is found at once will do.
            leave_out_dear_checks(&mut options.brief);
        }
        if self.show == Show::Uv {
            let of_uvs = audit::CHECKS.iter().filter(|check| is_of_uvs(check.name));
            for check in of_uvs {
                let level = options.brief.level(check.name).max(audit::Level::Note);
                options.brief.set_level(check.name, level);
            }
        }
        options
    }
}

/// A model, shown in some way without its faults.
fn scene<'m>(model: &'m Model, show: Show, workspace: &Workspace) -> Scene<'m> {
    match show {
        Show::Look => Scene::look(model, &looks(model, show, workspace)),
        _ => Scene::of(&model.mesh, show),
    }
}

/// The looks of a model's tags, if they are to be shown.
fn looks(model: &Model, show: Show, workspace: &Workspace) -> Vec<Option<Look>> {
    if show != Show::Look {
        return Vec::new();
    }
    let found = hurmo_formats::looks(model);
    found.notes.iter().for_each(|note| workspace.note(note));
    found.of_tags
}

fn leave_out_dear_checks(brief: &mut Brief) {
    let dear = audit::CHECKS
        .iter()
        .filter(|check| check.needs > audit::Needs::Connectivity);
    dear.for_each(|check| brief.set_level(check.name, audit::Level::Off));
}

/// Writes the sheet and, of faults, the close-ups; returns the files.
pub fn sheets(
    subject: &Subject<'_>,
    show: Show,
    output: &Path,
    size: [u32; 2],
) -> Result<Vec<PathBuf>> {
    let sheet = match show {
        Show::Uv => subject.layout(size).context("no face has UVs")?,
        _ => subject.overview(show, size),
    };
    files::write(output, &sheet.png()?)?;
    let mut written = vec![output.to_path_buf()];
    if show == Show::Faults
        && let Some(picture) = subject.closeups(size)
    {
        let close = places_file(output);
        files::write(&close, &picture.png()?)?;
        written.push(close);
    }
    Ok(written)
}

/// The file of the close-ups that go with a picture.
pub fn places_file(output: &Path) -> PathBuf {
    let stem = output.file_stem().unwrap_or_default().to_string_lossy();
    output.with_file_name(format!("{stem}-places.png"))
}

/// Draws several models side by side, `rows` below each other, going down first.
pub fn contact_sheet(models: &[PathBuf], rows: usize, output: &Path) -> Result<()> {
    let columns = models.len().div_ceil(rows);
    let (width, height) = (1280 / columns as u32, 640 / rows as u32);
    let mut picture = Picture::new(width * columns as u32, height * rows as u32);
    for (i, path) in models.iter().enumerate() {
        let model = hurmo_formats::read(path)
            .with_context(|| path.display().to_string())?
            .model;
        let (column, row) = ((i / rows) as u32, (i % rows) as u32);
        let frame = Frame {
            left: column * width,
            top: row * height,
            width,
            height,
        };
        let mut scene = Scene::of(&model.mesh, Show::Sides);
        let mut options = AuditOptions::default();
        options.places = usize::MAX;
        for check in audit::CHECKS {
            options.brief.set_level(check.name, audit::Level::Off);
        }
        for check in ["open-edges", "nonmanifold-edges"] {
            options.brief.set_level(check, audit::Level::Note);
        }
        let audit = audit::audit(&model, &options, &())?;
        scene.mark(&model.mesh, audit.findings.iter());
        let view = View::THREE_QUARTER.with_up(model.up.unwrap_or(Axis::Z));
        hurmo_view::draw_fitting(&mut picture, &scene, view, frame);
    }
    files::write(output, &picture.png()?)
}
