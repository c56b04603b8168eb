//! The audit: measures, and what each check of the registry finds.
//!
//! ```text
//! model ─▶ MeshAnalysis (edges, parts, rims, patches, fans: each worked out once)
//!            ├─▶ facts
//!            └─▶ every check in CHECKS ─▶ findings, each with its level in the brief
//! ```
//!
//! To add a check: write a file in `checks/` with one [`Check`] and name it in [`CHECKS`].
//!
//! ```
//! use hurmo_core::audit::{AuditOptions, audit};
//! use hurmo_core::{Model, shapes};
//!
//! // A sheet has an open rim; a sphere has none.
//! let sheet = Model::from(shapes::grid(4, 4, 1.0, 1.0));
//! let found = audit(&sheet, &AuditOptions::default(), &())?;
//! assert_eq!(found.count("open-edges"), 16);
//! let ball = Model::from(shapes::sphere(1.0, 3));
//! let found = audit(&ball, &AuditOptions::default(), &())?;
//! assert!(found.passes() && found.mesh.watertight);
//! # Ok::<(), hurmo_core::Failure>(())
//! ```

mod analysis;
mod brief;
mod caps;
mod checks;
mod facts;
mod found;
mod place;

pub use analysis::{Meeting, MeshAnalysis, SortedAnalysis};
pub use brief::{Brief, Handoff, Level, Levels, Limits, Mending, Thresholds};
pub use checks::{CHECKS, named};
pub(crate) use checks::{doubles, is_sliver, is_zero_area, least_area};
pub(crate) use checks::{interior, is_bent, is_concave, nested};
pub use facts::{MeshFacts, UvFacts};
pub use found::{Found, Measure};
pub use place::{Elements, Place};

use crate::mesh::{FaceId, Mesh, Model};
use crate::parallel::mapped_of;
use crate::progress::{Cancelled, Observer};
use crate::units::{Axis, Length};

/// The kind of work that clears the findings of a check.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Remedy {
    /// Mending, as it is done unless more is asked for.
    Mend,
    /// Mending, where the check is named.
    MendByName,
    /// Filling holes.
    Fill,
    /// Reducing.
    Decimate,
    /// Remeshing.
    Remesh,
    /// Changing how the model is stored, its unit, size, place, names, normals or UVs.
    Convert,
    /// Work in the program that made the model, or a decision.
    ByHand,
}

/// One kind of fault, and how it is found.
pub struct Check {
    /// Its name, in lower case with hyphens.
    pub name: &'static str,
    /// What is counted, in one line.
    pub counts: &'static str,
    /// What goes wrong later because of it.
    pub harm: &'static str,
    /// What clears it.
    pub remedy: Remedy,
    /// A small drawing in text.
    pub drawing: &'static str,
    /// How bad it is, by brief.
    pub levels: Levels,
    /// What must have been worked out before.
    pub needs: Needs,
    /// Looks for it.
    pub find: fn(&MeshAnalysis<'_>, &Search) -> Result<Found, NotRun>,
}

/// What a check builds on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Needs {
    /// Connectivity and measures, which every audit works out.
    Connectivity,
    /// The triangles under a hierarchy of boxes.
    TriangleHierarchy,
    /// Which faces meet.
    Contacts,
}

/// Why a check was not run.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum NotRun {
    /// It looks for nothing unless something is stated, and nothing was.
    NotAsked,
    /// Something is missing.
    Lacks(String),
}

impl NotRun {
    /// Telling inside from outside would take too long.
    pub(crate) fn too_long() -> Self {
        let reason = "the faces lie on each other so much that it would take very long";
        Self::Lacks(reason.into())
    }
}

/// What to look for.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct AuditOptions {
    /// What sets levels, thresholds and limits.
    pub brief: Brief,
    /// How many places to list a check.
    pub places: usize,
    /// The model is one half of a whole that is mirrored along this axis, at 0.
    pub mirror: Option<Axis>,
    /// Which set of UVs is looked at, from 0.
    pub uv_set: usize,
}

impl Default for AuditOptions {
    fn default() -> Self {
        Self {
            brief: Brief::general(),
            places: 20,
            mirror: None,
            uv_set: 0,
        }
    }
}

/// AuditOptions as they apply to one model.
#[derive(Clone, Debug)]
pub struct Search {
    /// The brief.
    pub brief: Brief,
    /// How many places to list.
    pub limit: usize,
    /// See [`AuditOptions::mirror`].
    pub mirror: Option<Axis>,
    /// See [`AuditOptions::uv_set`].
    pub uv_set: usize,
}

impl Search {
    /// A length of the brief in the model's own units.
    ///
    /// # Errors
    /// When the model's unit is needed and not known.
    pub fn length(&self, analysis: &MeshAnalysis<'_>, length: Length) -> Result<f64, NotRun> {
        length
            .in_model(analysis.model.unit, analysis.diagonal)
            .map_err(|error| NotRun::Lacks(error.to_string()))
    }
}

/// One kind of fault in one model.
#[derive(Clone, Debug, PartialEq)]
pub struct Finding {
    /// The check's name.
    pub check: &'static str,
    /// How bad it is in this brief.
    pub level: Level,
    /// What was found.
    pub found: Found,
}

impl Finding {
    /// How many elements are at fault.
    pub fn count(&self) -> usize {
        self.found.count
    }
}

/// A check that was wanted and could not be run.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Missing {
    /// The check's name.
    pub check: &'static str,
    /// Why.
    pub reason: String,
}

/// All that an audit says about a model.
#[derive(Clone, Debug, PartialEq)]
pub struct Audit {
    /// Measures.
    pub mesh: MeshFacts,
    /// One for every check that was run, in the order of the registry, also those that found
    /// nothing.
    pub findings: Vec<Finding>,
    /// The checks that were wanted and could not be run.
    pub missing: Vec<Missing>,
    /// The faces that meet others, sorted, where that was looked for.
    pub meeting: Option<Vec<FaceId>>,
}

impl Audit {
    /// The count of a check; 0 when it wasn't run.
    pub fn count(&self, check: &str) -> usize {
        self.findings
            .iter()
            .find(|finding| finding.check == check)
            .map_or(0, Finding::count)
    }

    /// The checks that were run and found nothing.
    pub fn clear(&self) -> impl Iterator<Item = &'static str> {
        let clear = self.findings.iter().filter(|finding| finding.count() == 0);
        clear.map(|finding| finding.check)
    }

    /// The findings that block the brief.
    pub fn blocking(&self) -> impl Iterator<Item = &Finding> {
        self.findings
            .iter()
            .filter(|finding| finding.level == Level::Block && finding.count() > 0)
    }

    /// Whether nothing blocks. A model without faces is never good to go.
    pub fn passes(&self) -> bool {
        self.mesh.faces > 0 && self.blocking().next().is_none()
    }
}

/// Audits a model. Cost: near-linear in its corners, and in pairs of faces that are close to
/// each other where the brief asks which faces meet.
///
/// # Errors
/// When the observer says to stop.
pub fn audit(
    model: &Model,
    options: &AuditOptions,
    observer: &dyn Observer,
) -> Result<Audit, Cancelled> {
    observer.begin("auditing", 0);
    let mut analysis = MeshAnalysis::of(model);
    report(&mut analysis, options, observer)
}

/// Audits what has become of a model that was audited with the same options before. Faces that
/// stayed where they were are not held against each other again.
///
/// # Errors
/// When the observer says to stop.
pub fn audit_again(
    model: &Model,
    (before, then): (&Model, &Audit),
    options: &AuditOptions,
    observer: &dyn Observer,
) -> Result<Audit, Cancelled> {
    if model == before {
        return Ok(then.clone());
    }
    observer.begin("auditing", 0);
    let mut analysis = MeshAnalysis::of(model);
    if let Some(meeting) = &then.meeting {
        analysis = analysis.knowing(&before.mesh, meeting);
    }
    report(&mut analysis, options, observer)
}

/// Audits a model, faces of which are known to be `apart`: none of these meets another. Faces of the model that are
/// among them are not held against each other.
///
/// # Errors
/// When the observer says to stop.
pub fn audit_known(
    model: &Model,
    apart: &Mesh,
    options: &AuditOptions,
    observer: &dyn Observer,
) -> Result<Audit, Cancelled> {
    observer.begin("auditing", 0);
    let mut analysis = MeshAnalysis::of(model).knowing(apart, &[]);
    report(&mut analysis, options, observer)
}

/// The audit of a model that has been analysed already.
///
/// # Errors
/// When the observer says to stop.
pub fn report(
    analysis: &mut MeshAnalysis<'_>,
    options: &AuditOptions,
    observer: &dyn Observer,
) -> Result<Audit, Cancelled> {
    observer.check()?;
    let wanted: Vec<(&Check, Level)> = options.brief.wanted().collect();
    analysis.look_at_uv_set(options.uv_set);
    if let Some(needs) = wanted.iter().map(|(check, _)| check.needs).max() {
        analysis.prepare(needs, observer);
    }
    observer.check()?;
    observer.begin("auditing", 0);
    let analysis = &*analysis;
    let search = Search {
        brief: options.brief.clone(),
        limit: options.places,
        mirror: options.mirror,
        uv_set: options.uv_set,
    };
    let find = || -> Result<Vec<_>, Cancelled> {
        let found = mapped_of(&wanted, 1, |(check, level)| {
            observer.check()?;
            Ok((check.name, *level, (check.find)(analysis, &search)))
        });
        found.into_iter().collect()
    };
    let (outcomes, mesh) = rayon::join(find, || MeshFacts::of(analysis, options.uv_set));
    let mut audit = Audit {
        mesh,
        findings: Vec::new(),
        missing: Vec::new(),
        meeting: analysis.contacts().map(|contacts| {
            let faces = analysis.mesh.face_ids();
            faces.filter(|&face| contacts.touches(face)).collect()
        }),
    };
    for (check, level, outcome) in outcomes? {
        match outcome {
            Ok(found) => audit.findings.push(Finding {
                check,
                level,
                found,
            }),
            Err(NotRun::NotAsked) => {}
            Err(NotRun::Lacks(reason)) => audit.missing.push(Missing { check, reason }),
        }
    }
    Ok(audit)
}

#[cfg(test)]
mod tests;
