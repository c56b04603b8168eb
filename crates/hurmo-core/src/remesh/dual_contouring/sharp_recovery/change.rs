//! What may be done to a skin, and doing it.

use super::super::surface_extraction::Extracted;
use crate::mesh::VertexId;
use glam::DVec3;

/// What kind a change is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Kind {
    Turned,
    Divided,
    Moved,
    Contracted,
}

/// A change is identified by its kind and its two vertices.
pub type Name = ([VertexId; 2], Kind);

/// Some triangles in place of others.
pub struct Change {
    pub name: Name,
    /// How much nearer it brings the skin to the model.
    pub gain: f64,
    /// The triangles that go, by number.
    pub gone: Vec<u32>,
    /// Those that come; [`NEW`] is the vertex that is added.
    pub instead: Vec<[VertexId; 3]>,
    /// Where a vertex is added.
    pub added: Option<DVec3>,
    /// A vertex that moves, and where to.
    pub moved: Option<(VertexId, DVec3)>,
    /// A vertex that becomes one with another.
    pub merged: Option<[VertexId; 2]>,
    /// An edge that comes and that others might bring, too; the lower end first.
    pub edge: Option<[VertexId; 2]>,
}

/// The one of some changes to a place that brings most.
pub fn best_of(changes: impl Iterator<Item = Change>) -> Option<Change> {
    changes.max_by(|a, b| a.gain.total_cmp(&b.gain).then(b.name.cmp(&a.name)))
}

/// The vertex that a change adds.
pub const NEW: VertexId = VertexId(u32::MAX);

/// A skin with changes made to it: what stays, in order, then what comes, and for each of those
/// which change brought it.
pub fn made(extracted: &Extracted, changes: &[Change]) -> (Extracted, Vec<usize>) {
    let mut goes = vec![false; extracted.triangles.len()];
    let gone = changes.iter().flat_map(|change| &change.gone);
    gone.for_each(|&t| goes[t as usize] = true);
    let mut changed = Extracted {
        positions: extracted.positions.clone(),
        closing: extracted.closing.clone(),
        of_point: extracted.of_point.clone(),
        beyond: extracted.beyond.clone(),
        first_apex: extracted.first_apex,
        names: Vec::new(),
        triangles: (extracted.triangles.iter().zip(&goes))
            .filter_map(|(&t, &goes)| (!goes).then_some(t))
            .collect(),
    };
    let mut maker = Vec::new();
    for (i, change) in changes.iter().enumerate() {
        let new = VertexId::new(changed.positions.len());
        if let Some(place) = change.added {
            changed.positions.push(place);
            changed.closing.push(false);
        }
        if let Some((vertex, place)) = change.moved {
            changed.positions[vertex.index()] = place;
        }
        for triangle in &change.instead {
            changed
                .triangles
                .push(triangle.map(|v| if v == NEW { new } else { v }));
            maker.push(i);
        }
    }
    let merged: rustc_hash::FxHashMap<VertexId, VertexId> = changes
        .iter()
        .filter_map(|change| change.merged)
        .map(|[from, into]| (from, into))
        .collect();
    if !merged.is_empty() {
        for vertex in &mut changed.of_point {
            *vertex = *merged.get(vertex).unwrap_or(vertex);
        }
    }
    (changed, maker)
}

/// A skin without vertices that no triangle has.
pub fn without_unused(mut extracted: Extracted) -> Extracted {
    let mut names = vec![NEW; extracted.positions.len()];
    for v in extracted.triangles.iter().flatten() {
        names[v.index()] = *v;
    }
    if !names.contains(&NEW) {
        return extracted;
    }
    let used = names.iter_mut().filter(|name| **name != NEW);
    for (count, name) in used.enumerate() {
        *name = VertexId::new(count);
    }
    let is_used = |v: usize| names[v] != NEW;
    extracted.first_apex = (0..extracted.first_apex).filter(|&v| is_used(v)).count();
    let mut v = 0..;
    extracted
        .positions
        .retain(|_| is_used(v.next().expect("without end")));
    let mut v = 0..;
    extracted
        .closing
        .retain(|_| is_used(v.next().expect("without end")));
    let corners = extracted.triangles.iter_mut().flatten();
    for vertex in corners.chain(&mut extracted.of_point) {
        *vertex = names[vertex.index()];
    }
    extracted
}
