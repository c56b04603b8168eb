//! Rebuilding with quads that follow the form.

use super::remesh::{Options, Rims};
use super::{Context, Outcome, rebuilt_step};
use crate::record::StepReport;
use crate::said;
use anyhow::{Result, bail};
use hurmo_core::quads::{self, QuadOptions, QuadOutcome, QuadTarget};
use hurmo_core::remesh::ShortFeatures;

/// A count is met if the result is no further off than this share.
const MET: f64 = 0.05;

/// Makes sure that the options of a remesh go together with quads.
pub(super) fn check(options: &Options) -> Result<()> {
    if options.within.is_some() {
        bail!("--into quads takes --to or --edge, not --within");
    }
    if options.keep_rims != Rims::Even {
        bail!("--into quads divides rims anew: --keep-rims exact is for triangles");
    }
    if options.region.is_given() {
        bail!("--into quads rebuilds the whole model: `hurmo parts` takes a part out first");
    }
    Ok(())
}

/// Rebuilds with quads.
pub(super) fn apply(options: &Options, context: &Context<'_>) -> Result<Outcome> {
    let target = match (options.edge, options.to) {
        (Some(edge), _) => QuadTarget::Edge(context.length(edge)?),
        (_, Some(budget)) => {
            let triangles = context.model.mesh.triangle_count();
            QuadTarget::Count(budget.of(triangles).max(1))
        }
        _ => bail!("give --edge LENGTH or --to BUDGET"),
    };
    let mut how = QuadOptions::of(target);
    how.crease = options.crease;
    if let Some(under) = options.ignore_lines_under {
        how.short_features = ShortFeatures::Under(context.length(under)?);
    }
    let outcome = quads::quads(context.model, &how, context.observer)?;
    let step = report(context, &outcome, target);
    Ok(Outcome::new(outcome.model, vec![step]))
}

fn report(context: &Context<'_>, outcome: &QuadOutcome, target: QuadTarget) -> StepReport {
    let made = outcome.model.mesh.face_count();
    let mut did = vec![
        said!(
            "into-quads",
            "{before} → {quads:quad} of about {edge} a side",
            before = context.model.mesh.face_count(),
            quads = made,
            edge = outcome.edge,
        ),
        said!(
            "irregular-vertices",
            "{vertices:vertex} irregular ({share} of all)",
            vertices = outcome.irregular,
            share = crate::text::percent(
                outcome.irregular as f64 / outcome.model.mesh.vertex_count().max(1) as f64
            ),
        ),
    ];
    if outcome.feature_edges > 0 {
        did.push(said!(
            "on-lines",
            "{edges:edge} along creases, rims and borders of groups",
            edges = outcome.feature_edges,
        ));
    }
    let mut step = rebuilt_step("remesh", did, context, &outcome.model);
    if outcome.quads_paired > 0 {
        step.left.push(said!(
            "paired-quads",
            "{quads:quad} are divided pairs of triangles, which do not follow the form: no map was found for their \
             parts ({parts} of {all}); `hurmo mend` first, or shorter sides, may help",
            quads = outcome.quads_paired,
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
