//! The audit: measures, and what each check of the registry finds.
//!
//! ```text
//! model ─▶ Survey (edges, parts, rims, patches, fans: each worked out once)
//!            ├─▶ facts
//!            └─▶ every check in CHECKS ─▶ findings, each with its level in the brief
//! ```
//!
//! To add a check: write a file in `checks/` with one [`Check`] and name it in [`CHECKS`].

mod brief;
mod checks;
mod facts;
mod place;
mod survey;

pub use brief::{Brief, Level, Levels};
pub use checks::{CHECKS, named};
pub(crate) use checks::{doubles, is_zero_area};
pub use facts::MeshFacts;
pub use place::Place;
pub use survey::Survey;

use crate::mesh::Model;
use crate::progress::Observer;
use rayon::prelude::*;
use serde::Serialize;

/// One kind of fault, and how it is found.
pub struct Check {
    /// Its name, in lower case with hyphens.
    pub name: &'static str,
    /// What is counted, in one line.
    pub counts: &'static str,
    /// What goes wrong later because of it.
    pub harm: &'static str,
    /// What clears it.
    pub cure: &'static str,
    /// How bad it is, by brief.
    pub levels: Levels,
    /// Looks for it.
    pub find: fn(&Survey<'_>, usize) -> Found,
}

/// What a check found: how many, and some of the places.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Found {
    /// How many there are.
    pub count: usize,
    /// Where the first of them are, up to the limit asked for.
    pub places: Vec<Place>,
}

impl Found {
    /// Counts `elements` and turns the first `limit` of them into places.
    pub fn from_all<E>(
        elements: impl Iterator<Item = E>,
        limit: usize,
        place: impl Fn(E) -> Place,
    ) -> Self {
        let mut found = Self::default();
        for element in elements {
            if found.places.len() < limit {
                found.places.push(place(element));
            }
            found.count += 1;
        }
        found
    }
}

/// What to look for.
#[derive(Clone, Debug)]
pub struct Options {
    /// Which brief sets the levels.
    pub brief: Brief,
    /// How many places to list a check.
    pub places: usize,
}

impl Default for Options {
    fn default() -> Self {
        Self {
            brief: Brief::General,
            places: 20,
        }
    }
}

/// One kind of fault in one model.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Finding {
    /// The check's name.
    pub check: &'static str,
    /// How bad it is in this brief.
    pub level: Level,
    /// How many there are.
    pub count: usize,
    /// Where: the first few.
    pub places: Vec<Place>,
}

/// All that an audit says about a model.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Audit {
    /// Measures.
    pub mesh: MeshFacts,
    /// One for every check, in the order of the registry, also those that found nothing.
    pub findings: Vec<Finding>,
}

impl Audit {
    /// The count of a check; 0 when it isn't in the registry.
    pub fn count(&self, check: &str) -> usize {
        self.findings
            .iter()
            .find(|finding| finding.check == check)
            .map_or(0, |finding| finding.count)
    }

    /// The findings that block the brief.
    pub fn blocking(&self) -> impl Iterator<Item = &Finding> {
        self.findings
            .iter()
            .filter(|finding| finding.level == Level::Block && finding.count > 0)
    }

    /// Whether nothing blocks. A model without faces is never good to go.
    pub fn passes(&self) -> bool {
        self.mesh.faces > 0 && self.blocking().next().is_none()
    }
}

/// Audits a model. Cost: near-linear in its corners.
pub fn audit(model: &Model, options: &Options, observer: &dyn Observer) -> Audit {
    observer.begin("auditing", 0);
    report(&Survey::of(model), options)
}

/// The audit of a model that has been surveyed already.
pub fn report(survey: &Survey<'_>, options: &Options) -> Audit {
    let findings = CHECKS
        .par_iter()
        .map(|check| {
            let found = (check.find)(survey, options.places);
            Finding {
                check: check.name,
                level: check.levels.in_brief(options.brief),
                count: found.count,
                places: found.places,
            }
        })
        .collect();
    Audit {
        mesh: MeshFacts::of(survey),
        findings,
    }
}

#[cfg(test)]
mod tests;
