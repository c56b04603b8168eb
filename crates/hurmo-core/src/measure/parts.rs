//! Measures by part, and which parts float loose.

use super::{Bounds, vector_area};
use crate::mesh::{FaceId, Mesh, PartId};
use crate::parallel::mapped;
use crate::topology::Parts;

/// One part's size.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize))]
pub struct PartMeasure {
    /// Its name.
    pub part: PartId,
    /// How many faces.
    pub faces: usize,
    /// Sum of their areas, in square units.
    pub area: f64,
    /// Where it is.
    pub bounds: Bounds,
    /// A face of it.
    #[cfg_attr(feature = "serde", serde(skip))]
    pub first_face: FaceId,
}

/// Measures every part, in the order of their names.
pub fn parts_measured(mesh: &Mesh, parts: &Parts) -> Vec<PartMeasure> {
    let areas: Vec<f64> = mapped(mesh.face_count(), 4096, |face| {
        vector_area(mesh, FaceId::new(face)).length()
    });
    part_measures(mesh, parts, &areas)
}

/// Measures every part, in the order of their names; `areas` by face.
pub fn part_measures(mesh: &Mesh, parts: &Parts, areas: &[f64]) -> Vec<PartMeasure> {
    let mut measures: Vec<PartMeasure> = parts
        .list()
        .iter()
        .enumerate()
        .map(|(name, part)| PartMeasure {
            part: PartId::new(name),
            faces: part.faces,
            area: 0.0,
            bounds: Bounds::NOTHING,
            first_face: FaceId(u32::MAX),
        })
        .collect();
    for face in mesh.face_ids() {
        let Some(part) = parts.of_face(mesh, face) else {
            continue;
        };
        let measure = &mut measures[part.index()];
        measure.first_face = measure.first_face.min(face);
        measure.area += areas[face.index()];
        for point in mesh.face_points(face) {
            measure.bounds.take_in(point);
        }
    }
    measures
}

/// Floating parts, by whether they are perhaps there on purpose.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Floating {
    /// Those that are closed and lie within the bounds of the largest: buttons rather than
    /// crumbs.
    pub perhaps_wanted: Vec<PartId>,
    /// The others.
    pub scraps: Vec<PartId>,
}

impl Floating {
    /// Finds the floating parts among all; `is_closed` by part.
    pub fn of(measures: &[PartMeasure], is_closed: impl Fn(PartId) -> bool) -> Self {
        let Some(largest) = largest(measures) else {
            return Self::default();
        };
        let within = |bounds: &Bounds| {
            bounds.min.cmpge(largest.bounds.min).all() && bounds.max.cmple(largest.bounds.max).all()
        };
        let (perhaps_wanted, scraps) = floating_parts(measures)
            .into_iter()
            .partition(|&part| is_closed(part) && within(&measures[part.index()].bounds));
        Self {
            perhaps_wanted,
            scraps,
        }
    }
}

fn largest(measures: &[PartMeasure]) -> Option<&PartMeasure> {
    measures.iter().max_by(|a, b| a.area.total_cmp(&b.area))
}

/// The parts under 1% of the largest part's area and under 5% of its diagonal (`docs/checks.md`),
/// where "largest" is by area.
pub fn floating_parts(measures: &[PartMeasure]) -> Vec<PartId> {
    let Some(largest) = largest(measures) else {
        return Vec::new();
    };
    let (area, diagonal) = (largest.area * 0.01, largest.bounds.diagonal() * 0.05);
    measures
        .iter()
        .filter(|m| m.area < area && m.bounds.diagonal() < diagonal)
        .map(|m| m.part)
        .collect()
}
