//! Solids against each other: joined, taken away from each other, taken apart where they cross.

mod models;
mod seams;

pub use models::{ModelName, Placement};

use super::filled::Filled;
use super::{At, Done};
use crate::report::boolean::{BooleanRecord, Solved};
use crate::report::cut::TIDIED;
use crate::story::Step;
use anyhow::{Context, Result, bail};
use hurmo_core::boolean::{self, BooleanError, Lidded, Operation, Outcome, Solids, Told, Windings};
use hurmo_core::parts::{By, as_objects, joined, pieces};
use hurmo_core::progress::Observer;
use hurmo_core::{FaceId, Model};
use hurmo_core::{measure, mend};
use seams::Seams;
use std::borrow::Cow;

/// An open surface that encloses less than this share of what a surface as large could is a sheet.
const NOTHING: f64 = 1e-6;

/// What is made of several solids.
#[derive(Clone, Copy, Debug, PartialEq, Eq, clap::ValueEnum)]
pub enum Kind {
    /// What lies in any of them
    Union,
    /// The first without all others
    Difference,
    /// What lies in all of them
    Intersection,
    /// Each place by the solids that it lies in: pieces that fill the same together and don't cross
    Pieces,
}

impl Kind {
    /// Its name on the command line.
    pub fn name(self) -> &'static str {
        match self {
            Self::Union => "union",
            Self::Difference => "difference",
            Self::Intersection => "intersection",
            Self::Pieces => "pieces",
        }
    }
}

/// How solids are combined.
#[derive(Clone, Debug, clap::Args)]
pub struct Options {
    /// What is made of the solids
    #[arg(
        long = "as",
        value_enum,
        value_name = "union|difference|intersection|pieces"
    )]
    pub kind: Kind,
    /// What counts as inside of a model, by how often its surface winds round a place
    #[arg(long, value_enum, default_value_t = Filled::Positive)]
    pub fill: Filled,
    /// What is done along cut lines.
    #[command(flatten)]
    pub seams: Seams,
    /// Where models are put.
    #[command(flatten)]
    pub placement: Placement,
}

impl Options {
    /// Makes sure that the options go together, and that there are the models that are spoken of.
    pub fn check(&self, models: usize) -> Result<()> {
        if self.kind == Kind::Pieces && self.seams.is_asked_for() {
            bail!(
                "--even-along, --blend and --crease soften are for one solid: pieces keep their walls in \
                 common as they are cut"
            );
        }
        self.placement.check(models)
    }
}

/// A boolean as a step of a brief: the model is the first, the others are files.
#[derive(Clone, Debug, clap::Args)]
pub struct Boolean {
    /// The other models: files, or FILE#P2, FILE#group:NAME; without any, the model's own parts
    #[arg(long = "with", value_name = "MODEL,…", value_delimiter = ',')]
    with: Vec<ModelName>,
    /// How.
    #[command(flatten)]
    options: Options,
}

impl Boolean {
    /// Makes sure that there are the models that are spoken of.
    pub fn check(&self) -> Result<()> {
        self.options.check(1 + self.with.len())
    }

    /// Combines the model with the others.
    pub fn apply(&self, at: &At<'_>) -> Result<Done> {
        let mut models = vec![("model".to_string(), at.model.clone())];
        for name in &self.with {
            let loaded =
                hurmo_formats::read(&name.file).with_context(|| name.file.display().to_string())?;
            models.push((name.short(), name.chosen(loaded.model)?));
        }
        let assembly = Assembly::of(models, &self.options.placement)?;
        Ok(assembly.solve(&self.options, None, at.observer)?.done)
    }
}

/// What came of a combination.
pub struct Combination {
    /// The model, and what is told of it.
    pub done: Done,
    /// Which of the solids each of its faces comes from, where that is known.
    pub of_face: Option<Vec<u32>>,
}

/// Solids in one model.
pub struct Assembly {
    /// All of them.
    pub model: Model,
    /// What they are called.
    pub names: Vec<String>,
    /// Which of them each face bounds.
    pub of_face: Vec<u32>,
    /// What is to be said of how they were put together.
    notes: Vec<String>,
}

impl Assembly {
    /// Puts models together; of a single one, its parts are the solids.
    pub fn of(models: Vec<(String, Model)>, placement: &Placement) -> Result<Self> {
        let mut placed = Vec::with_capacity(models.len());
        let mut notes = Vec::new();
        for (number, (name, mut model)) in models.into_iter().enumerate() {
            hurmo_formats::check_instances(&model).with_context(|| name.clone())?;
            if model.instances() > 0 {
                model = model.expanded();
            }
            if model.mesh.face_count() == 0 {
                bail!("{name}: there are no faces");
            }
            placement.place(&mut model, number)?;
            let (model, turned) = mend::facing_outward(model);
            if turned > 0 {
                let faces = crate::out::counted(turned, "face");
                notes.push(format!("{name}: {faces} turned outward first"));
            }
            placed.push((name, model));
        }
        if let [(_, model)] = &mut placed[..] {
            return Self::of_parts(std::mem::take(model), notes);
        }
        let list: Vec<(String, &Model)> =
            placed.iter().map(|(name, m)| (name.clone(), m)).collect();
        let all = joined(&list);
        let of_face = (0..)
            .zip(&placed)
            .flat_map(|(solid, (_, model))| std::iter::repeat_n(solid, model.mesh.face_count()))
            .collect();
        if all.scaled > 0 {
            let unit = all.model.unit.map_or("one unit", |unit| unit.name());
            notes.push(format!(
                "{} scaled to {unit}",
                crate::out::counted(all.scaled, "model")
            ));
        }
        if let (Some(unit), true) = (all.model.unit, all.without_unit > 0) {
            let models = crate::out::counted(all.without_unit, "model");
            notes.push(format!(
                "{models} of no known unit taken as in {}",
                unit.name()
            ));
        }
        Ok(Self {
            model: all.model,
            names: distinct(placed.into_iter().map(|(name, _)| name)),
            of_face,
            notes,
        })
    }

    fn of_parts(model: Model, notes: Vec<String>) -> Result<Self> {
        let solids = boolean::solid_of_parts(&model);
        let mut number = vec![0; solids.len()];
        let mut names = Vec::new();
        for (part, _) in (solids.iter().enumerate()).filter(|(part, solid)| solid.index() == *part)
        {
            number[part] = names.len() as u32;
            names.push(format!("P{}", part + 1));
        }
        let mut of_face = vec![0; model.mesh.face_count()];
        for (part, piece) in pieces(&model, By::Part).into_iter().enumerate() {
            for face in piece.faces {
                of_face[face.index()] = number[solids[part].index()];
            }
        }
        if names.len() < 2 {
            bail!(
                "there is one solid: name a second model, or clear what it has crossing itself with \
                 hurmo mend --also intersecting-faces"
            );
        }
        Ok(Self {
            model,
            names,
            of_face,
            notes,
        })
    }

    /// Combines them. `meets`: for every face, whether it meets others, where that is known.
    pub fn solve(
        &self,
        options: &Options,
        meets: Option<&[bool]>,
        observer: &dyn Observer,
    ) -> Result<Combination> {
        let closed = self.cut(&self.model, (&self.of_face, meets), options, observer);
        let (lidded, (told, made)) = match closed {
            Ok(solved) => (None, solved),
            Err(BooleanError::Open { .. }) => {
                let lidded = Lidded::of(&self.model, &self.of_face, self.names.len());
                let lidded = lidded.context("something is open")?;
                let solved = self.cut(&lidded.model, (&lidded.solids, None), options, observer)?;
                self.check_encloses(&lidded, &solved.0)?;
                (Some(lidded), solved)
            }
        };
        // What was made is closed, with lids: that is what it fills.
        let volume = made
            .iter()
            .map(|made| measure::volume(&made.model.mesh))
            .sum();
        let outcomes = match &lidded {
            Some(lidded) => made.iter().map(|made| lidded.without_lids(made)).collect(),
            None => made,
        };
        let model = match options.kind {
            Kind::Pieces => Cow::Owned(self.together(&told, &outcomes)),
            _ => Cow::Borrowed(&outcomes[0].model),
        };
        if model.mesh.face_count() == 0 {
            bail!("{}", self.why_empty(options.kind, &told));
        }
        let sources = outcomes.iter().flat_map(|outcome| &outcome.sources);
        let mut of_face: Vec<u32> = sources
            .map(|source| self.of_face[source.face.index()])
            .collect();
        let mut record = BooleanRecord::of(
            &Solved {
                kind: options.kind,
                names: &self.names,
                of_face: &self.of_face,
                told: &told,
                outcomes: &outcomes,
                open: lidded.as_ref().map(|lidded| &lidded.open[..]),
            },
            volume,
        );
        let model = match options.seams.is_asked_for() {
            true => {
                let seams = &options.seams;
                let made = seams.apply(&self.model, &self.of_face, &outcomes[0], observer)?;
                record.seams = Some(made.record);
                of_face = made.solids;
                Cow::Owned(made.model)
            }
            false => model,
        };
        let made = model;
        let (model, tidied) = mend::tidied_after_cuts(&made);
        if lidded.is_some() {
            record.seams_at_rims = boolean::seams_at_rims(&made, &of_face, &model)
                .into_iter()
                .map(|place| place.to_array())
                .collect();
        }
        let mut step = Step::solved(record);
        if tidied > 0 {
            let changes = crate::out::counted(tidied, "change");
            step.did.push(format!("{changes} to clear {TIDIED}"));
        }
        step.left.extend(self.notes.iter().cloned());
        if options.kind == Kind::Pieces && outcomes.len() > 1 {
            let walls = "pieces that lie wall to wall have faces on each other there";
            step.left.push(walls.into());
        }
        Ok(Combination {
            // Faces have other numbers where some were cleared.
            of_face: (tidied == 0).then_some(of_face),
            done: Done::new(model, vec![step]),
        })
    }

    /// What solids are to each other, and what is made of them: one model, or one for each cell.
    fn cut(
        &self,
        model: &Model,
        (of_face, may_meet): (&[u32], Option<&[bool]>),
        options: &Options,
        observer: &dyn Observer,
    ) -> Result<(Told, Vec<Outcome>), BooleanError> {
        let filled: boolean::Filled = options.fill.into();
        let operation = match options.kind {
            Kind::Union | Kind::Pieces => Operation::Union,
            Kind::Difference => Operation::Difference,
            Kind::Intersection => Operation::Intersection,
        };
        let count = self.names.len();
        let inside = |windings: &Windings| operation.holds(windings, filled, count);
        let solids = Solids {
            count,
            of: &|face: FaceId| Some(of_face[face.index()] as usize),
            group: Solids::ONE_GROUP,
            may_meet,
            inside: &inside,
            tell: Some(filled),
            sheet: None,
        };
        match options.kind {
            Kind::Pieces => boolean::pieces(model, &solids, filled, observer),
            _ => boolean::resolve(model, &solids, observer).map(|mut made| {
                let told = made.told.take().unwrap_or_default();
                (told, vec![made])
            }),
        }
    }

    /// Refuses open solids that enclose nothing: sheets.
    fn check_encloses(&self, lidded: &Lidded, told: &Told) -> Result<()> {
        let mut areas = vec![0.0; self.names.len()];
        for face in self.model.mesh.face_ids() {
            let area = measure::vector_area(&self.model.mesh, face).length();
            areas[self.of_face[face.index()] as usize] += area;
        }
        let volumes = told.volumes();
        let is_sheet = |&solid: &usize| {
            let most = f64::powf(areas[solid], 1.5);
            lidded.open[solid] > 0 && volumes[solid].abs() <= NOTHING * most
        };
        let sheets: Vec<&str> = (0..self.names.len())
            .filter(is_sheet)
            .map(|solid| &self.names[solid][..])
            .collect();
        match sheets.is_empty() {
            true => Ok(()),
            false => bail!(
                "{}: the surface does not close, and encloses nothing: close it first, by hurmo mend, then \
                 hurmo fill; give a sheet walls by hurmo mend --thicken; or else hurmo remesh --into solid",
                sheets.join(", ")
            ),
        }
    }

    /// Why nothing is left.
    fn why_empty(&self, kind: Kind, told: &Told) -> String {
        match kind {
            Kind::Difference => format!(
                "nothing of {} lies outside the others; nothing was written",
                self.names[0]
            ),
            Kind::Intersection if told.meeting.is_empty() && told.within.is_empty() => {
                "the models don't touch: they have nothing in common; nothing was written".into()
            }
            Kind::Intersection => "no place lies in all of the models; nothing was written".into(),
            Kind::Union | Kind::Pieces => {
                "the models face inward: nothing is inside of them (--fill nonzero takes what they \
                 enclose as inside); nothing was written"
                    .into()
            }
        }
    }

    /// All pieces in one model, each an object by the names of the solids that it is in.
    fn together(&self, told: &Told, pieces: &[Outcome]) -> Model {
        let named = (told.cells.iter().zip(pieces)).enumerate();
        let named = named.map(|(number, (cell, piece))| {
            let names: Vec<&str> = cell
                .of
                .iter()
                .map(|&solid| &self.names[solid][..])
                .collect();
            let mut model = piece.model.clone();
            if number > 0 {
                // Strays are there once.
                model.lines.clear();
                model.drop_unused_vertices();
            }
            (names.join("+"), model)
        });
        as_objects(named.collect())
    }
}

/// Names, those that come again with a number.
fn distinct(names: impl Iterator<Item = String>) -> Vec<String> {
    let mut taken = hurmo_core::scene::Names::default();
    names.map(|name| taken.free(&name)).collect()
}
