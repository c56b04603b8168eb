//! Nested parts: wholly inside another.
//!
//! A part lies in another when the other winds round each of its vertices (Jacobson, Kavan &
//! Sorkine-Hornung 2013), and, where that has been worked out, their faces don't meet. An open
//! part holds what it winds round more than half. Parts are held against those round them from the
//! smallest up, until one holds them. Cost: nothing unless boxes of parts lie in
//! each other; parts that lie in each other like shells cost one look each.

use crate::audit::Level::{Block, Warn};
use crate::audit::{Check, Found, Levels, MeshAnalysis, Needs, NotRun, Place, Remedy, Search};
use crate::measure::PartMeasure;
use crate::mesh::{FaceId, PartId};
use crate::orientation::{INSIDE, corners_once};
use crate::parallel::{all, any, chosen, mapped, mapped_of};
use crate::spatial::{BoxTree, Enclosing, TriangleHierarchy, Winding};
use glam::DVec3;
use rustc_hash::FxHashMap;

/// The winding number from which on a point is rather inside an open part than outside.
const HALF: f64 = 0.5;

pub(super) const CHECK: Check = Check {
    name: "nested-parts",
    counts: "parts wholly inside another; a hollow is none",
    harm: "nobody sees them, and everybody pays for them; a printer may make a void of them",
    remedy: Remedy::MendByName,
    drawing: r"
    *-----------*
    |   *---*   |
    |   |P2 |P1 |    P2 lies inside P1
    |   *---*   |
    *-----------*",
    levels: Levels::new(Warn, Warn, Warn, Block),
    needs: Needs::TriangleHierarchy,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let pairs = nested(analysis);
    Ok(Found::of_groups(
        pairs.len(),
        pairs,
        search.limit,
        |(inner, outer)| Place {
            bounds: analysis.part(inner).bounds,
            at: analysis.part(inner).bounds.middle(),
            ..Place::parts(analysis, vec![inner, outer])
        },
    ))
}

/// Each nested part with the smallest part that it lies in, by name.
pub(crate) fn nested(analysis: &MeshAnalysis<'_>) -> Vec<(PartId, PartId)> {
    let measures = &analysis.part_measures;
    let boxes = BoxTree::new(measures.len(), |i| {
        [measures[i].bounds.min, measures[i].bounds.max]
    });
    let parts = measures.len();
    let any_around = |inner| !around(&boxes, measures, inner).is_empty();
    if !any(parts, 16, any_around) {
        return Vec::new();
    }
    let contacts = analysis.contacts();
    let touch = |a: usize, b: usize| {
        let pair = (PartId::new(a.min(b)), PartId::new(a.max(b)));
        contacts.is_some_and(|contacts| contacts.parts.contains(&pair))
    };
    let mut faces: Vec<Vec<FaceId>> = vec![Vec::new(); measures.len()];
    for face in analysis
        .mesh
        .face_ids()
        .filter(|&f| !analysis.has_no_area(f))
    {
        if let Some(part) = analysis.parts.of_face(analysis.mesh, face) {
            faces[part.index()].push(face);
        }
    }
    let is_hollow = |part: usize| {
        let is_hollow =
            |f: &FaceId| analysis.patches.hollow[analysis.patches.of_face[f.index()] as usize];
        faces[part].iter().all(is_hollow)
    };
    let size = |part: usize| measures[part].bounds.diagonal();
    let outers_of = |inner: usize| {
        let mut outers = around(&boxes, measures, inner);
        outers.retain(|&outer| !touch(inner, outer));
        if !outers.is_empty() && is_hollow(inner) {
            outers.clear();
        }
        outers.sort_by(|&a, &b| size(a).total_cmp(&size(b)).then(a.cmp(&b)));
        outers
    };
    let outers: Vec<Vec<usize>> = mapped(parts, 16, outers_of);
    // Made before any is asked. A lock until the first is made would not do: the thread that makes it
    // waits for others, and may take up work that asks for the same one.
    let mut is_asked = vec![false; measures.len()];
    outers
        .iter()
        .flatten()
        .for_each(|&outer| is_asked[outer] = true);
    let asked: Vec<usize> = (0..parts).filter(|&part| is_asked[part]).collect();
    let reversed = |face: FaceId| analysis.patches.reversed[face.index()];
    let hierarchy = |part: usize| TriangleHierarchy::of(analysis.mesh, &faces[part], reversed);
    let hierarchies: FxHashMap<usize, TriangleHierarchy<'_>> =
        mapped_of(&asked, 1, |&part| (part, hierarchy(part)))
            .into_iter()
            .collect();
    let is_closed =
        |f: &FaceId| analysis.patches.closed[analysis.patches.of_face[f.index()] as usize];
    let holder = |part: usize| match faces[part].iter().all(is_closed) {
        true => Holder::Closed(Enclosing::of(&hierarchies[&part])),
        false => Holder::Open(Winding::of(&hierarchies[&part])),
    };
    let holders: FxHashMap<usize, Holder<'_, '_>> =
        mapped_of(&asked, 1, |&part| (part, holder(part)))
            .into_iter()
            .collect();
    let smallest_round = |inner: usize| {
        let places: Vec<DVec3> = corners_once(analysis.mesh, &faces[inner])
            .into_iter()
            .map(|vertex| analysis.mesh.position(vertex))
            .collect();
        let mut outers = outers[inner].iter();
        let outer = outers.find(|outer| holders[*outer].holds_all(&places))?;
        Some((PartId::new(inner), PartId::new(*outer)))
    };
    let inner: Vec<usize> = (0..parts)
        .filter(|&part| !outers[part].is_empty())
        .collect();
    chosen(inner.len(), 1, |i| smallest_round(inner[i]))
}

/// The test of whether a part encloses points.
enum Holder<'s, 'm> {
    Closed(Enclosing<'s, 'm>),
    Open(Winding<'s, 'm>),
}

impl Holder<'_, '_> {
    fn holds_all(&self, places: &[DVec3]) -> bool {
        let holds = |&place: &DVec3| match self {
            Self::Closed(closed) => closed.times(place).abs() > INSIDE,
            Self::Open(open) => open.at(place).abs() > HALF,
        };
        // Most parts that don't lie in another show it at once.
        places.first().is_none_or(holds) && all(places.len(), 256, |i| holds(&places[i]))
    }
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
