//! Nested parts: wholly inside another.
//!
//! A part lies in another when the other winds round each of its vertices (Jacobson, Kavan &
//! Sorkine-Hornung 2013), and, where that has been worked out, their faces don't meet. An open
//! part holds what it winds round more than half. Cost: nothing unless boxes of parts lie in
//! each other.

use crate::audit::Level::{Block, Warn};
use crate::audit::Place;
use crate::audit::{Check, Found, Levels, Needs, NotRun, Search, Survey};
use crate::measure::PartMeasure;
use crate::mesh::{FaceId, PartId};
use crate::spatial::{BoxTree, Enclosing, Soup, Winding};
use crate::topology::{INSIDE, corners_once};
use rayon::prelude::*;

/// The winding number from which on a point is rather inside an open part than outside.
const HALF: f64 = 0.5;

pub(super) const CHECK: Check = Check {
    name: "nested-parts",
    counts: "parts wholly inside another; a hollow is none",
    harm: "nobody sees them, and everybody pays for them; a printer may make a void of them",
    cure: "`hurmo mend --clear nested-parts`, or turning it inward where a hollow was meant",
    drawing: r"
    *-----------*
    |   *---*   |
    |   |P2 |P1 |    P2 lies inside P1
    |   *---*   |
    *-----------*",
    levels: Levels::new(Warn, Warn, Warn, Block),
    needs: Needs::Soup,
    find,
};

fn find(survey: &Survey<'_>, search: &Search) -> Result<Found, NotRun> {
    let pairs = nested(survey);
    Ok(Found::of_groups(
        pairs.len(),
        pairs,
        search.limit,
        |(inner, outer)| Place {
            bounds: survey.part(inner).bounds,
            at: survey.part(inner).bounds.middle(),
            ..Place::parts(survey, vec![inner, outer])
        },
    ))
}

/// Each nested part with the smallest part that it lies in, by name.
pub(crate) fn nested(survey: &Survey<'_>) -> Vec<(PartId, PartId)> {
    let measures = &survey.part_measures;
    let boxes = BoxTree::new(measures.len(), |i| {
        [measures[i].bounds.min, measures[i].bounds.max]
    });
    let candidates: Vec<Vec<usize>> = (0..measures.len())
        .into_par_iter()
        .map(|inner| around(&boxes, measures, inner))
        .collect();
    if candidates.iter().all(Vec::is_empty) {
        return Vec::new();
    }
    let contacts = survey.contacts();
    let touch = |a: usize, b: usize| {
        let pair = (PartId::new(a.min(b)), PartId::new(a.max(b)));
        contacts.is_some_and(|contacts| contacts.parts.contains(&pair))
    };
    let mut faces: Vec<Vec<FaceId>> = vec![Vec::new(); measures.len()];
    for face in survey.mesh.face_ids().filter(|&f| !survey.has_no_area(f)) {
        if let Some(part) = survey.parts.of_face(survey.mesh, face) {
            faces[part.index()].push(face);
        }
    }
    // Outer parts one by one, so that only one tree is there at a time.
    let mut asked: Vec<Vec<usize>> = vec![Vec::new(); measures.len()];
    for (inner, outers) in candidates.iter().enumerate() {
        for &outer in outers.iter().filter(|&&outer| !touch(inner, outer)) {
            asked[outer].push(inner);
        }
    }
    let mut inside: Vec<Option<usize>> = vec![None; measures.len()];
    for outer in 0..measures.len() {
        if asked[outer].is_empty() {
            continue;
        }
        let soup = Soup::of(survey.mesh, &faces[outer], |face| {
            survey.patches.reversed[face.index()]
        });
        let closed = faces[outer]
            .iter()
            .all(|f| survey.patches.closed[survey.patches.of_face[f.index()] as usize]);
        let enclosing = closed.then(|| Enclosing::of(&soup));
        let by_tree = (!closed).then(|| Winding::of(&soup));
        let holds = |place| match (&enclosing, &by_tree) {
            (Some(closed), _) => closed.times(place).abs() > INSIDE,
            (_, Some(open)) => open.at(place).abs() > HALF,
            _ => false,
        };
        let lies_in = |inner: &usize| {
            let vertices = corners_once(survey.mesh, &faces[*inner]);
            let places = vertices.par_iter().map(|&v| survey.mesh.position(v));
            places.all(holds)
        };
        for inner in asked[outer].iter().copied().filter(lies_in) {
            let size = |part: usize| measures[part].bounds.diagonal();
            if inside[inner].is_none_or(|known| size(outer) < size(known)) {
                inside[inner] = Some(outer);
            }
        }
    }
    let is_hollow = |part: usize| {
        faces[part]
            .iter()
            .all(|f| survey.patches.hollow[survey.patches.of_face[f.index()] as usize])
    };
    inside
        .into_iter()
        .enumerate()
        .filter(|&(inner, _)| !is_hollow(inner))
        .filter_map(|(inner, outer)| Some((PartId::new(inner), PartId::new(outer?))))
        .collect()
}

/// The parts in whose boxes a part's box lies.
fn around(boxes: &BoxTree, measures: &[PartMeasure], inner: usize) -> Vec<usize> {
    let bounds = measures[inner].bounds;
    let [low, high] = [bounds.min, bounds.max];
    let mut found = Vec::new();
    boxes.visit(
        |[min, max]| min.as_dvec3().cmple(low).all() && high.cmple(max.as_dvec3()).all(),
        |item| {
            let outer = boxes.order()[item] as usize;
            if outer != inner && measures[outer].bounds.holds(&bounds) {
                found.push(outer);
            }
        },
    );
    found
}
