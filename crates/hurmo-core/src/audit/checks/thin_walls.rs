//! Thin walls, measured by rays into the solid.
//!
//! From the middle of each triangle a ray goes straight into the solid, until it has left all
//! solids that it entered, so that parts pushed into each other are one wall. Triangles over
//! twice as long as the wall get three rays more, half way to their corners. Cost: a ray or
//! four a triangle, each about log n.

use crate::audit::Level::{Off, Warn};
use crate::audit::{Check, Elements, Found, Levels, MeshAnalysis, Needs, NotRun, Remedy, Search};
use crate::parallel::{change_each, mapped_with};
use crate::spatial::{Capped, Crossing, MOST_WORK, TriangleHierarchy, crossings};

pub(super) const CHECK: Check = Check {
    name: "thin-walls",
    counts: "faces whose wall is thinner than the brief allows",
    harm: "too thin to print or cast: it breaks, warps, or is left out",
    remedy: Remedy::ByHand,
    drawing: r"
    ________________
    ----------------    0.3 mm where the
    |<- a ray in       brief asks for 0.8 mm",
    levels: Levels::new(Off, Off, Off, Warn),
    needs: Needs::TriangleHierarchy,
    find,
};

fn find(analysis: &MeshAnalysis<'_>, search: &Search) -> Result<Found, NotRun> {
    let wall = search.brief.thresholds.wall.ok_or(NotRun::NotAsked)?;
    let wall = search.length(analysis, wall)?;
    let hierarchy = analysis.hierarchy();
    let mut thickness: Vec<f64> = mapped_with(hierarchy.len(), 256, Vec::new, |found, triangle| {
        thickness(hierarchy, triangle, wall, found)
    });
    let caps = analysis.caps().map(TriangleHierarchy::whole);
    let winding = Capped::new(hierarchy, caps.as_ref());
    let thin = thickness.iter().filter(|thickness| thickness.is_finite());
    if winding.mean_cost() * thin.count() as f64 > MOST_WORK {
        return Err(NotRun::too_long());
    }
    // With solid before it, it is no wall's surface.
    change_each(&mut thickness, 256, |triangle, thickness| {
        if thickness.is_finite() && winding.sides_of(triangle).front >= 0.5 {
            *thickness = f64::INFINITY;
        }
    });
    let mut thinnest = vec![f64::INFINITY; analysis.mesh.face_count()];
    for (triangle, &thickness) in thickness.iter().enumerate() {
        let slot = &mut thinnest[hierarchy.face(triangle).index()];
        *slot = slot.min(thickness);
    }
    let bad = analysis
        .mesh
        .face_ids()
        .filter(|f| thinnest[f.index()] < wall);
    let mut found = Found::faces(analysis, usize::MAX, bad);
    for place in &mut found.places {
        if let Elements::Faces(faces) = &place.elements {
            let least = faces
                .iter()
                .map(|f| thinnest[f.index()])
                .fold(f64::INFINITY, f64::min);
            place.value = Some(least);
        }
    }
    found.places.truncate(search.limit);
    let least = thinnest.into_iter().fold(f64::INFINITY, f64::min);
    Ok(match found.count {
        0 => found,
        _ => found.measured("units at the thinnest", least),
    })
}

/// How thick the wall behind a triangle is, if it is thinner than `wall`; else infinity.
fn thickness(
    hierarchy: &TriangleHierarchy<'_>,
    triangle: usize,
    wall: f64,
    found: &mut Vec<Crossing>,
) -> f64 {
    let [a, b, c] = hierarchy.corners(triangle);
    let inward = (c - a).cross(b - a).normalize_or_zero();
    let longest = a.distance(b).max(b.distance(c)).max(c.distance(a));
    let middle = (a + b + c) / 3.0;
    let more = [a, b, c].map(|corner| middle.lerp(corner, 0.5));
    // A face much larger than the wall may have thin places away from its middle.
    let samples = if longest > 2.0 * wall { 4 } else { 1 };
    let points = std::iter::once(middle).chain(more).take(samples);
    points
        .map(|point| {
            crossings(hierarchy, point, inward, wall, found);
            way_out(found, triangle)
        })
        .fold(f64::INFINITY, f64::min)
}

/// How far a ray that starts on a face goes until it has left all solids; infinity if it
/// doesn't.
fn way_out(found: &[Crossing], start: usize) -> f64 {
    let mut depth = 1;
    for crossing in found.iter().filter(|c| c.triangle != start) {
        depth += if crossing.outward { -1 } else { 1 };
        if depth == 0 {
            return crossing.at;
        }
    }
    f64::INFINITY
}
