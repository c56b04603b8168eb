//! A skin that lies within a distance of what it is put round: finer cells until it does.
//!
//! Looked at are the skin's vertices and the middles of its faces, but where openings are closed,
//! and places all over those faces of the model that have solid behind and none before them. It is
//! measured, not proved: between places it may lie a little further off.

use super::inside_test::INSIDE;
use super::{ReskinOptions, ReskinOutcome, reskin};
use crate::audit::SortedAnalysis;
use crate::measure::{area_samples, vector_area};
use crate::mesh::FaceId;
use crate::parallel::chosen;
use crate::progress::Observer;
use crate::remesh::RemeshError;
use crate::spatial::{Closest, TriangleHierarchy, TriangleTree, Winding};
use glam::DVec3;
use rustc_hash::FxHashSet;

/// At first there are this many cells along the diagonal.
const ALONG: f64 = 40.0;
/// What the next cell is made for, as a share of the distance.
const AIM: f64 = 0.85;
/// The next cell is at most and at least so much of the last.
const NEXT: [f64; 2] = [0.3, 0.8];
/// This many times cells are made finer.
const TRIES: usize = 8;
/// Finer cells that leave it at more than this share of what it was off are of no use, so often.
const OF_USE: f64 = 0.9;
const STALLS: usize = 2;
/// How clearly a place must have solid behind and none before: more than winding numbers may be
/// wrong by.
const CLEAR: f64 = 0.1;
/// Places no further off than this many cells count for nothing where an opening begins: the rim is
/// met by cells as they lie.
const NEAR_RIM: f64 = 2.0;
/// Its sides are looked at so far off it, as a share of the diagonal.
const STEP: f64 = 1e-6;
/// How many places of the model are looked at.
const PLACES: usize = 40_000;

/// How far a skin lies off.
#[derive(Clone, Debug)]
pub struct Within {
    /// The skin, the finest that was made.
    pub outcome: ReskinOutcome,
    /// The length of its cells.
    pub cell: f64,
    /// How far it lies off, at most of all places looked at.
    pub off: f64,
}

/// Makes a skin of cells no finer than needed to stay within a distance, if that can be had:
/// `options` say all but the cell.
///
/// # Errors
/// As those of a skin; where cells for the distance don't fit, it is the finest that do.
pub fn reskin_within(
    analysis: &SortedAnalysis<'_>,
    options: &ReskinOptions,
    distance: f64,
    observer: &dyn Observer,
) -> Result<Within, RemeshError> {
    if !(distance > 0.0 && distance.is_finite()) {
        return Err(RemeshError::NoLength);
    }
    let diagonal = analysis.bounds.ok_or(RemeshError::NoSurface)?.diagonal();
    let mut cell = diagonal / ALONG;
    let walls = Walls::of(analysis);
    let mut best: Option<Within> = None;
    let (mut last, mut stalls) = (f64::INFINITY, 0);
    for _ in 0..TRIES {
        let made = reskin(
            analysis,
            &ReskinOptions {
                cell,
                ..options.clone()
            },
            observer,
        );
        let outcome = match (made, best.take()) {
            (Ok(outcome), _) => outcome,
            (Err(RemeshError::Failed(failure)), _) => return Err(failure.into()),
            // What is still finer does not fit.
            (Err(_), Some(last)) => return Ok(last),
            (Err(RemeshError::TooManyCells { finest, .. }), None) if finest > cell => {
                cell = 1.01 * finest;
                continue;
            }
            (Err(error), None) => return Err(error),
        };
        let off = walls.off(&outcome, cell);
        let [least, most] = NEXT;
        // On a smooth surface it lies off by the square of a cell.
        let next = cell * (AIM * distance / off).sqrt().clamp(least, most);
        stalls += usize::from(off > OF_USE * last);
        let is_done = off <= distance || stalls == STALLS;
        best = Some(Within { outcome, cell, off });
        if is_done {
            break;
        }
        last = off.min(last);
        cell = next;
    }
    best.ok_or(RemeshError::NoSurface)
}

/// What a skin is held against.
struct Walls<'s> {
    /// The model's triangles.
    hierarchy: &'s TriangleHierarchy<'s>,
    /// Places on those that have solid behind and none before them.
    places: Vec<DVec3>,
}

impl<'s> Walls<'s> {
    fn of(analysis: &'s SortedAnalysis<'s>) -> Self {
        let (mesh, hierarchy) = (analysis.mesh, analysis.hierarchy());
        let winding = Winding::of(hierarchy);
        let step = STEP * analysis.diagonal;
        let is_wall = |&(at, face): &(DVec3, FaceId)| {
            let to_front = match analysis.patches.reversed[face.index()] {
                true => -step,
                false => step,
            };
            let offset = vector_area(mesh, face).normalize_or_zero() * to_front;
            let sides = winding.both_sides(at, offset);
            sides.front < INSIDE - CLEAR && sides.back > INSIDE + CLEAR
        };
        let samples = area_samples(mesh, PLACES);
        Self {
            places: chosen(samples.len(), 1, |i| {
                is_wall(&samples[i]).then_some(samples[i].0)
            }),
            hierarchy,
        }
    }

    /// How far a skin lies off.
    fn off(&self, outcome: &ReskinOutcome, cell: f64) -> f64 {
        let mesh = &outcome.model.mesh;
        let bits = |at: DVec3| at.to_array().map(f64::to_bits);
        let mut closing: FxHashSet<[u64; 3]> =
            outcome.closings.iter().map(|&at| bits(at)).collect();
        let triangles: Vec<[DVec3; 3]> = (mesh.face_ids())
            .map(|face| [0, 1, 2].map(|i| mesh.position(mesh.face(face)[i])))
            .collect();
        // And one ring more: a rim may lie inside a cell none of whose edges meets it.
        let touches = |corners: &&[DVec3; 3]| corners.iter().any(|&at| closing.contains(&bits(at)));
        let ring: Vec<DVec3> = triangles
            .iter()
            .filter(touches)
            .flatten()
            .copied()
            .collect();
        closing.extend(ring.into_iter().map(bits));
        let closes = |corners: &[DVec3; 3]| corners.iter().any(|&at| closing.contains(&bits(at)));
        let from_skin: Vec<DVec3> = triangles
            .iter()
            .filter(|corners| !closes(corners))
            .flat_map(|&[a, b, c]| [a, b, c, (a + b + c) / 3.0])
            .collect();
        let skin = TriangleTree::new(triangles.len(), |i| triangles[i]);
        let near_rims = (NEAR_RIM * cell).powi(2);
        let counts = |closest: &Closest| {
            closest.distance_squared > near_rims || !closes(&triangles[closest.triangle as usize])
        };
        let there = skin.closest_to_each(&self.places).into_iter().flatten();
        let back = self
            .hierarchy
            .closest_to_each(&from_skin)
            .into_iter()
            .flatten();
        there
            .filter(counts)
            .chain(back)
            .map(|closest| closest.distance_squared)
            .fold(0.0, f64::max)
            .sqrt()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::measure::deviation;
    use crate::mesh::Model;
    use crate::shapes;

    #[test]
    fn a_skin_is_as_fine_as_the_distance_asks() {
        let ball = shapes::sphere(1.0, 5);
        let mut last = f64::INFINITY;
        for distance in [0.004, 0.0012] {
            let of = |model: Model| {
                let analysis = SortedAnalysis::of(&model, &());
                reskin_within(&analysis, &ReskinOptions::of(1.0), distance, &()).unwrap()
            };
            let found = of(Model::from(ball.clone()));
            let off = deviation(&found.outcome.model.mesh, &ball, 40_000)
                .unwrap()
                .max;
            assert!(off <= 1.05 * distance, "{off} for {distance}");
            // No finer than need be.
            assert!(
                off > 0.4 * distance && found.cell < last,
                "{off} for {distance}"
            );
            last = found.cell;
            // A third of the ball is gone: what closes it counts for nothing.
            let middle = |f| ball.face_middle(f).z;
            let (open, _) = Model::from(ball.clone()).without_faces(|f| middle(f) > 0.4);
            let found = of(open);
            assert!(found.off <= distance && found.outcome.closing > 0);
        }
    }

    #[test]
    fn what_cannot_be_had_is_the_finest_that_fits() {
        let ball = Model::from(shapes::sphere(1.0, 4));
        let analysis = SortedAnalysis::of(&ball, &());
        let options = ReskinOptions {
            memory: 5e6,
            ..ReskinOptions::of(1.0)
        };
        let found = reskin_within(&analysis, &options, 1e-4, &()).unwrap();
        assert!(found.off > 1e-4 && found.outcome.model.mesh.face_count() > 100);
    }
}
