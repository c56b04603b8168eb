//! Rebuilding with even triangles or quads, on the surface as it is.

use super::named_options::{NamedOptions, Visitor};
use super::quads;
use super::region::Region;
use super::smooth::rounds;
use super::together::{any_of, excludes, needs};
use super::{Context, Outcome, rebuilt_step};
use crate::quantity::{Budget, angle};
use crate::record::StepReport;
use crate::said;
use crate::words::Words;
use anyhow::{Result, bail};
use hurmo_core::compare;
use hurmo_core::parts;
use hurmo_core::remesh::{self, DEFAULT_CREASE, RemeshOutcome, ShortFeatures, Target};
use hurmo_core::units::Length;

/// Where an edge may leave the surface by so much, none need be shorter than this many times that.
const SHORTEST: f64 = 2.0;
/// Nor longer than this share of the diagonal.
const LONGEST: f64 = 0.1;
/// What was not held is tried again this many times, with this share of the distance.
pub(super) const TRIES: usize = 3;
pub(super) const LESS: f64 = 0.6;

/// Options of a remesh.
#[derive(Clone, Debug)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// What faces it is rebuilt with
    #[cfg_attr(feature = "clap", arg(long, value_enum, value_name = "FACES", default_value_t = Faces::Triangles))]
    pub into: Faces,
    /// Edges of about this length
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub edge: Option<Length>,
    /// The longest edges whose chord error stays below this length: shorter where the surface bends
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub within: Option<Length>,
    /// With --within: no edges much shorter than this
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub edge_min: Option<Length>,
    /// With --within: no edges much longer than this
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub edge_max: Option<Length>,
    /// About this many faces: 5000, 20k, 1.5M or 12.5%
    #[cfg_attr(feature = "clap", arg(long, value_name = "BUDGET"))]
    pub to: Option<Budget>,
    /// Keep edges that bend by more than this angle, in degrees
    #[cfg_attr(feature = "clap", arg(long, value_name = "DEGREES", default_value_t = DEFAULT_CREASE, value_parser = angle))]
    pub crease: f64,
    /// Do not keep creases and borders of groups shorter than this: specks of noise, a few faces in the
    /// wrong group. By default, creases that end on a smooth surface must be two edges long; 0 keeps all
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub ignore_lines_under: Option<Length>,
    /// exact: leave every vertex on an open rim where it is, so that a part still fits its neighbour
    #[cfg_attr(feature = "clap", arg(long, value_enum, value_name = "HOW", default_value_t = Rims::Even))]
    pub keep_rims: Rims,
    /// First give patches of a group smaller than this (a few faces in the wrong group) to the group round them
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub ignore_groups_under: Option<Length>,
    /// First relax the borders of groups and materials along the surface, in this many rounds
    #[cfg_attr(feature = "clap", arg(long, value_name = "ROUNDS", value_parser = rounds))]
    pub relax_borders: Option<usize>,
    /// What quads follow.
    #[cfg_attr(feature = "clap", command(flatten))]
    pub quads: quads::QuadArguments,
    /// The faces that may be touched.
    #[cfg_attr(feature = "clap", command(flatten))]
    pub region: Region,
}

/// What faces a model is rebuilt with.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum Faces {
    /// Even triangles
    #[default]
    Triangles,
    /// Quads that follow the form: its creases, borders and bends
    Quads,
}

impl Words for Faces {
    const WORDS: &'static [(&'static str, Self)] =
        &[("triangles", Self::Triangles), ("quads", Self::Quads)];
}

/// How rims are kept.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum Rims {
    /// Where they are, divided anew
    Even,
    /// As they are
    Exact,
}

impl Words for Rims {
    const WORDS: &'static [(&'static str, Self)] = &[("even", Self::Even), ("exact", Self::Exact)];
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        let (edge, to) = (("edge", self.edge.is_some()), ("to", self.to.is_some()));
        let within = ("within", self.within.is_some());
        any_of(&[edge, within, to], "say how fine")?;
        excludes(edge, &[within, to])?;
        excludes(within, &[to])?;
        needs(("edge-min", self.edge_min.is_some()), within)?;
        needs(("edge-max", self.edge_max.is_some()), within)?;
        match self.into {
            Faces::Quads => quads::check(self)?,
            Faces::Triangles => self.quads.refuse()?,
        }
        self.region.check()
    }

    /// Rebuilds with even triangles, or quads.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        if self.ignore_groups_under.is_none() && self.relax_borders.is_none() {
            return self.rebuild(context);
        }
        let mut model = context.model.clone();
        let mut did = Vec::new();
        if let Some(under) = self.ignore_groups_under {
            let faces = parts::take_in_crumbs(&mut model, context.length(under)?);
            did.push(said!(
                "crumbs-taken-in",
                "{faces:face} of small patches given the group round them",
                faces = faces
            ));
        }
        if let Some(rounds) = self.relax_borders {
            let relaxed = remesh::relax_borders(&model, rounds, self.crease, context.observer)?;
            model = relaxed.model;
            did.push(said!(
                "borders-relaxed",
                "borders of groups relaxed: {vertices:vertex} moved",
                vertices = relaxed.moved
            ));
        }
        let mut done = self.rebuild(&Context {
            model: &model,
            analysis: None,
            ..*context
        })?;
        if let Some(step) = done.reports.first_mut() {
            step.did.splice(0..0, did);
        }
        Ok(done)
    }

    fn rebuild(&self, context: &Context<'_>) -> Result<Outcome> {
        if self.into == Faces::Quads {
            return quads::apply(self, context);
        }
        let faces = self.region.faces(context)?;
        let length =
            |length: Option<Length>| length.map(|length| context.length(length)).transpose();
        let triangles = match &faces {
            None => context.model.mesh.triangle_count(),
            Some(faces) => {
                let those = context
                    .model
                    .mesh
                    .face_ids()
                    .filter(|face| faces[face.index()]);
                those
                    .map(|face| context.model.mesh.face(face).len() - 2)
                    .sum()
            }
        };
        let within = length(self.within)?;
        let target = self.target(context, triangles)?;
        let mut options = remesh::RemeshOptions::of(target);
        options.crease = self.crease;
        options.short_features =
            length(self.ignore_lines_under)?.map_or(ShortFeatures::Noise, ShortFeatures::Under);
        options.rims_exact = self.keep_rims == Rims::Exact;
        options.faces = faces;
        options.lines = Vec::new();
        let (outcome, held) = match within {
            Some(limit) => held_within(context, options.clone(), limit)?,
            None => (
                remesh::remesh(context.model, &options, context.observer)?,
                true,
            ),
        };
        let mut step = report(context, &outcome, options.faces.is_some());
        match (within, held) {
            (Some(limit), true) => {
                step.did.push(said!(
                    "proved-within",
                    "within {within} both ways: proved",
                    within = limit
                ));
            }
            (Some(limit), false) => step.left.push(said!(
                "not-proved-within",
                "not proved to lie within {within}: edges at the shortest length, or lines and thin places, \
                 do not follow the surface that closely",
                within = limit
            )),
            (None, _) => {}
        }
        if let Target::Count(to) = options.target
            && (outcome.after as f64 / to as f64 - 1.0).abs() > 0.03
        {
            step.left.push(said!(
                "not-the-budget",
                "{triangles:triangle} are not {budget}: the lines that are kept take more, or fewer",
                triangles = outcome.after,
                budget = to,
            ));
        }
        Ok(Outcome::new(outcome.model, vec![step]))
    }

    /// How short and how long edges may be that lie within a distance.
    pub(super) fn lengths(&self, context: &Context<'_>, distance: f64) -> Result<[f64; 2]> {
        let length =
            |length: Option<Length>| length.map(|length| context.length(length)).transpose();
        let shortest = length(self.edge_min)?.unwrap_or(SHORTEST * distance);
        let longest = length(self.edge_max)?.unwrap_or(LONGEST * context.diagonal());
        if shortest > longest {
            bail!("--edge-min is more than --edge-max");
        }
        Ok([shortest, longest])
    }

    /// The sizing: `triangles` there are now.
    fn target(&self, context: &Context<'_>, triangles: usize) -> Result<Target> {
        let length =
            |length: Option<Length>| length.map(|length| context.length(length)).transpose();
        Ok(match (length(self.edge)?, length(self.within)?, self.to) {
            (Some(edge), ..) => Target::Edge(edge),
            (_, Some(distance), _) => {
                let [shortest, longest] = self.lengths(context, distance)?;
                Target::Within {
                    distance,
                    shortest,
                    longest,
                }
            }
            (.., Some(budget)) => Target::Count(budget.of(triangles).max(1)),
            _ => bail!("give --edge LENGTH, --within LENGTH or --to BUDGET"),
        })
    }
}

/// Remeshes until it is proved that both surfaces lie within a distance, with ever less.
fn held_within(
    context: &Context<'_>,
    mut options: remesh::RemeshOptions,
    limit: f64,
) -> Result<(RemeshOutcome, bool)> {
    let mut tries = 0;
    loop {
        let outcome = remesh::remesh(context.model, &options, context.observer)?;
        let held = compare::stay_within(&context.model.mesh, &outcome.model.mesh, limit);
        tries += 1;
        if held || tries == TRIES {
            return Ok((outcome, held));
        }
        if let Target::Within { distance, .. } = &mut options.target {
            *distance *= LESS;
        }
    }
}

fn report(context: &Context<'_>, outcome: &RemeshOutcome, is_region: bool) -> StepReport {
    let [shortest, longest] = outcome.edges;
    let sides = match shortest == longest {
        true => said!("alike", "about {edge} a side", edge = shortest),
        false => said!(
            "graded",
            "{shortest} to {longest} a side",
            shortest = shortest,
            longest = longest,
        ),
    };
    let mut did = vec![said!(
        "remeshed",
        "{before} → {after} triangles of {sides}",
        before = outcome.before,
        after = outcome.after,
        sides = sides,
    )];
    if outcome.line_edges > 0 {
        did.push(said!(
            "lines-kept",
            "{lines:line} kept, divided into {edges:edge}",
            lines = outcome.lines,
            edges = outcome.line_edges,
        ));
    }
    if outcome.short_features > 0 {
        did.push(said!(
            "short-lines",
            "{lines:line} too short to keep",
            lines = outcome.short_features
        ));
    }
    if outcome.recolored > 0 {
        did.push(said!(
            "taken-in",
            "{faces:face} given the group and material round them",
            faces = outcome.recolored
        ));
    }
    if is_region {
        let rest = context.model.mesh.face_count() - outcome.touched;
        did.push(said!(
            "left-as-they-are",
            "{faces:face} left as they are",
            faces = rest
        ));
    }
    if outcome.belt > 0 {
        did.push(said!(
            "belt",
            "{faces:face} round the region remeshed too, so that sizes change gently",
            faces = outcome.belt
        ));
    }
    rebuilt_step("remesh", did, context, &outcome.model)
}

impl Default for Options {
    fn default() -> Self {
        Self {
            into: Faces::Triangles,
            edge: None,
            within: None,
            edge_min: None,
            edge_max: None,
            to: None,
            crease: DEFAULT_CREASE,
            ignore_lines_under: None,
            keep_rims: Rims::Even,
            ignore_groups_under: None,
            relax_borders: None,
            quads: quads::QuadArguments::default(),
            region: Region::default(),
        }
    }
}

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.usual_word("into", &mut self.into, Faces::Triangles);
        visitor.value("edge", &mut self.edge);
        visitor.value("within", &mut self.within);
        visitor.value("edge-min", &mut self.edge_min);
        visitor.value("edge-max", &mut self.edge_max);
        visitor.value("to", &mut self.to);
        visitor.usually(
            "crease",
            &mut self.crease,
            DEFAULT_CREASE,
            angle,
            f64::to_string,
        );
        visitor.value("ignore-lines-under", &mut self.ignore_lines_under);
        visitor.usual_word("keep-rims", &mut self.keep_rims, Rims::Even);
        visitor.value("ignore-groups-under", &mut self.ignore_groups_under);
        visitor.parsed(
            "relax-borders",
            &mut self.relax_borders,
            rounds,
            usize::to_string,
        );
        self.quads.each(visitor);
        self.region.each(visitor);
    }
}
