//! What the search for the skin asks: how often the model winds round a corner, what crosses an
//! edge of the grid, and what is added to the model.

use super::added::Added;
use super::crossing::Crossing;
use super::grid::{EdgeKey, Grid, Key, edge_parts, keys_between};
use super::triangle_bins::Reach;
use crate::mesh::{FaceId, Mesh};
use crate::orientation::Patches;
use crate::parallel::listed_in_groups;
use crate::spatial::{
    Capped, TriangleHierarchy, closest_on_triangle, overlap, reaches_into, rounded_outward,
};
use glam::DVec3;
use smallvec::SmallVec;

/// What winds more often than this is inside.
pub const INSIDE: f64 = 0.5;

/// A model's triangles, turned as its patches should be.
pub fn turned<'m>(mesh: &'m Mesh, patches: &Patches) -> TriangleHierarchy<'m> {
    let faces: Vec<FaceId> = mesh.face_ids().collect();
    TriangleHierarchy::of(mesh, &faces, |face| patches.reversed[face.index()])
}

/// What is asked where edges are crossed.
pub struct InsideTest<'a> {
    /// The model's triangles; caps that close them, so that crossings can be counted instead of
    /// winding numbers worked out.
    pub capped: Capped<'a, 'a>,
    pub reach: &'a Reach,
    pub grid: &'a Grid,
    /// What is inside besides what the model fills.
    pub added: Vec<Added>,
}

/// How far along an edge a triangle crosses it, which, and by how much the winding number rises
/// there.
pub type HitAt = (f64, u32, i32);

/// Where triangles cross an edge.
#[derive(Default)]
pub struct Hits {
    /// In order.
    pub list: Vec<HitAt>,
    /// Whether any of them is uncertain.
    pub is_unsure: bool,
    /// By how much the winding number of the caps rises along the edge.
    of_caps: i32,
}

impl Hits {
    /// By how much the winding number of surface and caps rises along the edge, if that is certain.
    pub fn rise(&self) -> Option<i32> {
        let own = || self.list.iter().map(|hit| hit.2).sum::<i32>();
        (!self.is_unsure).then(|| own() + self.of_caps)
    }
}

impl<'a> InsideTest<'a> {
    /// The model's triangles.
    pub fn hierarchy(&self) -> &'a TriangleHierarchy<'a> {
        self.capped.hierarchy()
    }

    /// Whether the surface has no border, so that it winds round every place a whole number of
    /// times.
    pub fn is_closed(&self) -> bool {
        self.capped.caps().is_some_and(TriangleHierarchy::is_empty)
    }

    /// Whether a place is inside by what is added.
    pub fn is_added(&self, place: DVec3) -> bool {
        self.added.iter().any(|added| added.holds(place))
    }

    /// The planes of the triangles that come as near to a place as this, a part of a cell, each
    /// with its point that is nearest.
    pub fn planes_near(&self, place: DVec3, near: f64) -> Vec<Crossing> {
        let low = self.grid.cell_of(place - near);
        let high = self.grid.cell_of(place + near);
        let cells = keys_between(low, high);
        let (from, to) = (place - near, place + near);
        let comes_near = |&t: &u32| reaches_into(&self.hierarchy().corners(t as usize), from, to);
        let there = cells.flat_map(|cell| self.reach.at(cell));
        let mut triangles: Vec<u32> = there.filter(comes_near).collect();
        triangles.sort_unstable();
        triangles.dedup();
        let plane = |t: u32| {
            let corners = self.hierarchy().corners(t as usize);
            let at = closest_on_triangle(place, corners);
            let [a, b, c] = corners;
            let normal = (b - a).cross(c - a).try_normalize()?;
            let face = Some(self.hierarchy().face(t as usize));
            (at.distance(place) <= near).then_some(Crossing { at, normal, face })
        };
        triangles.into_iter().filter_map(plane).collect()
    }

    /// The place on the model that is nearest to another, no further away than this.
    pub fn closest(&self, place: DVec3, far: f64) -> Option<DVec3> {
        let closest = self.hierarchy().closest_within(place, far)?;
        Some(closest.point)
    }

    /// How far a place lies off the model, and which way that faces there; at the most so far, and
    /// then it faces no way.
    pub fn off(&self, place: DVec3, far: f64) -> (f64, DVec3) {
        let Some(closest) = self.hierarchy().closest_within(place, far) else {
            return (far, DVec3::ZERO);
        };
        let [a, b, c] = self.hierarchy().corners(closest.triangle as usize);
        let normal = (b - a).cross(c - a).normalize_or_zero();
        (closest.distance_squared.sqrt(), normal)
    }

    /// Where triangles cross edges (sorted).
    pub fn hits(&self, edges: &[EdgeKey]) -> Vec<Hits> {
        let low = |edge: &EdgeKey| edge_parts(*edge).0;
        let from_one_corner = |a: &EdgeKey, b: &EdgeKey| low(a) == low(b);
        listed_in_groups(edges, 64, from_one_corner, |edges, list| {
            list.extend(self.hits_from(low(&edges[0]), edges));
        })
    }

    /// The same of edges from one corner.
    fn hits_from(&self, low: Key, edges: &[EdgeKey]) -> SmallVec<[Hits; 3]> {
        let axes = edges.iter().map(|&edge| edge_parts(edge).1);
        let from = self.grid.corner(low);
        let cell = self.grid.cell;
        let mut all: SmallVec<[Hits; 3]> = edges.iter().map(|_| Hits::default()).collect();
        // What crosses an edge reaches into every cell round it: that of its low corner is one.
        for t in self.reach.at(low) {
            let corners = self.hierarchy().corners(t as usize);
            for (hits, axis) in all.iter_mut().zip(axes.clone()) {
                match hit(corners, from, axis, cell) {
                    Hit::No => {}
                    Hit::At(share, rise) => hits.list.push((share, t, rise)),
                    Hit::Unsure(share, rise) => {
                        hits.list.push((share, t, rise));
                        hits.is_unsure = true;
                    }
                }
            }
        }
        let caps = self.capped.caps().filter(|caps| !caps.is_empty());
        for (hits, axis) in all.iter_mut().zip(axes) {
            let by_place = |a: &HitAt, b: &HitAt| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1));
            hits.list.sort_unstable_by(by_place);
            let Some(caps) = caps else { continue };
            let mut to = from;
            to[axis] += cell;
            let bounds = rounded_outward([from, to]);
            let enter = |node| overlap(node, bounds);
            caps.tree()
                .visit(enter, |t| match hit(caps.corners(t), from, axis, cell) {
                    Hit::No => {}
                    Hit::At(_, rise) => hits.of_caps += rise,
                    Hit::Unsure(..) => hits.is_unsure = true,
                });
        }
        all
    }
}

/// How a triangle lies to an edge.
enum Hit {
    No,
    /// It crosses it so far along, and the winding number rises by so much.
    At(f64, i32),
    /// The same, but the edge runs through a corner or a side of it.
    Unsure(f64, i32),
}

/// How a triangle lies to an edge along an axis. A side that two triangles share gives the very same
/// number in both (Woop, Benthin & Wald 2013), so that rounding cannot put an edge between them.
fn hit(corners: [DVec3; 3], from: DVec3, axis: usize, length: f64) -> Hit {
    let [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    let [a, b, c] = corners.map(|p| [p[u] - from[u], p[v] - from[v]]);
    let side = |p: [f64; 2], q: [f64; 2]| p[0] * q[1] - p[1] * q[0];
    let sides = [side(b, c), side(c, a), side(a, b)];
    let is_in = sides.iter().all(|&s| s >= 0.0) || sides.iter().all(|&s| s <= 0.0);
    let sum: f64 = sides.iter().sum();
    if !is_in || sum == 0.0 {
        return Hit::No;
    }
    let along = (0..3).map(|i| corners[i][axis] * sides[i]).sum::<f64>() / sum;
    let share = (along - from[axis]) / length;
    // A triangle that is seen anticlockwise from the far end faces that way: one leaves there.
    let rise = if sum > 0.0 { -1 } else { 1 };
    const NEAR: f64 = 1e-7;
    if !(-NEAR..=1.0 + NEAR).contains(&share) {
        return Hit::No;
    }
    let is_sure = !sides.contains(&0.0) && (NEAR..1.0 - NEAR).contains(&share);
    match is_sure {
        true => Hit::At(share, rise),
        false => Hit::Unsure(share, rise),
    }
}
