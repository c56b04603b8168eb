//! Steps on one model, each measured and audited.

use super::job::Job;
use super::watch::Watch;
use crate::operation::{Context, Instruction, Operation};
use crate::plan::MayBreak;
use crate::record::{Blocks, Grown, Statement, StepRecord, StepReport, Stopped, StoppedBecause};
use crate::said;
use anyhow::Result;
use glam::DAffine3;
use hurmo_core::audit::{Audit, Level};
use hurmo_core::measure::{EachWay, Reference};
use hurmo_core::progress::Observer;
use hurmo_core::{Mesh, Model};
use std::borrow::Cow;

/// Samples on each surface when measuring how far the model has come from what was read.
const SAMPLES: usize = 20_000;

/// A model on its way through the steps.
pub struct Runner<'a> {
    job: &'a Job<'a>,
    observer: &'a dyn Observer,
    reference: Option<Reference<'static>>,
    /// Where the steps took all points.
    way: DAffine3,
    /// By what they multiplied all lengths.
    pub scaled: f64,
    /// What the steps made of it; nothing before the first.
    made: Option<(Model, Audit)>,
    /// How far that and what was read lie apart, once it was measured.
    apart: Option<EachWay>,
    /// What was done by now.
    pub records: Vec<StepRecord>,
    /// What could not be kept.
    pub lost: Vec<Statement>,
    /// What the last reduction was asked for and did not reach.
    pub missed: Vec<Statement>,
    /// Why it ended early.
    pub stopped: Option<Stopped>,
}

/// A model on its way, as it was.
pub struct Mark {
    made: Option<(Model, Audit)>,
    apart: Option<EachWay>,
    lost: usize,
    /// How many steps had been done.
    steps: usize,
    way: DAffine3,
    scaled: f64,
}

impl Mark {
    /// The audit of that model; none where it was still the one that was read.
    pub fn audit(&self) -> Option<&Audit> {
        self.made.as_ref().map(|(_, audit)| audit)
    }
}

impl<'a> Runner<'a> {
    /// Begins with a model as it was read.
    pub fn new(job: &'a Job<'a>, observer: &'a dyn Observer) -> Self {
        Self {
            job,
            observer,
            way: DAffine3::IDENTITY,
            scaled: 1.0,
            reference: Reference::new(&job.model.mesh, SAMPLES),
            made: None,
            apart: None,
            records: Vec::new(),
            lost: Vec::new(),
            missed: Vec::new(),
            stopped: None,
        }
    }

    /// Does a step. Where it makes more of what blocks than it may, its result is thrown away, and
    /// the job has stopped.
    pub fn step(&mut self, instruction: &Instruction, may_break: &MayBreak) -> Result<()> {
        let watch = Watch::begin();
        let original = match instruction.operation {
            Operation::Bake(_) | Operation::Transfer(_) => Some(self.original_shown()?),
            _ => None,
        };
        let context = Context {
            model: self.model(),
            audit: self.audit(),
            analysis: None,
            original: original.as_ref(),
            brief: self.job.brief,
            single_precision: self.job.single_precision,
            observer: self.observer,
        };
        let found = instruction.operation.finds(&context);
        let done = instruction.operation.apply(&context)?;
        let audit = self
            .job
            .audit_done(&done.model, &done, (context.model, context.audit))?;
        let blocks = blocks(context.audit, &audit);
        let way = done.carried.unwrap_or_default() * self.way;
        let there = done.carried.map(|_| moved(&self.job.model.mesh, way));
        let carried = there
            .transpose()?
            .map(|there| Reference::new(&there, SAMPLES));
        let reference = carried.as_ref().unwrap_or(&self.reference);
        let from_original = match self.apart {
            Some(apart) if done.model.mesh == context.model.mesh => Some(apart),
            _ => apart(reference, &done.model.mesh),
        };
        let scale = done
            .carried
            .map_or(1.0, |way| way.matrix3.determinant().abs().cbrt());
        let stopped = why_stop(&blocks, &audit, may_break);
        let watched = watch.end();
        self.records.push(StepRecord {
            step: instruction.operation.name(),
            options: instruction.words[1..].to_vec(),
            found,
            reports: done.reports,
            kept: stopped.is_none(),
            mesh: audit.mesh.clone(),
            blocks,
            scaled: self.scaled * scale,
            from_original,
            seconds: watched.seconds,
            peak_bytes: watched.peak_bytes,
        });
        match stopped {
            Some(why) => {
                self.stopped = Some(Stopped {
                    step: self.records.len(),
                    why,
                });
            }
            None => {
                self.scaled *= scale;
                self.way = way;
                if let Some(reference) = carried {
                    self.reference = reference;
                }
                self.made = Some((done.model, audit));
                self.apart = from_original;
                self.lost.extend(done.lost);
                if matches!(
                    instruction.operation,
                    Operation::Decimate(_) | Operation::Remesh(_) | Operation::Reskin(_)
                ) {
                    self.missed = done.missed;
                }
            }
        }
        Ok(())
    }

    /// Does a step whose result is kept only if it makes something better, by its audit; says whether
    /// it was. What it did is reported either way.
    pub fn attempt(
        &mut self,
        instruction: &Instruction,
        is_better: impl Fn(&Audit, &Audit) -> Result<(), Statement>,
    ) -> Result<bool> {
        let mark = self.mark();
        self.step(instruction, &MayBreak::All)?;
        let made = mark.made.as_ref();
        let before = made.map_or(&self.job.audit, |(_, audit)| audit);
        let verdict = match self.stopped.take() {
            Some(stopped) => Err(said!("stopped", "{why}", why = stopped.why.to_string())),
            None => is_better(before, self.audit()),
        };
        let Err(why) = verdict else { return Ok(true) };
        self.throw_away(mark, why);
        Ok(false)
    }

    /// Where the model is now, to come back to.
    pub fn mark(&self) -> Mark {
        Mark {
            made: self.made.clone(),
            apart: self.apart,
            lost: self.lost.len(),
            steps: self.records.len(),
            way: self.way,
            scaled: self.scaled,
        }
    }

    /// Goes back to what the model was; what was done since stays in the report.
    pub fn go_back(&mut self, mark: Mark) {
        self.made = mark.made;
        self.apart = mark.apart;
        self.lost.truncate(mark.lost);
        (self.way, self.scaled) = (mark.way, mark.scaled);
    }

    /// The same, and marks those steps as tried and not kept.
    pub fn throw_away(&mut self, mark: Mark, why: Statement) {
        for record in &mut self.records[mark.steps..] {
            record.kept = false;
            record.reports = vec![StepReport::not_kept(record.step, why.clone())];
        }
        self.go_back(mark);
    }

    /// Tells of a step that could not be done.
    pub fn tried_in_vain(&mut self, step: &'static str, instruction: &Instruction, why: Statement) {
        let watched = Watch::begin().end();
        let audit = self.audit();
        self.records.push(StepRecord {
            step,
            options: instruction.words[1..].to_vec(),
            found: Vec::new(),
            reports: vec![StepReport::not_kept(step, why)],
            kept: false,
            mesh: audit.mesh.clone(),
            blocks: blocks(audit, audit),
            scaled: self.scaled,
            from_original: self.apart,
            seconds: watched.seconds,
            peak_bytes: watched.peak_bytes,
        });
    }

    /// The model by now.
    pub fn model(&self) -> &Model {
        self.made
            .as_ref()
            .map_or(self.job.model, |(model, _)| model)
    }

    /// Its audit.
    pub fn audit(&self) -> &Audit {
        self.made
            .as_ref()
            .map_or(&self.job.audit, |(_, audit)| audit)
    }

    /// Goes on with another model: what was read back from the file.
    pub fn take(&mut self, model: Model, audit: Audit) {
        if model.mesh != self.model().mesh {
            self.apart = None;
        }
        self.made = Some((model, audit));
    }

    /// How many triangles the model had that was read.
    pub fn triangles_read(&self) -> usize {
        self.job.model.mesh.triangle_count()
    }

    /// How far the model by now and the one that was read lie apart.
    pub fn apart(&self) -> Option<EachWay> {
        let measured = || apart(&self.reference, &self.model().mesh);
        self.apart.or_else(measured)
    }

    /// The model that was read, turned, scaled and moved as the steps did.
    pub fn original(&self) -> Result<Cow<'_, Model>> {
        match self.way == DAffine3::IDENTITY {
            true => Ok(Cow::Borrowed(self.job.model)),
            false => Ok(Cow::Owned(Model {
                mesh: moved(&self.job.model.mesh, self.way)?,
                ..self.job.model.clone()
            })),
        }
    }

    /// The same with its instances written out, and normals turned along.
    fn original_shown(&self) -> Result<Model> {
        hurmo_formats::check_instances(self.job.model)?;
        let mut original = self.job.model.expanded();
        original.convert(self.way.matrix3)?;
        let way = self.way.translation;
        original.mesh.move_vertices(|_, place| place + way)?;
        Ok(original)
    }
}

/// A mesh somewhere else.
fn moved(mesh: &Mesh, way: DAffine3) -> Result<Mesh> {
    let mut moved = mesh.clone();
    moved.move_vertices(|_, place| way.transform_point3(place))?;
    Ok(moved)
}

fn apart(reference: &Option<Reference<'_>>, mesh: &Mesh) -> Option<EachWay> {
    reference.as_ref()?.deviation(mesh)
}

/// What blocks before or after a step.
fn blocks(before: &Audit, after: &Audit) -> Vec<Blocks> {
    let findings = after.findings.iter();
    findings
        .filter(|finding| finding.level == Level::Block)
        .map(|finding| Blocks {
            check: finding.check,
            before: before.count(finding.check),
            after: finding.count(),
        })
        .filter(|blocks| blocks.before > 0 || blocks.after > 0)
        .collect()
}

fn why_stop(blocks: &[Blocks], audit: &Audit, may_break: &MayBreak) -> Option<StoppedBecause> {
    if audit.mesh.faces == 0 {
        return Some(StoppedBecause::NoFaceLeft);
    }
    let broke = blocks
        .iter()
        .filter(|blocks| blocks.grew() && !may_break.allows(blocks.check));
    let checks: Vec<Grown> = broke
        .map(|blocks| Grown {
            check: blocks.check.to_string(),
            before: blocks.before,
            after: blocks.after,
        })
        .collect();
    (!checks.is_empty()).then_some(StoppedBecause::MoreBlocks { checks })
}
