//! Islands: parts that float in a hole, as bits of a scan do where its surface was hardly seen.
//!
//! A part is an island of a hole when, seen along the hole's plane's normal, all of it lies within
//! the rim, and no further off the plane than half the hole is wide. Islands are left, dropped,
//! or joined: the rim and the islands' own rims become one border, led to each island and back
//! along the shortest way.

use super::RimContext;
use super::border::Border;
use super::kinds::Kind;
use crate::geometry::vector_area_of;
use crate::mesh::{Mesh, PartId, VertexId};
use crate::predicates::flatten;
use glam::{DVec2, DVec3};
use rustc_hash::FxHashSet;

/// What becomes of islands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Islands {
    /// They go, and the hole closes over where they were.
    Drop,
    /// The new faces take them in.
    Join,
}

/// The islands of one rim.
pub(super) struct Found {
    /// The rim, by place.
    pub rim: usize,
    pub parts: Vec<PartId>,
    /// Their rims, by place.
    pub rims: Vec<usize>,
}

/// Those of the islands in some rims that have rims themselves.
pub(super) fn open_ones(context: &RimContext<'_>, rims: impl Iterator<Item = usize>) -> Vec<Found> {
    let is_open: FxHashSet<PartId> = context.facts.iter().filter_map(|rim| rim.part).collect();
    if is_open.len() < 2 {
        return Vec::new();
    }
    let mut all = found(context, rims);
    for found in &mut all {
        found.parts.retain(|part| is_open.contains(part));
    }
    all.retain(|found| !found.parts.is_empty());
    all
}

/// The islands in some rims, the longest first; each in the first that it lies in.
pub(super) fn found(context: &RimContext<'_>, rims: impl Iterator<Item = usize>) -> Vec<Found> {
    let mesh = &context.model.mesh;
    let parts = &context.parts;
    let mut vertices: Vec<Vec<VertexId>> = vec![Vec::new(); parts.len()];
    for vertex in mesh.vertex_ids() {
        if let Some(part) = parts.of_vertex(vertex) {
            vertices[part.index()].push(vertex);
        }
    }
    let mut claimed = vec![false; parts.len()];
    let mut all = Vec::new();
    for rim in rims {
        let facts = &context.facts[rim];
        if matches!(facts.kind, Kind::Border | Kind::Seam | Kind::UnevenSeam) {
            continue;
        }
        let Some(own) = facts.part.filter(|own| !claimed[own.index()]) else {
            continue;
        };
        let ring: Vec<DVec3> = context.rims.closed[rim]
            .vertices
            .iter()
            .map(|&v| mesh.position(v))
            .collect();
        let opening = Opening::of(&ring);
        let inside: Vec<PartId> = (0..parts.len())
            .map(PartId::new)
            .filter(|&part| {
                let points = || vertices[part.index()].iter().map(|&v| mesh.position(v));
                part != own && !claimed[part.index()] && opening.holds(points)
            })
            .collect();
        if inside.is_empty() {
            continue;
        }
        inside.iter().for_each(|part| claimed[part.index()] = true);
        let rims = (0..context.facts.len())
            .filter(|&i| {
                context.facts[i]
                    .part
                    .is_some_and(|part| inside.contains(&part))
            })
            .collect();
        all.push(Found {
            rim,
            parts: inside,
            rims,
        });
    }
    all
}

/// What a rim encloses, as seen along its plane's normal.
struct Opening {
    normal: DVec3,
    middle: DVec3,
    /// How far off the plane still counts.
    reach: f64,
    flat: Vec<DVec2>,
}

impl Opening {
    fn of(ring: &[DVec3]) -> Self {
        let normal = vector_area_of(ring.iter().copied()).normalize_or_zero();
        let middle = ring.iter().sum::<DVec3>() / ring.len() as f64;
        let to_plane = flatten(normal);
        Self {
            normal,
            middle,
            reach: ring.iter().map(|p| p.distance(middle)).fold(0.0, f64::max),
            flat: ring.iter().map(|&p| to_plane(p - middle)).collect(),
        }
    }

    fn holds<I: Iterator<Item = DVec3>>(&self, points: impl Fn() -> I) -> bool {
        let to_plane = flatten(self.normal);
        let near = |p: DVec3| p.distance(self.middle) < 1.5 * self.reach;
        points().all(near)
            && points().all(|p| {
                let off = p - self.middle;
                off.dot(self.normal).abs() <= self.reach && self.encloses(to_plane(off))
            })
    }

    /// By the number of sides to the right of a point.
    fn encloses(&self, p: DVec2) -> bool {
        let count = self.flat.len();
        let crossed = (0..count).filter(|&i| {
            let (a, b) = (self.flat[i], self.flat[(i + 1) % count]);
            let spans = (a.y > p.y) != (b.y > p.y);
            spans && p.x < a.x + (b.x - a.x) * (p.y - a.y) / (b.y - a.y)
        });
        crossed.count() % 2 == 1
    }
}

/// One border out of a rim's and those of its islands; `None` if an island faces the other way.
pub(super) fn joined(mesh: &Mesh, rim: Border, islands: Vec<Border>) -> Option<Border> {
    let area = |border: &Border| {
        let points = border.vertices.iter().map(|&v| mesh.position(v));
        vector_area_of(points)
    };
    let around = area(&rim);
    if islands.iter().any(|island| area(island).dot(around) > 0.0) {
        return None;
    }
    let mut border = rim;
    let mut left = islands;
    while !left.is_empty() {
        let at = |v: VertexId| mesh.position(v);
        let mut nearest = (f64::INFINITY, 0, 0, 0);
        for (k, island) in left.iter().enumerate() {
            for (i, &a) in border.vertices.iter().enumerate() {
                for (j, &b) in island.vertices.iter().enumerate() {
                    let distance = at(a).distance_squared(at(b));
                    if distance < nearest.0 {
                        nearest = (distance, k, i, j);
                    }
                }
            }
        }
        let (_, k, i, j) = nearest;
        let island = left.swap_remove(k);
        let count = island.vertices.len();
        // … a, then round the island from b to b, then on from a.
        let round = (0..=count).map(|step| (j + step) % count);
        let (vertices, faces): (Vec<_>, Vec<_>) = round
            .map(|step| (island.vertices[step], island.faces[step]))
            .unzip();
        let back = [border.vertices[i]];
        border
            .vertices
            .splice(i + 1..i + 1, vertices.into_iter().chain(back));
        let way = border.faces[i];
        border.faces.splice(i..i, [way].into_iter().chain(faces));
    }
    Some(border)
}

#[cfg(test)]
mod tests {
    use super::super::tests::without;
    use super::super::{FillOptions, Surface, fill, rims_described};
    use super::*;
    use crate::audit::{self, audit};
    use crate::fill::LeftBecause;
    use crate::mesh::Model;
    use crate::shapes;

    /// A plane with a hole in which two pieces of it are left.
    fn holed() -> Model {
        let plane = shapes::grid(40, 40, 4.0, 4.0);
        without(&plane, |f| {
            let at = plane.face_middle(f).truncate() - DVec2::splat(2.0);
            let apart = |x: f64, y: f64| at.distance(DVec2::new(x, y)) > 0.35;
            at.length() < 1.4 && apart(-0.5, 0.2) && apart(0.6, -0.1)
        })
    }

    fn filled(
        islands: Option<Islands>,
        surface: Surface,
    ) -> (super::super::FillOutcome, audit::Audit) {
        let model = holed();
        let facts = rims_described(&model.mesh);
        let hole = facts.iter().find(|rim| rim.kind == Kind::Hole).unwrap();
        let options = FillOptions {
            rims: vec![hole.rim.index()..=hole.rim.index()],
            islands,
            surface: Some(surface),
            ..FillOptions::default()
        };
        let outcome = fill(&model, &options, &()).unwrap();
        let audit = audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
        (outcome, audit)
    }

    #[test]
    fn joined_islands_become_part_of_the_surface() {
        for surface in [Surface::Flat, Surface::Tight] {
            let (outcome, audit) = filled(Some(Islands::Join), surface);
            assert_eq!(outcome.filled[0].islands, 2);
            assert_eq!(outcome.filled[0].surface, surface);
            assert_eq!((audit.mesh.parts, audit.mesh.rims), (1, 1));
            assert!((audit.mesh.area - 16.0).abs() < 1e-9, "{}", audit.mesh.area);
            for check in [
                "intersecting-faces",
                "nonmanifold-edges",
                "misoriented-edges",
                "zero-area-faces",
            ] {
                assert_eq!(audit.count(check), 0, "{check}");
            }
        }
    }

    #[test]
    fn dropped_islands_are_told_and_the_hole_closes() {
        let (outcome, audit) = filled(Some(Islands::Drop), Surface::Flat);
        assert_eq!(outcome.dropped.len(), 2);
        assert_eq!((audit.mesh.parts, audit.mesh.rims), (1, 1));
        assert!((audit.mesh.area - 16.0).abs() < 1e-9);
    }

    #[test]
    fn islands_are_left_and_met_unless_something_is_said() {
        let (outcome, audit) = filled(None, Surface::Flat);
        assert!(outcome.dropped.is_empty());
        assert_eq!(audit.mesh.parts, 3);
        assert!(outcome.filled[0].meets_others);
        // Nothing in it could move.
        assert!(!outcome.filled[0].held_back);
        // Or the hole is left, and the model with it.
        let model = holed();
        let options = FillOptions {
            leave_crossing: true,
            ..FillOptions::default()
        };
        let outcome = fill(&model, &options, &()).unwrap();
        assert_eq!(outcome.filled.len() + outcome.left.len(), 4);
        assert!(
            outcome
                .left
                .iter()
                .any(|left| left.reason == LeftBecause::Crosses)
        );
        let after = self::audit(&outcome.model, &audit::AuditOptions::default(), &()).unwrap();
        assert_eq!(after.count("intersecting-faces"), 0);
    }
}
