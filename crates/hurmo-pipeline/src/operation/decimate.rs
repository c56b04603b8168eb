//! Reducing to a budget.

use super::named_options::{NamedOptions, Visitor};
use super::together::{any_of, excludes, needs};
use super::{Context, Outcome, symmetry};
use crate::operation::feature_weights::{WeightArguments, shares};
use crate::quantity::{Budget, By};
use crate::record::{Moved, Statement, StepReport, Value, shorten};
use crate::said;
use anyhow::{Result, bail};
use hurmo_core::audit::Level;
use hurmo_core::decimate::{self, DecimateOutcome};
use hurmo_core::mesh::PartId;
use hurmo_core::units::Length;

/// Options of a reduction.
#[derive(Clone, Debug, Default)]
#[cfg_attr(feature = "clap", derive(clap::Args))]
#[non_exhaustive]
pub struct Options {
    /// At most this many triangles: 5000, 20k, 1.5M or 12.5%
    #[cfg_attr(feature = "clap", arg(long, value_name = "BUDGET"))]
    pub to: Option<Budget>,
    /// As few triangles as stay within this distance of the model, both ways; with --to, whichever is
    /// reached first
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub within: Option<Length>,
    /// Remove only vertices on flat or straight places, proved within this distance: the shape stays
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH", num_args = 0..=1, default_missing_value = "0.0001%"))]
    pub flat: Option<Length>,
    /// A budget for each part, group or material
    #[cfg_attr(feature = "clap", arg(long, value_name = "WHAT"))]
    pub each: Option<By>,
    /// Allow parts with a smaller diagonal to vanish; by default no part does
    #[cfg_attr(feature = "clap", arg(long, value_name = "LENGTH"))]
    pub may_drop_parts_under: Option<Length>,
    /// Refuse collapses that make faces cross (slower); the default where the brief blocks crossings. Faces that
    /// cross already may stay
    #[cfg_attr(feature = "clap", arg(long))]
    pub no_crossing: bool,
    /// What is kept better, and where more triangles are.
    #[cfg_attr(feature = "clap", command(flatten))]
    pub weights: WeightArguments,
}

impl Options {
    /// Makes sure that the options go together.
    pub fn check(&self) -> Result<()> {
        let (to, each) = (("to", self.to.is_some()), ("each", self.each.is_some()));
        let within = ("within", self.within.is_some());
        let flat = ("flat", self.flat.is_some());
        any_of(&[to, within, flat], "say how far to reduce")?;
        excludes(within, &[flat, each])?;
        needs(each, to)?;
        let dropped = ("may-drop-parts-under", self.may_drop_parts_under.is_some());
        excludes(flat, &[dropped])?;
        if self.flat.is_some() && self.weights.evens() {
            bail!(
                "--flat takes only what the shape doesn't need, and leaves no room for --regularity"
            );
        }
        if self.may_drop_parts_under.is_some() && self.weights.keeps_symmetry() {
            bail!("--keep symmetry and --may-drop-parts-under don't go together");
        }
        Ok(())
    }

    /// Reduces.
    pub fn apply(&self, context: &Context<'_>) -> Result<Outcome> {
        let length = |name: &str, given: Option<Length>| -> Result<Option<f64>> {
            match given.map(|length| context.length(length)).transpose()? {
                Some(length) if length <= 0.0 => bail!("{name} takes a length above 0"),
                length => Ok(length),
            }
        };
        let triangles = context.model.mesh.triangle_count();
        let whole = match self.each {
            Some(_) => None,
            None => self.to.map(|to| to.of(triangles).max(1)),
        };
        let each = self.each.zip(self.to);
        let shares = each.map(|(each, to)| {
            let budget = |triangles| to.of(triangles).max(1);
            shares(context.model, each.into(), budget)
        });
        let blocks_crossing = context.brief.level("intersecting-faces") == Level::Block;
        let mut options = decimate::DecimateOptions::default();
        options.to = whole;
        options.may_drop_under = length("--may-drop-parts-under", self.may_drop_parts_under)?;
        options.weights = self.weights.of(context.model)?;
        options.shares = shares;
        options.no_crossing = self.no_crossing || blocks_crossing;
        options.within = length("--within", self.within)?;
        options.flat = length("--flat", self.flat)?;
        let half = self.weights.half(context.model)?;
        let outcome = match &half {
            Some(half) => {
                decimate::decimate_symmetric(context.model, half, &options, context.observer)?
            }
            None => decimate::decimate(context.model, &options, context.observer)?,
        };
        let mut step = report(context, &options, &outcome, "both ways");
        step.did.extend(
            half.filter(|_| !step.did.is_empty())
                .map(|half| symmetry::kept(&half, context.diagonal())),
        );
        if blocks_crossing && !self.no_crossing && !step.did.is_empty() {
            step.did.push(said!(
                "crossings-refused",
                "new crossings refused, since they block"
            ));
        }
        let missed = missed(&options, &outcome);
        Ok(Outcome {
            missed: missed.into_iter().collect(),
            ..Outcome::new(outcome.model, vec![step])
        })
    }
}

/// The budget that a reduction did not reach.
pub(super) fn missed(
    options: &decimate::DecimateOptions,
    outcome: &DecimateOutcome,
) -> Option<Statement> {
    let to = options.to?;
    let after = outcome.model.mesh.triangle_count();
    (after > to).then(|| {
        said!(
            "budget-missed",
            "{budget:triangle} were asked for, {left} are left",
            budget = to,
            left = after,
        )
    })
}

/// What is said of a reduction; `held_how` says from what a distance was held.
pub(super) fn report(
    context: &Context<'_>,
    options: &decimate::DecimateOptions,
    outcome: &DecimateOutcome,
    held_how: &str,
) -> StepReport {
    let after = outcome.model.mesh.triangle_count();
    let mut did = Vec::new();
    if after != outcome.before {
        did.push(said!(
            "reduced",
            "{before} → {after} triangles",
            before = outcome.before,
            after = after,
        ));
    }
    if outcome.polygons_cut > 0 {
        did.push(said!(
            "polygons-cut",
            "{polygons:polygon} cut into triangles first",
            polygons = outcome.polygons_cut
        ));
    }
    if !outcome.dropped.is_empty() {
        did.push(said!(
            "small-parts-dropped",
            "{parts:small part} dropped",
            parts = outcome.dropped.len()
        ));
    }
    if outcome.normals_anew {
        did.push(said!(
            "normals-made",
            "normals made anew between hard edges"
        ));
    }
    if let Some(held) = outcome.held {
        let by_budget = options.to.is_some_and(|to| after <= to);
        did.push(said!(
            "proved-within",
            "{first}within {within} {how}: proved",
            first = by_budget.then(|| said!("budget", "the budget came first; ")),
            within = held,
            how = held_how,
        ));
    }
    let left = outcome.stopped_by.map(|why| match options.to {
        Some(to) => said!(
            "budget-not-reached",
            "the budget of {budget:triangle} was not reached: {why}",
            budget = to,
            why = Value::reason(&why),
        ),
        None => said!("no-further", "no further: {why}", why = Value::reason(&why)),
    });
    StepReport {
        did,
        single: dropped_parts(&outcome.dropped),
        left: left.into_iter().collect(),
        moved: Moved::Both.between(&context.model.mesh, &outcome.model.mesh),
        ..StepReport::of("decimate")
    }
}

/// What is said of parts that a reduction dropped.
fn dropped_parts(dropped: &[PartId]) -> Vec<Statement> {
    let mut names: Vec<Statement> = dropped
        .iter()
        .map(|part| said!("dropped", "{part} dropped", part = part.to_string()))
        .collect();
    shorten(&mut names, 6);
    names
}

impl NamedOptions for Options {
    fn each(&mut self, visitor: &mut dyn Visitor) {
        visitor.value("to", &mut self.to);
        visitor.value("within", &mut self.within);
        visitor.value_or("flat", &mut self.flat, "0.0001%");
        visitor.word("each", &mut self.each);
        visitor.value("may-drop-parts-under", &mut self.may_drop_parts_under);
        visitor.flag("no-crossing", &mut self.no_crossing);
        self.weights.each(visitor);
    }
}
