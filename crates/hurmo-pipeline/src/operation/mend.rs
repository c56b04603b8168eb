//! Clearing faults, by kind.

use super::filled::Filled;
use super::named_options::{NamedOptions, Visitor};
use super::together::excludes;
use super::{Context, Outcome, repatch};
use crate::record::{Statement, StepReport};
use crate::said;
use crate::text;
use crate::words::Words;
use anyhow::{Result, bail};
use hurmo_core::audit::Brief;
use hurmo_core::mend::{self, MendError};
use hurmo_core::thicken::thicken;
use hurmo_core::triangulate::Which;
use hurmo_core::units::Length;

/// Options of a mend.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// Clear only the findings of these checks. all: every check whose cure drops no surface.
    /// intersecting-faces, crossing-parts, floating-parts, nested-parts and interior-faces must be named
    #[cfg_attr(
        feature = "clap",
        arg(long, value_name = "CHECK,…", value_delimiter = ',')
    )]
    pub clear: Vec<String>,
    /// Clear the findings of these checks too
    #[cfg_attr(
        feature = "clap",
        arg(long, value_name = "CHECK,…", value_delimiter = ',')
    )]
    pub also: Vec<String>,
    /// Leave the findings of these checks
    #[cfg_attr(
        feature = "clap",
        arg(long, value_name = "CHECK,…", value_delimiter = ',')
    )]
    pub keep: Vec<String>,
    /// Weld vertices within this distance, not only equal ones. auto: the smallest distance that closes all open
    /// edges that a safe weld can close
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH|auto"))]
    pub near: Option<Near>,
    /// Weld only vertices on open edges, and leave fine detail alone
    #[cfg_attr(feature = "clap", arg(long))]
    pub seams_only: bool,
    /// Turn open parts so that their visible side is the front, consistent ones too
    #[cfg_attr(feature = "clap", arg(long))]
    pub turn_outward: bool,
    /// Cut one-sided parts open along few edges, to make their faces consistent
    #[cfg_attr(feature = "clap", arg(long))]
    pub cut_one_sided: bool,
    /// Then give open sheets a wall of this thickness, behind their fronts
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub thicken: Option<Length>,
    /// Which winding numbers count as inside where crossing faces are resolved
    #[cfg_attr(feature = "clap", arg(long, value_enum, default_value_t = Filled::Positive))]
    pub fill: Filled,
    /// Cut n-gons, or all polygons, into triangles
    #[cfg_attr(feature = "clap", arg(long, value_name = "ngons|all", num_args = 0..=1, default_missing_value = "ngons"))]
    pub triangulate: Option<Polygons>,
    /// What is cut out and closed anew.
    #[cfg_attr(feature = "clap", command(flatten))]
    pub repatch: repatch::Options,
}

/// A mend as a step.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
pub struct Mend {
    /// What to mend, and how.
    #[cfg_attr(feature = "clap", command(flatten))]
    pub options: Options,
    /// Weld even where that collapses faces
    #[cfg_attr(feature = "clap", arg(long))]
    pub force: bool,
}

/// How far apart vertices may be that become one.
#[derive(Clone, Copy, Debug)]
pub enum Near {
    /// As far as closes most.
    Auto,
    /// So far.
    Within(Length),
}

impl std::fmt::Display for Near {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Near::Auto => f.write_str("auto"),
            Near::Within(length) => length.fmt(f),
        }
    }
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

/// Which polygons are cut into triangles.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "clap", derive(clap::ValueEnum))]
pub enum Polygons {
    /// Faces of five or more sides
    Ngons,
    /// All faces of more than three
    All,
}

impl Words for Polygons {
    const WORDS: &'static [(&'static str, Self)] = &[("ngons", Self::Ngons), ("all", Self::All)];
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        let also = ("also", !self.also.is_empty());
        excludes(("clear", !self.clear.is_empty()), &[also])?;
        self.repatch.check()?;
        cleared(&self.also)?;
        let (clear, keep) = (cleared(&self.clear)?, cleared(&self.keep)?);
        check_facing_is_cleared(self, &clear, &keep)
    }

    /// The checks whose findings are cleared, and those whose findings are left.
    fn asked(&self, brief: &Brief) -> Result<(Vec<String>, Vec<String>)> {
        let (clear, keep) = (cleared(&self.clear)?, cleared(&self.keep)?);
        let (mut clear, keep) = match clear.is_empty() && keep.is_empty() {
            true => asked_for_by(brief),
            false => (clear, keep),
        };
        let also = cleared(&self.also)?;
        if !also.is_empty() {
            if clear.is_empty() {
                clear.extend(mend::safe().map(String::from));
            }
            clear.extend(also);
        }
        Ok((clear, keep))
    }

    /// Whether edges may be opened where sheets are taken apart: where that is named, and where
    /// all will be closed again.
    fn may_open(&self, brief: &Brief) -> bool {
        let mut named = self.clear.iter().chain(&self.also);
        named.any(|check| check == "nonmanifold-edges") || brief.wants_closed()
    }

    /// The findings that it clears, by count.
    pub fn finds(&self, context: &Context<'_>) -> Vec<Statement> {
        let Ok((clear, keep)) = self.asked(context.brief) else {
            return Vec::new();
        };
        let clear = match clear.is_empty() {
            true => mend::safe().map(String::from).collect(),
            false => clear,
        };
        let is_asked =
            |check: &str| clear.iter().any(|c| c == check) && !keep.iter().any(|k| k == check);
        let findings = context.audit.findings.iter();
        findings
            .filter(|finding| finding.count() > 0 && is_asked(finding.check))
            .map(|finding| {
                said!(
                    "found",
                    "{count} {check}",
                    count = finding.count(),
                    check = finding.check
                )
            })
            .collect()
    }
}

impl Mend {
    /// Mends, and gives walls to sheets where that is asked for.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        let diagonal = context.diagonal();
        let brief = context.brief;
        let (clear, keep) = self.options.asked(brief)?;
        let (near, by_itself) = match self.options.near {
            None => (None, false),
            Some(Near::Within(length)) => (Some(context.length(length)?), false),
            Some(Near::Auto) => {
                let trials = mend::weld_trials(
                    &context.model.mesh,
                    self.options.seams_only,
                    context.observer,
                );
                (Some(mend::best_weld(&trials)), true)
            }
        };
        let mut options = mend::MendOptions::default();
        options.near = near;
        options.may_open = self.options.may_open(brief);
        options.clear = clear;
        options.keep = keep;
        options.sliver_ratio = Some(brief.thresholds.sliver_ratio);
        options.turn_outward = self.options.turn_outward;
        options.cut_one_sided = self.options.cut_one_sided;
        options.seams_only = self.options.seams_only;
        options.force = self.force;
        options.triangulate = self.options.triangulate.map(|polygons| match polygons {
            Polygons::Ngons => Which::Ngons,
            Polygons::All => Which::All,
        });
        options.filled = self.options.fill.into();
        options.single = context.single_precision;
        options.gap = mend::gap_for(&context.model.mesh, context.single_precision);
        options.found_nothing = context.audit.clear().collect();
        let outcome = match mend::mend(context.model, &options, context.observer) {
            Ok(outcome) => outcome,
            Err(MendError::WeldTooFar {
                distance,
                faces,
                safe,
            }) => bail!(
                "a weld at {} would collapse {}; the largest safe distance is {} ({}% of the \
                 diagonal). --force welds all the same",
                text::measure(distance),
                text::counted(faces, "face"),
                text::measure(safe),
                text::measure(100.0 * safe / diagonal.max(f64::MIN_POSITIVE)),
            ),
            Err(MendError::Failed(failure)) => bail!(failure),
        };
        let mut mended = StepReport::mended(context.model, &outcome);
        if let (Some(near), true) = (near, by_itself) {
            let found = said!(
                "welded-within",
                "welded within {within}: what --near auto found",
                within = (near, distance(near, diagonal))
            );
            mended.single.insert(0, found);
        }
        let mut reports = vec![mended];
        let (mut model, repatched) = self.options.repatch.apply(outcome.model, context)?;
        reports.extend(repatched);
        if let Some(thickness) = self.options.thicken {
            let thickness = context.length(thickness)?;
            if thickness <= 0.0 {
                bail!("--thicken takes a length above 0");
            }
            let thickened = thicken(&model, thickness);
            reports.push(StepReport::thickened(&model, &thickened, thickness));
            model = thickened.model;
        }
        Ok(Outcome::new(model, reports))
    }
}

/// A distance, and what it is of the diagonal.
pub fn distance(distance: f64, diagonal: f64) -> String {
    match distance > 0.0 {
        true => format!(
            "{} ({}% of the diagonal)",
            text::measure(distance),
            text::measure(100.0 * distance / diagonal)
        ),
        false => "0: only what is at one place".into(),
    }
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
fn check_facing_is_cleared(options: &Options, clear: &[String], keep: &[String]) -> Result<()> {
    const FACING: [&str; 2] = ["misoriented-edges", "reversed-faces"];
    let option = match (options.turn_outward, options.cut_one_sided) {
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

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.values("clear", &mut self.clear);
        visitor.values("also", &mut self.also);
        visitor.values("keep", &mut self.keep);
        visitor.value("near", &mut self.near);
        visitor.flag("seams-only", &mut self.seams_only);
        visitor.flag("turn-outward", &mut self.turn_outward);
        visitor.flag("cut-one-sided", &mut self.cut_one_sided);
        visitor.value("thicken", &mut self.thicken);
        visitor.usual_word("fill", &mut self.fill, Filled::default());
        visitor.word_or("triangulate", &mut self.triangulate, "ngons");
        self.repatch.each(visitor);
    }
}

impl NamedOptions for Mend {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        self.options.each(visitor);
        visitor.flag("force", &mut self.force);
    }
}
