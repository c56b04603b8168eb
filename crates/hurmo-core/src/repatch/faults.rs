//! The faults at each place, before and after.

use super::region::Region;
use super::{LeftBecause, Where};
use crate::audit::{Audit, Elements};
use crate::mesh::{FaceId, Model, VertexId};

/// In no place.
pub(super) const NONE: u32 = u32::MAX;

/// The checks that may find no more than before.
pub(super) const NO_MORE: [&str; 7] = [
    "open-edges",
    "nonmanifold-edges",
    "pinched-vertices",
    "misoriented-edges",
    "lamina-faces",
    "zero-area-faces",
    "intersecting-faces",
];

/// How many faults there are, by place and check.
pub(super) struct Faults {
    checks: Vec<&'static str>,
    at: Vec<Vec<usize>>,
}

/// What faults are counted by.
pub(super) struct Labels<'a> {
    /// By face, the place that it is of.
    pub of_face: &'a [u32],
    /// How many places there are.
    pub count: usize,
    /// Whether a face that is of no place was at fault before, by the check: what it has come to is
    /// counted for the places that it is at fault with.
    pub was_at_fault: &'a dyn Fn(&str, FaceId) -> bool,
}

impl Faults {
    /// Of the faces that regions are made of.
    pub fn by_region(model: &Model, audit: &Audit, regions: &[Region]) -> Self {
        let mut labels = vec![NONE; model.mesh.face_count()];
        for (i, region) in regions.iter().enumerate() {
            for face in &region.faces {
                labels[face.index()] = i as u32;
            }
        }
        let labels = Labels {
            of_face: &labels,
            count: regions.len(),
            was_at_fault: &|_, _| true,
        };
        Self::by_label(model, audit, &labels)
    }

    /// Of labelled faces. No two labels may have a vertex in common.
    pub fn by_label(model: &Model, audit: &Audit, labels: &Labels<'_>) -> Self {
        let mesh = &model.mesh;
        let mut at_vertex = vec![NONE; mesh.vertex_count()];
        for (face, corners) in mesh.faces() {
            let label = labels.of_face[face.index()];
            if label != NONE {
                corners.iter().for_each(|v| at_vertex[v.index()] = label);
            }
        }
        let of_face = |face: &FaceId| labels.of_face[face.index()];
        let of_vertex = |vertex: &VertexId| at_vertex[vertex.index()];
        let of_edge = |[a, b]: &[VertexId; 2]| match (of_vertex(a), of_vertex(b)) {
            (one, other) if one == other => one,
            _ => NONE,
        };
        let mut faults = Self {
            checks: audit.findings.iter().map(|f| f.check).collect(),
            at: vec![vec![0; audit.findings.len()]; labels.count],
        };
        for (check, finding) in audit.findings.iter().enumerate() {
            let mut add = |label: u32| {
                if let Some(at) = faults.at.get_mut(label as usize) {
                    at[check] += 1;
                }
            };
            for place in &finding.found.places {
                match &place.elements {
                    Elements::Faces(list) => {
                        list.iter().map(of_face).for_each(&mut add);
                        let mut concerned: Vec<u32> = list.iter().map(of_face).collect();
                        concerned.sort_unstable();
                        concerned.dedup();
                        let others = list.iter().filter(|face| of_face(face) == NONE);
                        let anew = |face: &&FaceId| !(labels.was_at_fault)(finding.check, **face);
                        for _ in others.filter(anew) {
                            concerned.iter().copied().for_each(&mut add);
                        }
                    }
                    Elements::Edges(list) => list.iter().map(of_edge).for_each(&mut add),
                    Elements::Vertices(list) => list.iter().map(of_vertex).for_each(&mut add),
                    Elements::Parts(_) | Elements::Named(_) | Elements::Model => {}
                }
            }
        }
        faults
    }

    /// Whether a place is better after: no fault more, and fewer of those asked about.
    ///
    /// # Errors
    /// Why it isn't.
    pub fn is_cured_by(&self, after: &Self, place: usize, at: &Where) -> Result<(), LeftBecause> {
        let faults = self.beside(after, place);
        if let Some(&(check, was, is)) = faults.iter().find(|(_, was, is)| is > was) {
            return Err(LeftBecause::Worse { check, was, is });
        }
        let Where::Checks(asked) = at else {
            return Ok(());
        };
        let asked = |(check, ..): &&(&str, usize, usize)| asked.iter().any(|name| name == check);
        match faults.iter().filter(asked).any(|(_, was, is)| is < was) {
            true => Ok(()),
            false => Err(LeftBecause::NoBetter),
        }
    }

    /// By check, how many faults a place had and has, where it has or had any.
    pub fn beside(&self, after: &Self, place: usize) -> Vec<(&'static str, usize, usize)> {
        let is = |check: &str| {
            let i = after.checks.iter().position(|name| *name == check);
            i.map_or(0, |i| after.at[place][i])
        };
        let was = self.checks.iter().zip(&self.at[place]);
        was.map(|(&check, &was)| (check, was, is(check)))
            .filter(|(_, was, is)| was + is > 0)
            .collect()
    }
}
