//! `hurmo cut`: closed pieces by planes, in slabs, or to fit a printer's bed.

mod planes;

use self::planes::{Bed, Every, PlaneArgument, Row, name};
use super::parts::stem;
use crate::arguments::Shared;
use crate::render::Text;
use crate::{Ending, out};
use anyhow::{Context, Result, bail};
use hurmo_core::audit::{self, Audit, Brief};
use hurmo_core::cut::{CutOptions, Pegs, Piece, Pieces, Plane, cut, put_pegs};
use hurmo_core::measure::bounds;
use hurmo_core::parts::{as_objects, only};
use hurmo_core::units::{Axis, Length};
use hurmo_core::{FaceId, Model, mend};
use hurmo_formats::Format;
use hurmo_pipeline::pictures::pieces_apart;
use hurmo_pipeline::quantity::{axis, length_in};
use hurmo_pipeline::record::{CutDocument, PegsRecord, PieceRecord, json};
use hurmo_pipeline::{Output, TextureOptions, Workspace, files, is_single};
use std::path::{Path, PathBuf};

/// Arguments of `hurmo cut`.
#[derive(Debug, clap::Args)]
#[command(
    after_help = "Pieces are closed where they were cut, with flat caps in a group of their own (cut); \
    what no plane meets stays as it is. OUT is a folder for a file a piece, or one file with an object \
    a piece.\n\nExamples:\n  \
    hurmo cut heron-print.3mf -o halves --plane z=6cm\n  \
    hurmo cut heron-print.3mf -o head.3mf --plane 1,0,2@0,0,70 --keep above\n  \
    hurmo cut heron-print.3mf -o slabs --every z=40mm\n  \
    hurmo cut heron-print.3mf -o to-print.3mf --bed 100x100x60mm --pegs 6mm"
)]
pub struct Arguments {
    /// Model file to read
    #[arg(value_name = "IN")]
    input: PathBuf,
    /// A folder for the pieces, or a file for all of them
    #[arg(short, long, value_name = "OUT")]
    output: PathBuf,
    /// Cut by a plane: z=12mm, or a normal and a point as in 0,1,1@0,0,2; may be given again
    #[arg(long, value_name = "PLANE", allow_hyphen_values = true)]
    plane: Vec<PlaneArgument>,
    /// Cut into slabs so thick: 50mm along the longest side, or z=50mm
    #[arg(long, value_name = "[AXIS=]LENGTH", conflicts_with = "plane")]
    every: Option<Every>,
    /// Cut so that every piece fits: 220x220x250mm; where the section is small
    #[arg(long, value_name = "XxYxZ", conflicts_with_all = ["plane", "every"])]
    bed: Option<Bed>,
    /// Put pins so thick on pieces below planes, and holes into those above, where the caps have room
    #[arg(long, value_name = "LENGTH")]
    pegs: Option<Length>,
    /// By how much holes are wider than pins, all round [default: a thirtieth of a pin]
    #[arg(long, value_name = "LENGTH", requires = "pegs")]
    clearance: Option<Length>,
    /// Write only what lies above the planes, or below
    #[arg(long, value_enum, requires = "plane")]
    keep: Option<Keep>,
    /// Overwrite files that are there
    #[arg(long)]
    force: bool,
    /// Write text rather than binary (STL, PLY)
    #[arg(long)]
    ascii: bool,
    /// Draw the pieces, moved apart, into this PNG
    #[arg(long, value_name = "PNG")]
    picture: Option<PathBuf>,
    /// Which axis of the model points up in the picture: x, y or z
    #[arg(long, default_value = "z", value_parser = axis)]
    up: Axis,
    #[command(flatten)]
    shared: Shared,
}

/// Which pieces are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
enum Keep {
    /// Above every plane.
    Above,
    /// Below every plane.
    Below,
}

impl Keep {
    /// Whether a piece lies there; by each row of planes.
    fn holds(self, piece: &Piece, planes: &[Vec<Plane>]) -> bool {
        let mut rows = piece.place.iter().zip(planes);
        rows.all(|(above, row)| match self {
            Keep::Above => *above == row.len(),
            Keep::Below => *above == 0,
        })
    }
}

/// A model that is ready to be cut.
struct Ready {
    model: Model,
    /// Whether coordinates are rounded to single precision, as the files will hold them.
    is_single: bool,
    /// How many faces were turned outward.
    turned: usize,
    /// How many vertices were rounded.
    rounded: usize,
}

/// Runs `hurmo cut`.
pub fn run(arguments: &Arguments, workspace: &Workspace) -> Result<Ending> {
    let to_file = arguments.claim(workspace)?;
    let brief = arguments.shared.brief()?;
    let ready = arguments.ready(workspace, to_file)?;
    let (model, is_single) = (&ready.model, ready.is_single);
    let rows = arguments.rows(model)?;
    if rows.iter().all(|row| row.planes.is_empty()) {
        bail!(
            "{}: it fits as it is; nothing was written",
            arguments.input.display()
        );
    }
    let planes: Vec<Vec<Plane>> = rows.iter().map(|row| row.planes.clone()).collect();
    workspace.observer().begin("cutting", 0);
    let mut options = CutOptions::default();
    options.only_single = is_single;
    let mut made = cut(model, &planes, &options, workspace.observer())?;
    let joined = made.pieces.iter().map(|piece| piece.joined).sum();
    let tidied = made.pieces.iter_mut().map(Piece::tidy).sum();
    let volumes = made.pieces.iter().map(|piece| piece.volume);
    let whole = volumes.sum::<Option<f64>>();
    let pegged = match arguments.pegs(model)? {
        Some(_) if made.open_edges > 0 => {
            bail!("--pegs: the model is open, and has no caps to put them on")
        }
        Some(pegs) => {
            let (pieces, watch) = (&mut made.pieces, workspace.observer());
            Some(put_pegs(pieces, &planes, pegs, is_single, watch)?)
        }
        None => None,
    };
    if let Some(keep) = arguments.keep {
        made.pieces.retain(|piece| keep.holds(piece, &planes));
    }
    if made.pieces.is_empty() {
        bail!("no piece of the model lies there; nothing was written");
    }
    let names: Vec<String> = made.pieces.iter().map(|piece| name(piece, &rows)).collect();
    let written = match to_file {
        true => arguments.write_one(workspace, &made, &names)?,
        false => arguments.write_each(workspace, &made, &names)?,
    };
    let audits = written.audits(&brief, workspace)?;
    let document = CutDocument {
        input: arguments.input.display().to_string(),
        output: arguments.output.display().to_string(),
        brief: brief.name.clone(),
        unit: model.unit,
        planes: rows.iter().flat_map(Row::records).collect(),
        open_edges: made.open_edges,
        turned: ready.turned,
        rounded: ready.rounded,
        joined,
        tidied,
        pegs: pegged.map(|pegged| PegsRecord {
            made: pegged.made,
            without: pegged.without,
        }),
        volume: made.volume,
        pieces: (made.pieces.iter().zip(names.iter().zip(&written.files)))
            .map(|(piece, (name, file))| PieceRecord::of(piece, name, file))
            .collect(),
        volume_of_all: whole,
        passes: audits.iter().all(Audit::passes),
        blocking: audits
            .iter()
            .flat_map(|audit| audit.blocking())
            .map(|finding| format!("{} ({})", finding.check, out::count(finding.count())))
            .collect(),
    };
    arguments.draw(workspace, &document.title(), &names, &made.pieces)?;
    workspace.clear_progress();
    out::print(&match arguments.shared.json() {
        true => json(&document),
        false => document.text(),
    });
    Ok(document.passes.into())
}

/// What is in the files.
struct Written {
    /// The file of each piece.
    files: Vec<PathBuf>,
    /// What is in each file, read back.
    models: Vec<Model>,
}

impl Written {
    /// Audits what was read back.
    fn audits(&self, brief: &Brief, workspace: &Workspace) -> Result<Vec<Audit>> {
        workspace.observer().begin("auditing", 0);
        let mut options = audit::AuditOptions::default();
        options.brief = brief.clone();
        let audits =
            (self.models.iter()).map(|model| audit::audit(model, &options, workspace.observer()));
        Ok(audits.collect::<Result<_, _>>()?)
    }
}

impl Arguments {
    /// Claims what will be written; whether that is one file.
    fn claim(&self, workspace: &Workspace) -> Result<bool> {
        let to_file = Format::of_name(&self.output).is_some();
        if Format::of_name(self.format_of(to_file)).is_none() {
            let unknown = self.format_of(to_file).to_path_buf();
            return Err(hurmo_formats::WriteError::UnknownFormat(unknown).into());
        }
        workspace.reads(&self.input);
        if to_file {
            workspace.claim(&self.output, self.force)?;
        }
        if let Some(picture) = &self.picture {
            workspace.claim_png(picture, self.force)?;
        }
        Ok(to_file)
    }

    /// The file whose format pieces are written in.
    fn format_of(&self, to_file: bool) -> &Path {
        match to_file {
            true => &self.output,
            false => &self.input,
        }
    }

    /// Reads the model, its instances written out and its faces turned outward.
    fn ready(&self, workspace: &Workspace, to_file: bool) -> Result<Ready> {
        let mut model = workspace.load(&self.input, self.shared.unit())?.model;
        hurmo_formats::check_instances(&model)?;
        if model.instances() > 0 {
            model = model.expanded();
        }
        let (mut model, turned) = mend::facing_outward(model);
        // To round what was cut would make it cross anew.
        let is_single = is_single(self.format_of(to_file)) && model.mesh.fits_single();
        let rounded = match is_single {
            true => model.mesh.round_to_single(),
            false => 0,
        };
        Ok(Ready {
            model,
            is_single,
            turned,
            rounded,
        })
    }

    /// Draws the pieces apart, if that is asked for.
    fn draw(
        &self,
        workspace: &Workspace,
        title: &str,
        names: &[String],
        pieces: &[Piece],
    ) -> Result<()> {
        let Some(path) = &self.picture else {
            return Ok(());
        };
        workspace.observer().begin("drawing", 0);
        let named: Vec<(&str, &Piece)> = names.iter().map(String::as_str).zip(pieces).collect();
        let png = pieces_apart(title, &named, self.up).map(|picture| picture.png());
        match png.transpose()? {
            Some(png) => Ok(files::write(path, &png)?),
            None => Ok(()),
        }
    }

    /// The planes that are asked for.
    fn rows(&self, model: &Model) -> Result<Vec<Row>> {
        let bounds = bounds(&model.mesh)
            .with_context(|| format!("{}: there are no faces", self.input.display()))?;
        let lengths = planes::Lengths {
            unit: model.unit,
            bounds,
        };
        if let Some(every) = &self.every {
            return Ok(vec![every.row(&lengths)?]);
        }
        if let Some(bed) = &self.bed {
            let pins = self.pegs(model)?.map_or(0.0, |pegs| pegs.length());
            return bed.rows(model, &lengths, pins);
        }
        if self.plane.is_empty() {
            bail!("say where to cut: --plane z=12mm, --every 50mm or --bed 220x220x250mm");
        }
        self.plane.iter().map(|plane| plane.row(&lengths)).collect()
    }

    /// How pegs are made, if they are asked for.
    fn pegs(&self, model: &Model) -> Result<Option<Pegs>> {
        let Some(diameter) = self.pegs else {
            return Ok(None);
        };
        let diagonal = bounds(&model.mesh).map_or(0.0, |bounds| bounds.diagonal());
        let length = |length: Length| length_in(length, model.unit, diagonal);
        let diameter = length(diameter)?;
        let clearance = match self.clearance {
            Some(clearance) => length(clearance)?,
            None => diameter / 30.0,
        };
        if diameter <= 0.0 {
            bail!("--pegs takes a length above 0");
        }
        Ok(Some(Pegs {
            diameter,
            clearance,
        }))
    }

    fn output(&self, output: PathBuf) -> Output {
        Output {
            output,
            force: self.force,
            ascii: self.ascii,
            textures: TextureOptions::default(),
        }
    }

    /// One file, an object a piece.
    fn write_one(&self, workspace: &Workspace, made: &Pieces, names: &[String]) -> Result<Written> {
        let format = hurmo_formats::Format::of_name(&self.output);
        let holds = format.map(|format| &format.entry().holds);
        if names.len() > 1 && holds.is_some_and(|holds| !holds.tags && !holds.scenes) {
            bail!(
                "{} holds no objects that keep {} apart: name a folder, or another format",
                format.map_or("this", hurmo_formats::Format::name),
                out::counted(names.len(), "piece")
            );
        }
        let pieces = made.pieces.iter().map(|piece| piece.model.clone());
        let together = as_objects(names.iter().cloned().zip(pieces).collect());
        workspace.save(&self.output(self.output.clone()), &together)?;
        let loaded = workspace.read_back(&self.output, &together)?.model;
        // Pieces lie wall to wall: each is judged by itself.
        let object = |name: &String| {
            let tags = &loaded.attributes.tags;
            let of = |face: &FaceId| tags.of(*face).and_then(|tag| tag.object.as_ref());
            let faces = loaded.mesh.face_ids().filter(|face| of(face) == Some(name));
            only(&loaded, &faces.collect::<Vec<_>>())
        };
        let objects: Vec<Model> = names.iter().map(object).collect();
        let is_whole = objects.iter().all(|model| model.mesh.face_count() > 0);
        Ok(Written {
            files: vec![self.output.clone(); names.len()],
            models: if is_whole { objects } else { vec![loaded] },
        })
    }

    /// A folder, a file a piece.
    fn write_each(
        &self,
        workspace: &Workspace,
        made: &Pieces,
        names: &[String],
    ) -> Result<Written> {
        let ending = self.input.extension().unwrap_or_default().to_string_lossy();
        let stem = stem(&self.input);
        let file = |name: &String| self.output.join(format!("{stem}-{name}.{ending}"));
        let files: Vec<PathBuf> = names.iter().map(file).collect();
        workspace.claim_folder(&self.output, &files, self.force)?;
        let mut models = Vec::new();
        for (piece, file) in made.pieces.iter().zip(&files) {
            workspace.save(&self.output(file.clone()), &piece.model)?;
            models.push(workspace.read_back(file, &piece.model)?.model);
        }
        Ok(Written { files, models })
    }
}
