//! The whole job in one go: the order of steps that `hurmo prep` follows.
//!
//! ```text
//! mend ─▶ remesh ─▶ decimate ─▶ fill ─▶ mend ─▶ … until nothing blocks
//!      (if asked) (if asked) (if it must be closed)
//! ```

use crate::out::{self, count};
use crate::story::{Moved, Step};
use anyhow::Result;
use hurmo_core::audit::{Audit, Brief, Level};
use hurmo_core::mesh::PartId;
use hurmo_core::progress::Observer;
use hurmo_core::triangulate::Which;
use hurmo_core::{Model, decimate, fill, mend, remesh};

/// Where sheets are taken apart, the new vertices move by this share of the diagonal, so that
/// no weld and no format that joins equal positions ties them together again.
pub const GAP: f64 = 1e-5;

/// What to do.
#[derive(Clone, Debug)]
pub struct Plan {
    /// What the model is for.
    pub brief: Brief,
    /// Cut one-sided patches open, so that they can be made consistent.
    pub cut_one_sided: bool,
    /// At most so many triangles.
    pub to: Option<usize>,
    /// Even triangles first.
    pub remesh: Option<remesh::Options>,
}

/// A pipeline under way.
pub struct Pipeline<'a> {
    plan: &'a Plan,
    observer: &'a dyn Observer,
    /// The model by now.
    pub model: Model,
    /// What was done by now.
    pub steps: Vec<Step>,
    /// What could not be kept.
    pub lost: Vec<String>,
}

impl<'a> Pipeline<'a> {
    /// Begins with a model.
    pub fn new(model: Model, plan: &'a Plan, observer: &'a dyn Observer) -> Self {
        Self {
            plan,
            observer,
            model,
            steps: Vec::new(),
            lost: Vec::new(),
        }
    }

    /// Runs all steps. `audit` judges on the way.
    pub fn run(&mut self, audit: impl Fn(&Model) -> Audit) -> Result<()> {
        self.mend()?;
        if let Some(options) = &self.plan.remesh {
            let (model, step) = remeshed(&self.model, options, self.observer, &mut self.lost)?;
            self.take(model, step);
        }
        self.reduce();
        self.close_until_sound(audit)
    }

    /// Fills, mends and, where that went over the budget, reduces, until nothing blocks or
    /// nothing changes any more.
    pub fn close_until_sound(&mut self, audit: impl Fn(&Model) -> Audit) -> Result<()> {
        for _ in 0..3 {
            let done = self.steps.len();
            if self.plan.brief.wants_closed() {
                let outcome = fill::fill(&self.model, &fill::Options::default(), self.observer);
                let step = Step::filled(&self.model, &outcome);
                self.take(outcome.model, step);
            }
            self.reduce();
            self.mend()?;
            let nothing_done = self.steps[done..].iter().all(|step| step.did.is_empty());
            if nothing_done || audit(&self.model).passes() {
                break;
            }
        }
        Ok(())
    }

    fn take(&mut self, model: Model, step: Step) {
        self.model = model;
        // What a step that did nothing leaves, an earlier one may have told already.
        let told_it = |old: &Step| old.step == step.step && old.left == step.left;
        let says_nothing_new = step.did.is_empty() && self.steps.iter().any(told_it);
        if !step.is_empty() && !says_nothing_new {
            self.steps.push(step);
        }
    }

    fn mend(&mut self) -> Result<()> {
        let brief = &self.plan.brief;
        let mut clear: Vec<String> = mend::safe().map(String::from).collect();
        if brief.wants_closed() {
            clear.push("nonmanifold-edges".into());
        }
        if brief.wants_no_scraps() {
            clear.push("floating-parts".into());
        }
        let polygons = ["concave-faces", "non-planar-faces", "ngons"];
        let rejected = |check: &&str| brief.level(check) == Level::Block;
        clear.extend(polygons.into_iter().filter(rejected).map(String::from));
        clear.extend(brief.mending.clear.iter().cloned());
        let options = mend::Options {
            clear,
            keep: brief.mending.keep.clone(),
            near: brief.wants_all_welded().then_some(0.0),
            sliver_ratio: Some(brief.thresholds.sliver_ratio),
            triangulate: brief.handoff.triangles.then_some(Which::All),
            cut_one_sided: self.plan.cut_one_sided,
            gap: GAP * diagonal(&self.model),
            ..mend::Options::default()
        };
        let outcome = mend::mend(&self.model, &options, self.observer)?;
        let step = Step::mended(&self.model, &outcome);
        self.take(outcome.model, step);
        Ok(())
    }

    fn reduce(&mut self) {
        let over = |to: &usize| crate::job::triangle_count(&self.model) > *to;
        if let Some(to) = self.plan.to.filter(over) {
            let options = decimate::Options {
                to: Some(to),
                ..decimate::Options::default()
            };
            let (model, step) = decimated(&self.model, &options, self.observer);
            self.take(model, step);
        }
    }
}

fn diagonal(model: &Model) -> f64 {
    hurmo_core::measure::bounds(&model.mesh).map_or(0.0, |bounds| bounds.diagonal())
}

fn note_losses(lost: &mut Vec<String>, what: &[&str], by: &str) {
    for what in what {
        lost.push(format!(
            "{what} of corners: {by} does not carry them over yet"
        ));
    }
}

/// Reduces a model.
pub fn decimated(
    model: &Model,
    options: &decimate::Options,
    observer: &dyn Observer,
) -> (Model, Step) {
    let outcome = decimate::decimate(model, options, observer);
    let after = crate::job::triangle_count(&outcome.model);
    let mut did = Vec::new();
    if after != outcome.before {
        did.push(format!(
            "{} → {} triangles",
            count(outcome.before),
            count(after)
        ));
    }
    if outcome.polygons_cut > 0 {
        did.push(format!(
            "{} cut into triangles first",
            out::counted(outcome.polygons_cut, "polygon")
        ));
    }
    if !outcome.dropped.is_empty() {
        let dropped = out::counted(outcome.dropped.len(), "small part");
        did.push(format!("{dropped} dropped"));
    }
    if outcome.normals_anew {
        did.push("normals made anew between hard edges".into());
    }
    if let Some(held) = outcome.held {
        let first = match options.to.is_some_and(|to| after <= to) {
            true => "the budget came first; ",
            false => "",
        };
        did.push(format!(
            "{first}within {} both ways: proved",
            out::measure(held)
        ));
    }
    let left = outcome.stopped_by.map(|why| match options.to {
        Some(to) => format!(
            "the budget of {} was not reached: {why}",
            out::counted(to, "triangle")
        ),
        None => format!("no further: {why}"),
    });
    let step = Step {
        step: "decimate",
        did,
        single: dropped_parts(&outcome.dropped),
        left: left.into_iter().collect(),
        moved: Moved::Both.between(&model.mesh, &outcome.model.mesh),
    };
    (outcome.model, step)
}

/// What is said of parts that a reduction dropped.
fn dropped_parts(dropped: &[PartId]) -> Vec<String> {
    let mut names: Vec<String> = dropped
        .iter()
        .map(|part| format!("{part} dropped"))
        .collect();
    crate::story::shorten(&mut names, 6);
    names
}

/// Remeshes a model into triangles.
pub fn remeshed(
    model: &Model,
    options: &remesh::Options,
    observer: &dyn Observer,
    lost: &mut Vec<String>,
) -> Result<(Model, Step)> {
    let outcome = remesh::remesh(model, options, observer)?;
    note_losses(lost, &outcome.lost, "remeshing");
    let step = Step {
        step: "remesh",
        did: vec![format!(
            "{} → {} triangles of about {} a side, {} on lines kept",
            count(outcome.before),
            count(outcome.model.mesh.face_count()),
            out::measure(outcome.edge),
            out::counted(outcome.line_edges, "edge"),
        )],
        single: Vec::new(),
        left: Vec::new(),
        moved: Moved::Both.between(&model.mesh, &outcome.model.mesh),
    };
    Ok((outcome.model, step))
}
