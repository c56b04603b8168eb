//! Rebuilding with quads that follow the form.

use super::levels::LevelWish;
use super::named_options::{NamedOptions, Visitor};
use super::remesh::{LESS, Options, Rims, TRIES};
use super::together::{excludes, needs};
use super::{Context, Outcome, rebuilt_step, symmetry};
use crate::quantity::axis;
use crate::record::StepReport;
use crate::said;
use crate::words::Words;
use anyhow::{Context as _, Result, bail};
use glam::DVec3;
use hurmo_core::Model;
use hurmo_core::compare;
use hurmo_core::measure::QuadShape;
use hurmo_core::mirror::Half;
use hurmo_core::quads::{
    self, FOLLOWED, GuidesFollowed, QuadFaces, QuadOptions, QuadOutcome, QuadTarget,
};
use hurmo_core::remesh::ShortFeatures;
use hurmo_core::units::{Axis, Length};
use std::fmt;
use std::path::{Path, PathBuf};
use std::str::FromStr;

/// A count is met if the result is no further off than this share.
const MET: f64 = 0.05;
/// Guides are followed if quads run along this share of them.
const MOSTLY: f64 = 0.95;
/// An edge without a crease bends by no more than this.
const NO_CREASE: f64 = 180.0;

/// What quads follow.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct QuadArguments {
    /// With --into quads: the lines that edges of quads follow exactly: creases, rims (always), groups (and
    /// materials) [default: all]
    #[cfg_attr(
        feature = "clap",
        arg(long, value_name = "LINES,…", value_delimiter = ',')
    )]
    follow: Vec<Follow>,
    /// With --into quads: edges run along the line elements of this file, drawn near the surface
    #[cfg_attr(feature = "clap", arg(long, value_name = "FILE"))]
    guide: Option<PathBuf>,
    /// With --into quads: one half is rebuilt, and the other is its image across this axis, or the best
    #[cfg_attr(feature = "clap", arg(long, value_name = "AXIS", num_args = 0..=1, default_missing_value = "best"))]
    symmetry: Option<Across>,
    /// With --into quads: allow triangles where quads would be bad
    #[cfg_attr(feature = "clap", arg(long))]
    mostly_quads: bool,
    /// With --into quads: divide them this many times and bring the model's detail back each time; every level
    /// is a file of its own beside OUT, with the vertices of the one before first
    #[cfg_attr(feature = "clap", arg(long, value_name = "N", value_parser = clap::value_parser!(u8).range(1..=8)))]
    levels: Option<u8>,
    /// With --levels: the farthest that a vertex may move for that [default: a side of a quad]
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    max_displacement: Option<Length>,
}

/// Lines that quads follow.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Follow {
    Creases,
    Rims,
    Groups,
}

impl Words for Follow {
    const WORDS: &'static [(&'static str, Self)] = &[
        ("creases", Self::Creases),
        ("rims", Self::Rims),
        ("groups", Self::Groups),
    ];
}

impl fmt::Display for Follow {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.word())
    }
}

impl FromStr for Follow {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        Self::of_word(text)
    }
}

/// Across which axis a model is its own image; the best where none is said.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Across(Option<Axis>);

impl fmt::Display for Across {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.0.map_or("best", Axis::name))
    }
}

impl FromStr for Across {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        Ok(Self(match text {
            "best" => None,
            text => Some(axis(text)?),
        }))
    }
}

impl QuadArguments {
    /// Makes sure that none is given, of triangles.
    pub(super) fn refuse(&self) -> Result<()> {
        let given = [
            ("follow", !self.follow.is_empty()),
            ("guide", self.guide.is_some()),
            ("symmetry", self.symmetry.is_some()),
            ("mostly-quads", self.mostly_quads),
            ("levels", self.levels.is_some()),
            ("max-displacement", self.max_displacement.is_some()),
        ];
        match given.iter().find(|(_, given)| *given) {
            Some((name, _)) => bail!("--{name} is for --into quads"),
            None => Ok(()),
        }
    }

    /// How many levels are made.
    pub(super) fn levels(&self) -> usize {
        self.levels.map_or(0, usize::from)
    }

    fn follows(&self, lines: Follow) -> bool {
        self.follow.is_empty() || self.follow.contains(&lines)
    }
}

impl NamedOptions for QuadArguments {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.values("follow", &mut self.follow);
        visitor.file("guide", &mut self.guide);
        visitor.value_or("symmetry", &mut self.symmetry, "best");
        visitor.flag("mostly-quads", &mut self.mostly_quads);
    }
}

/// Makes sure that the options of a remesh go together with quads.
pub(super) fn check(options: &Options) -> Result<()> {
    let exact = options.keep_rims == Rims::Exact;
    if exact && !options.quads.mostly_quads {
        bail!(
            "--keep-rims exact needs --mostly-quads: few rims have the number of edges that quads alone take"
        );
    }
    excludes(
        ("keep-rims exact", exact),
        &[("symmetry", options.quads.symmetry.is_some())],
    )?;
    needs(
        ("max-displacement", options.quads.max_displacement.is_some()),
        ("levels", options.quads.levels.is_some()),
    )?;
    if options.region.is_given() {
        bail!("--into quads rebuilds the whole model: `hurmo parts` takes a part out first");
    }
    Ok(())
}

/// Rebuilds with quads.
pub(super) fn apply(options: &Options, context: &Context<'_>) -> Result<Outcome> {
    let within = options
        .within
        .map(|length| context.length(length))
        .transpose()?;
    let target = match (options.edge, within, options.to) {
        (Some(edge), ..) => QuadTarget::Edge(context.length(edge)?),
        (_, Some(distance), _) => {
            let [shortest, longest] = options.lengths(context, distance)?;
            QuadTarget::Within {
                distance,
                shortest,
                longest,
            }
        }
        (.., Some(budget)) => {
            let triangles = context.model.mesh.triangle_count();
            QuadTarget::Count(budget.of(triangles).max(1))
        }
        _ => bail!("give --edge LENGTH, --within LENGTH or --to BUDGET"),
    };
    let mut how = QuadOptions::of(target);
    how.crease = match options.quads.follows(Follow::Creases) {
        true => options.crease,
        false => NO_CREASE,
    };
    how.follow_groups = options.quads.follows(Follow::Groups);
    if options.quads.mostly_quads {
        how.faces = QuadFaces::Mostly {
            rims_exact: options.keep_rims == Rims::Exact,
        };
    }
    if let Some(under) = options.ignore_lines_under {
        how.short_features = ShortFeatures::Under(context.length(under)?);
    }
    if let Some(file) = &options.quads.guide {
        how.guides = guides(file)?;
    }
    let half = match options.quads.symmetry {
        Some(Across(axis)) => symmetry::half(context.model, axis)?,
        None => None,
    };
    let (outcome, held) = held(context, half.as_ref(), how.clone())?;
    let mut step = report(context, &outcome, target);
    guides_in(&mut step, &outcome, &how.guides);
    if let Some(half) = &half {
        step.did.push(symmetry::kept(half, context.diagonal()));
    }
    match (within, held) {
        (Some(limit), true) => step.did.push(said!(
            "proved-within",
            "within {within} both ways: proved",
            within = limit
        )),
        (Some(limit), false) => step.left.push(said!(
            "not-proved-within",
            "not proved to lie within {within}: sides at the shortest length, or lines and thin places, do not \
             follow the surface that closely",
            within = limit
        )),
        (None, _) => {}
    }
    let wish = LevelWish {
        levels: options.quads.levels(),
        travel: (options.quads.max_displacement)
            .map(|length| context.length(length))
            .transpose()?,
    };
    Ok(Outcome {
        levels: wish.levels_of(&outcome, context.model, &how, context.observer)?,
        ..Outcome::new(outcome.model, vec![step])
    })
}

/// Rebuilds a new skin of the model with quads.
pub(super) fn of_skin(
    context: &Context<'_>,
    skin: &Model,
    target: QuadTarget,
    wish: &LevelWish,
) -> Result<Outcome> {
    let how = QuadOptions::of(target);
    let outcome = quads::quads(skin, &how, context.observer)?;
    let step = report(context, &outcome, target);
    Ok(Outcome {
        levels: wish.levels_of(&outcome, skin, &how, context.observer)?,
        ..Outcome::new(outcome.model, vec![step])
    })
}

/// Rebuilds, with shorter sides until it is proved that both surfaces lie within a distance; and whether they do.
fn held(
    context: &Context<'_>,
    half: Option<&Half>,
    mut how: QuadOptions,
) -> Result<(QuadOutcome, bool)> {
    let limit = match how.target {
        QuadTarget::Within { distance, .. } => Some(distance),
        _ => None,
    };
    let mut tries = 0;
    loop {
        let outcome = match half {
            Some(half) => quads::quads_symmetric(context.model, half, &how, context.observer)?,
            None => quads::quads(context.model, &how, context.observer)?,
        };
        let is_held = limit.is_none_or(|limit| {
            compare::stay_within(&context.model.mesh, &outcome.model.mesh, limit)
        });
        tries += 1;
        if is_held || tries == TRIES {
            return Ok((outcome, is_held));
        }
        if let QuadTarget::Within { distance, .. } = &mut how.target {
            *distance *= LESS;
        }
    }
}

/// The pieces of the lines in a file.
fn guides(file: &Path) -> Result<Vec<[DVec3; 2]>> {
    let name = || file.display().to_string();
    let loaded = hurmo_formats::read(file).with_context(name)?;
    let place = |v| loaded.model.mesh.position(v);
    let lines = loaded.model.lines.iter();
    let pieces = lines.flat_map(|line| line.windows(2).map(|ends| [ends[0], ends[1]].map(place)));
    let pieces: Vec<[DVec3; 2]> = pieces.collect();
    if pieces.is_empty() {
        bail!("{} has no line elements to run along", name());
    }
    Ok(pieces)
}

/// Adds how much of the guides quads run along.
fn guides_in(step: &mut StepReport, outcome: &QuadOutcome, guides: &[[DVec3; 2]]) {
    if guides.is_empty() {
        return;
    }
    let found = GuidesFollowed::of(&outcome.model.mesh, guides, outcome.edge);
    let Some(share) = found.share() else {
        step.left.push(said!(
            "guides-far",
            "no guide lies near the surface: quads do not run along any"
        ));
        return;
    };
    if found.near < MOSTLY * found.length {
        step.left.push(said!(
            "guides-partly-far",
            "{far} of the guides' length lies too far from the surface to be followed",
            far = crate::text::percent(1.0 - found.near / found.length),
        ));
    }
    let share_text = crate::text::percent(share);
    if share < MOSTLY {
        step.left.push(said!(
            "guides-not-followed",
            "quads run within {angle}° of the guides along {share} of their length only: where lines, or other \
             guides, near by ask for another direction, shorter sides may help",
            angle = FOLLOWED,
            share = share_text,
        ));
    } else {
        step.did.push(said!(
            "guides-followed",
            "quads run within {angle}° of the guides along {share} of their length",
            angle = FOLLOWED,
            share = share_text,
        ));
    }
}

fn report(context: &Context<'_>, outcome: &QuadOutcome, target: QuadTarget) -> StepReport {
    let faces = outcome.model.mesh.face_count();
    let made = outcome
        .model
        .mesh
        .faces()
        .filter(|(_, face)| face.len() == 4)
        .count();
    let before = context.model.mesh.face_count();
    let mut did = vec![match target {
        QuadTarget::Within { .. } => said!(
            "into-quads-of-lengths",
            "{before} → {quads:quad} of up to {edge} a side, shorter where it bends",
            before = before,
            quads = made,
            edge = outcome.edge,
        ),
        _ => said!(
            "into-quads",
            "{before} → {quads:quad} of about {edge} a side",
            before = before,
            quads = made,
            edge = outcome.edge,
        ),
    }];
    if faces > made {
        did.push(said!(
            "other-faces",
            "{faces:other face} where quads would be bad",
            faces = faces - made,
        ));
    }
    if !outcome.feature_edges.is_empty() {
        did.push(said!(
            "on-lines",
            "{edges:edge} along creases, rims and borders of groups",
            edges = outcome.feature_edges.len(),
        ));
    }
    let mut step = rebuilt_step("remesh", did, context, &outcome.model);
    let quads = QuadShape::of(&outcome.model.mesh);
    if let Some(rebuilt) = &mut step.rebuilt {
        rebuilt.quads = quads;
    }
    let irregular = quads.map_or(outcome.irregular, |quads| quads.irregular());
    let vertices = outcome.model.mesh.vertex_count().max(1);
    step.did.insert(
        1,
        said!(
            "irregular-vertices",
            "{vertices:vertex} irregular ({share} of all)",
            vertices = irregular,
            share = crate::text::percent(irregular as f64 / vertices as f64),
        ),
    );
    if outcome.moved_apart > 0 {
        step.did.push(said!(
            "moved-apart",
            "{vertices:vertex} moved a little off the model, so that quads do not cross",
            vertices = outcome.moved_apart,
        ));
    }
    if outcome.crossing > 0 {
        step.left.push(said!(
            "crossing-quads",
            "{quads:quad} cross others where the model is thinner than sides are long; shorter sides may help",
            quads = outcome.crossing,
        ));
    }
    if outcome.rims_lost > 0 {
        step.left.push(said!(
            "rims-not-exact",
            "{rims:rim} could not stay as they are: they touch others, or quads do not run along them",
            rims = outcome.rims_lost,
        ));
    }
    if outcome.faces_paired > 0 {
        step.left.push(said!(
            "paired-quads",
            "{quads:face} are pairs of triangles, which do not follow the form: no map was found for their \
             parts ({parts} of {all}); `hurmo mend` first, or shorter sides, may help",
            quads = outcome.faces_paired,
            parts = outcome.parts_paired,
            all = outcome.parts,
        ));
    }
    if let QuadTarget::Count(to) = target
        && (made as f64 / to as f64 - 1.0).abs() > MET
    {
        step.left.push(said!(
            "not-the-budget",
            "{quads:quad} are not {budget}: small parts and sharp bends take more, or the form fewer",
            quads = made,
            budget = to,
        ));
    }
    if context.model.attributes.uvs.is_some() {
        step.left.push(said!(
            "uvs",
            "UVs: new quads have none; `hurmo bake` makes new ones and fills a texture"
        ));
    }
    step
}
