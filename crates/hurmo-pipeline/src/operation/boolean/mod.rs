//! Solids against each other: joined, taken away from each other, taken apart where they cross.

mod assembly;
mod models;
mod origins;
mod proof;
mod seams;

pub use assembly::Assembly;
pub use models::{ModelName, Placement};

use super::filled::Filled;
use super::{Context, Outcome};
use crate::operation::named_options::{NamedOptions, Visitor};
use crate::record::{BooleanRecord, StepReport};
use crate::said;
use crate::words::Words;
use anyhow::{Context as _, Result, bail};
use hurmo_core::boolean::{
    self, BooleanError, BooleanOutcome, Capped, MayMeet, Operation, Relations, Rounding, Solids,
    Windings,
};
use hurmo_core::parts::as_objects;
use hurmo_core::progress::Observer;
use hurmo_core::{FaceId, Model, measure, mend, seam};
use proof::Solved;
use seams::Seams;
use std::borrow::Cow;

/// An open surface that encloses less than this share of what a surface as large could is a sheet.
const NOTHING: f64 = 1e-6;

/// What is made of several solids.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum Kind {
    /// What lies in any of them
    #[default]
    Union,
    /// The first without all others
    Difference,
    /// What lies in all of them
    Intersection,
    /// Each place by the solids that it lies in: pieces that fill the same together and don't cross
    Pieces,
}

impl Words for Kind {
    const WORDS: &'static [(&'static str, Self)] = &[
        ("union", Self::Union),
        ("difference", Self::Difference),
        ("intersection", Self::Intersection),
        ("pieces", Self::Pieces),
    ];
}

impl Kind {
    /// Its name on the command line.
    pub fn name(self) -> &'static str {
        self.word()
    }
}

/// How solids are combined.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// What is made of the solids
    #[cfg_attr(
        feature = "clap",
        arg(
            long = "as",
            value_enum,
            value_name = "union|difference|intersection|pieces"
        )
    )]
    pub kind: Kind,
    /// What counts as inside of a model, by how often its surface winds round a place
    #[cfg_attr(feature = "clap", arg(long, value_enum, default_value_t = Filled::Positive))]
    pub fill: Filled,
    /// What is done along cut lines.
    #[cfg_attr(feature = "clap", command(flatten))]
    pub seams: Seams,
    /// Where models are put.
    #[cfg_attr(feature = "clap", command(flatten))]
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
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct Boolean {
    /// The other models: files, or FILE#P2, FILE#group:NAME; without any, the model's own parts
    #[cfg_attr(
        feature = "clap",
        arg(long = "with", value_name = "MODEL,…", value_delimiter = ',')
    )]
    with: Vec<ModelName>,
    /// How.
    #[cfg_attr(feature = "clap", command(flatten))]
    options: Options,
}

impl Boolean {
    /// Makes sure that there are the models that are spoken of.
    pub fn check(&self) -> Result<()> {
        self.options.check(1 + self.with.len())
    }

    /// Combines the model with the others.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        let mut models = vec![("model".to_string(), context.model.clone())];
        for name in &self.with {
            let loaded =
                hurmo_formats::read(&name.file).with_context(|| name.file.display().to_string())?;
            models.push((name.short(), name.chosen(loaded.model)?));
        }
        let mut assembly = Assembly::of(models, &self.options.placement)?;
        if context.single_precision {
            assembly = assembly.in_single_precision();
        }
        Ok(assembly
            .solve(&self.options, None, false, context.observer)?
            .done)
    }
}

impl NamedOptions for Boolean {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.values("with", &mut self.with);
        self.options.each(visitor);
    }
}

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.required_word("as", &mut self.kind);
        visitor.usual_word("fill", &mut self.fill, Filled::Positive);
        self.seams.each(visitor);
        self.placement.each(visitor);
    }
}

/// What came of a combination.
pub struct Combination {
    /// The model, and reports.
    pub done: Outcome,
    /// Which of the solids each of its faces comes from, where that was asked for.
    pub of_face: Option<Vec<u32>>,
}

impl Assembly {
    /// Combines them. `meets`: for every face, whether it meets others, where that is known. `wants_sources`: whether
    /// to say which solid each face of the result comes from.
    pub fn solve(
        &self,
        options: &Options,
        meets: Option<&[bool]>,
        wants_sources: bool,
        observer: &dyn Observer,
    ) -> Result<Combination> {
        let may_meet = meets.map_or(MayMeet::Any, MayMeet::Marked);
        let cut = |join_within: f64| {
            let of_face = (&self.of_face[..], may_meet);
            self.cut((&self.model, of_face), options, join_within, observer)
        };
        let (capped, (relations, made)) = match cut(0.0) {
            Ok((relations, made)) => (None, (relations, self.tidiest(made, options, &cut))),
            Err(BooleanError::Open { .. }) => {
                let (capped, solved) = self.solve_capped(options, meets, observer)?;
                (Some(capped), solved)
            }
            Err(error) => return Err(error.into()),
        };
        // What was made is closed, with caps: that is what it fills.
        let volumes = made.iter().map(|made| measure::volume(&made.model.mesh));
        let volume = volumes.sum();
        let outcomes = match &capped {
            Some(capped) => made.iter().map(|made| capped.without_caps(made)).collect(),
            None => made,
        };
        let model = match options.kind {
            Kind::Pieces => Cow::Owned(self.together(&relations, &outcomes)),
            _ => Cow::Borrowed(&outcomes[0].model),
        };
        if model.mesh.face_count() == 0 {
            bail!("{}", self.why_empty(options.kind, &relations));
        }
        let mut of_face: Vec<u32> = (outcomes.iter().flat_map(|outcome| &outcome.sources))
            .map(|source| self.of_face[source.face.index()])
            .collect();
        let solved = Solved {
            kind: options.kind,
            names: &self.names,
            of_face: &self.of_face,
            relations: &relations,
            outcomes: &outcomes,
            open: capped.as_ref().map(|capped| &capped.open[..]),
        };
        let mut record = BooleanRecord::of(&solved, volume);
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
        if capped.is_some() {
            let places = seam::at_rims(&made, &of_face, &model).into_iter();
            record.seams_at_rims = places.map(|place| place.to_array()).collect();
        }
        let mut step = StepReport::solved(record);
        step.did.extend(proof::cleared(&outcomes, tidied));
        step.left.extend(self.notes.iter().cloned());
        if options.kind == Kind::Pieces && outcomes.len() > 1 {
            step.left.push(said!(
                "walls-in-common",
                "pieces that lie wall to wall have faces on each other there"
            ));
        }
        Ok(Combination {
            of_face: wants_sources.then(|| match tidied {
                0 => of_face,
                _ => origins::carried(&of_face, &made.mesh, &model.mesh),
            }),
            done: Outcome::new(model, vec![step]),
        })
    }

    /// Combines solids of which some are open, with caps on their rims.
    fn solve_capped(
        &self,
        options: &Options,
        meets: Option<&[bool]>,
        observer: &dyn Observer,
    ) -> Result<(Capped, (Relations, Vec<BooleanOutcome>))> {
        let capped = Capped::of(&self.model, &self.of_face, self.names.len());
        let capped = capped.context("something is open")?;
        let marked = meets.map(|meets| capped.with_caps(meets));
        let may_meet = marked.as_deref();
        let may_meet = may_meet.map_or(MayMeet::Any, MayMeet::WithMarked);
        let of_face = (&capped.solids[..], may_meet);
        let solved = self.cut((&capped.model, of_face), options, 0.0, observer)?;
        self.check_encloses(&capped, &solved.0)?;
        Ok((capped, solved))
    }

    /// What was made; where faces of it without area can't be cleared, the same with vertices of cuts joined.
    fn tidiest(
        &self,
        mut made: Vec<BooleanOutcome>,
        options: &Options,
        cut: &dyn Fn(f64) -> Result<(Relations, Vec<BooleanOutcome>), BooleanError>,
    ) -> Vec<BooleanOutcome> {
        // Pieces have walls in common, and must keep the same vertices there.
        if options.kind != Kind::Pieces
            && let Some(first) = made.pop()
        {
            let joined = |distance: f64| cut(distance).ok()?.1.pop();
            made.push(mend::tidiest(&self.model, first, joined));
        }
        made
    }

    /// What solids are to each other, and what is made of them: one model, or one for each cell.
    fn cut(
        &self,
        (model, (of_face, may_meet)): (&Model, (&[u32], MayMeet<'_>)),
        options: &Options,
        join_within: f64,
        observer: &dyn Observer,
    ) -> Result<(Relations, Vec<BooleanOutcome>), BooleanError> {
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
            filled: Some(filled),
            sheet: None,
            rounding: Rounding::of(&self.model.mesh, self.single),
            join_within,
        };
        match options.kind {
            Kind::Pieces => boolean::pieces(model, &solids, filled, observer),
            _ => boolean::resolve(model, &solids, observer).map(|mut made| {
                let relations = made.relations.take().unwrap_or_default();
                (relations, vec![made])
            }),
        }
    }

    /// Refuses open solids that enclose nothing: sheets.
    fn check_encloses(&self, capped: &Capped, relations: &Relations) -> Result<()> {
        let mut areas = vec![0.0; self.names.len()];
        for face in self.model.mesh.face_ids() {
            let area = measure::vector_area(&self.model.mesh, face).length();
            areas[self.of_face[face.index()] as usize] += area;
        }
        let volumes = relations.volumes();
        let is_sheet = |&solid: &usize| {
            let most = f64::powf(areas[solid], 1.5);
            capped.open[solid] > 0 && volumes[solid].abs() <= NOTHING * most
        };
        let sheets: Vec<&str> = (0..self.names.len())
            .filter(is_sheet)
            .map(|solid| &self.names[solid][..])
            .collect();
        match sheets.is_empty() {
            true => Ok(()),
            false => bail!(
                "{}: the surface does not close, and encloses nothing: close it first, by hurmo mend, then \
                 hurmo fill; give a sheet walls by hurmo mend --thicken; or else hurmo reskin",
                sheets.join(", ")
            ),
        }
    }

    /// Why nothing is left.
    fn why_empty(&self, kind: Kind, relations: &Relations) -> String {
        match kind {
            Kind::Difference => format!(
                "nothing of {} lies outside the others; nothing was written",
                self.names[0]
            ),
            Kind::Intersection if relations.meeting.is_empty() && relations.within.is_empty() => {
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
    fn together(&self, relations: &Relations, pieces: &[BooleanOutcome]) -> Model {
        let named = (relations.cells.iter().zip(pieces)).enumerate();
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
