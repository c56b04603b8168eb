//! Parts, one by one: what each is, keeping and dropping them, taking a model apart and putting
//! several together.
//!
//! Parts have the names that the audit gives them: `P1` has the most faces.

mod crumbs;
mod cut_off;
mod groups;
mod join;
mod meeting;
mod objects;
mod pieces;
mod replaced;

pub use crumbs::take_in_crumbs;
pub use cut_off::cut_off;
pub use groups::group_by_part;
pub use join::{Joined, joined};
pub use meeting::{MeetingError, where_meeting};
pub use objects::as_objects;
pub use pieces::{By, Piece, only, pieces, without};
pub use replaced::replaced;

use crate::audit::{MeshAnalysis, Needs};
use crate::geometry::Bounds;
use crate::measure::{Floating, PartMeasure, signed_volume_term};
use crate::mesh::{Model, PartId};
use crate::progress::Observer;
use std::collections::BTreeSet;

/// Whether a part's surface ends anywhere.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "serde", serde(rename_all = "lowercase"))]
pub enum Surface {
    /// Every edge has two sides.
    Closed,
    /// Some edge has one.
    Open,
    /// None has one, but some have more than two.
    Branching,
}

/// One part, as a person would want it described.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
#[cfg_attr(feature = "schemars", derive(schemars::JsonSchema))]
pub struct PartFacts {
    /// Its name.
    #[cfg_attr(feature = "schemars", schemars(with = "String"))]
    pub part: PartId,
    /// How many faces.
    pub faces: usize,
    /// Sum of their areas, in square units.
    pub area: f64,
    /// The box round it.
    pub bounds: Bounds,
    /// Whether it ends anywhere.
    pub surface: Surface,
    /// What it encloses when its faces are turned outward, in cubic units; of a closed part.
    pub volume: Option<f64>,
    /// The smallest part that it lies wholly inside.
    #[cfg_attr(feature = "schemars", schemars(with = "Option<String>"))]
    pub inside: Option<PartId>,
    /// Whether it is the wall of a hollow in another part.
    pub hollow: bool,
    /// The parts whose faces meet its own.
    #[cfg_attr(feature = "schemars", schemars(with = "Vec<String>"))]
    pub meets: Vec<PartId>,
    /// Whether it is small enough to be scrap (the check `floating-parts`).
    pub floating: bool,
    /// Whether it is small and perhaps there on purpose: closed, and within the bounds of the
    /// largest.
    pub perhaps_wanted: bool,
    /// Names of its objects and groups.
    pub groups: Vec<String>,
    /// Names of its materials.
    pub materials: Vec<String>,
}

impl PartFacts {
    /// A part of which its measures are known only.
    fn of(measure: &PartMeasure) -> Self {
        Self {
            part: measure.part,
            faces: measure.faces,
            area: measure.area,
            bounds: measure.bounds,
            surface: Surface::Closed,
            volume: None,
            inside: None,
            hollow: true,
            meets: Vec::new(),
            floating: false,
            perhaps_wanted: false,
            groups: Vec::new(),
            materials: Vec::new(),
        }
    }
}

/// Describes every part, in the order of their names.
pub fn described(model: &Model, observer: &dyn Observer) -> Vec<PartFacts> {
    let mut analysis = MeshAnalysis::of(model);
    analysis.prepare(Needs::Contacts, observer);
    let mesh = analysis.mesh;
    let count = analysis.parts.len();
    let mut facts: Vec<PartFacts> = analysis.part_measures.iter().map(PartFacts::of).collect();
    for edge in analysis.edges.ids() {
        let sides = analysis.edges.sides(edge);
        let Some(part) = analysis.parts.of_face(mesh, sides[0].face) else {
            continue;
        };
        let surface = &mut facts[part.index()].surface;
        match sides.len() {
            1 => *surface = Surface::Open,
            2 => {}
            _ if *surface == Surface::Closed => *surface = Surface::Branching,
            _ => {}
        }
    }
    let tags = &model.attributes.tags;
    let mut seen: Vec<BTreeSet<u32>> = vec![BTreeSet::new(); count];
    let mut volumes = vec![0.0; count];
    for face in mesh.face_ids() {
        let Some(part) = analysis.parts.of_face(mesh, face).map(PartId::index) else {
            continue;
        };
        if let Some(&tag) = tags.of_face.get(face.index()) {
            seen[part].insert(tag);
        }
        let patch = analysis.patches.of_face[face.index()] as usize;
        facts[part].hollow &= analysis.patches.hollow[patch];
        let term = signed_volume_term(mesh, face, facts[part].bounds.middle()) / 6.0;
        volumes[part] += match analysis.patches.reversed[face.index()] {
            true => -term,
            false => term,
        };
    }
    for (facts, (volume, seen)) in facts.iter_mut().zip(volumes.into_iter().zip(seen)) {
        // A hollow's wall looks inward; what it encloses is as large all the same.
        facts.volume = (facts.surface == Surface::Closed).then_some(volume.abs());
        let tags = || seen.iter().map(|&tag| &tags.table[tag as usize]);
        let groups = tags().flat_map(|tag| [&tag.object, &tag.group]).flatten();
        facts.groups = distinct(groups);
        facts.materials = distinct(tags().filter_map(|tag| tag.material.as_ref()));
    }
    for (inner, outer) in crate::audit::nested(&analysis) {
        facts[inner.index()].inside = Some(outer);
    }
    let is_closed = |part: PartId| facts[part.index()].surface == Surface::Closed;
    let floating = Floating::of(&analysis.part_measures, is_closed);
    for part in floating.scraps {
        facts[part.index()].floating = true;
    }
    for part in floating.perhaps_wanted {
        facts[part.index()].floating = true;
        facts[part.index()].perhaps_wanted = true;
    }
    if let Some(contacts) = analysis.contacts() {
        for &(a, b) in &contacts.parts {
            facts[a.index()].meets.push(b);
            facts[b.index()].meets.push(a);
        }
    }
    facts
}

fn distinct<'a>(names: impl Iterator<Item = &'a String>) -> Vec<String> {
    let names: BTreeSet<&String> = names.collect();
    names.into_iter().cloned().collect()
}

#[cfg(test)]
mod tests;
