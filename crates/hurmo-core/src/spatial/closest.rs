//! Closest points on a surface.
//!
//! In: triangles, over which a [`BoxTree`] is built. A query goes down the nearer child first
//! and skips what lies further away than the best so far. Cost: about log n a query; 92 bytes a
//! triangle.

use super::boxes::{BoxTree, Node, overlap, rounded_outward};
use crate::parallel::{listed_in_runs, mapped};
use glam::DVec3;
use std::cell::Cell;

/// A hierarchy over triangles.
pub struct TriangleTree {
    /// The triangles' corners, in curve order.
    corners: Vec<[DVec3; 3]>,
    /// For every triangle of the input, where it stands in curve order.
    place: Vec<u32>,
    tree: BoxTree,
}

/// A triangle of the input, and its corners.
pub type InBox = (u32, [DVec3; 3]);

/// What a query found.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Closest {
    /// The point on the surface.
    pub point: DVec3,
    /// Squared distance from the query point.
    pub distance_squared: f64,
    /// Which triangle of the input it is on.
    pub triangle: u32,
}

impl TriangleTree {
    /// Builds the tree over this many triangles, given by their corners.
    pub fn new(count: usize, corners: impl Fn(usize) -> [DVec3; 3] + Sync) -> Self {
        Self::sorted(count, &corners)
    }

    /// Compiled once, wherever the corners are.
    fn sorted(count: usize, corners: &(dyn Fn(usize) -> [DVec3; 3] + Sync)) -> Self {
        let tree = BoxTree::new(count, |i| bounds_of(&corners(i)));
        let order = tree.order();
        let corners = mapped(count, 4096, |i| corners(order[i] as usize));
        let mut place = vec![0u32; order.len()];
        for (at, &i) in order.iter().enumerate() {
            place[i as usize] = at as u32;
        }
        Self {
            corners,
            place,
            tree,
        }
    }

    /// The closest point of the surface, found sooner when triangle `hint` of the input is
    /// near.
    pub fn closest_from(&self, to: DVec3, hint: u32) -> Option<Closest> {
        let place = self.place.get(hint as usize).copied();
        let found = nearest_from(&self.tree, |i| self.corners[i], to, place);
        self.of_input(found)
    }

    /// The closest point of the surface; `None` when there are no triangles.
    pub fn closest(&self, to: DVec3) -> Option<Closest> {
        self.closest_within(to, f64::INFINITY)
    }

    /// The closest points to a list of points. Points that follow each other are taken to lie near
    /// each other: the search for each begins with what was found for the last.
    pub fn closest_to_each(&self, points: &[DVec3]) -> Vec<Option<Closest>> {
        each_from_the_last(points, |point, last| {
            self.closest_from(point, last.unwrap_or(u32::MAX))
        })
    }

    /// The closest point of the surface nearer than `limit`.
    pub fn closest_within(&self, to: DVec3, limit: f64) -> Option<Closest> {
        self.nearer_than(to, limit * limit)
    }

    /// About how many triangles a query looks at, from a few of some places: most of them where
    /// all are long and thin, or equally far off.
    pub fn mean_cost(&self, places: &[DVec3]) -> f64 {
        mean_cost(&self.tree, |i| self.corners[i], places)
    }

    /// The hierarchy of their boxes.
    pub(super) fn tree(&self) -> &BoxTree {
        &self.tree
    }

    /// The corners of a triangle, by its place in the tree's order.
    #[inline]
    pub(super) fn corners(&self, place: usize) -> [DVec3; 3] {
        self.corners[place]
    }

    /// The triangles, by their place in the input, such that those which follow each other lie near
    /// each other.
    pub fn along(&self) -> &[u32] {
        self.tree.order()
    }

    /// The triangles whose boxes reach into a box, by their place in the input, each with its
    /// corners; `None` where there are more than `most`, which is soon found out.
    pub fn reaching_into(&self, low: DVec3, high: DVec3, most: usize) -> Option<Vec<InBox>> {
        let asked = rounded_outward([low, high]);
        let mut found = Vec::new();
        let is_full = Cell::new(false);
        let enter = |node| !is_full.get() && overlap(node, asked);
        self.tree.visit(enter, |i| {
            if reaches_into(&self.corners[i], low, high) {
                found.push((self.tree.order()[i], self.corners[i]));
                is_full.set(found.len() > most);
            }
        });
        (!is_full.get()).then_some(found)
    }

    fn nearer_than(&self, to: DVec3, limit_squared: f64) -> Option<Closest> {
        let found = nearest(&self.tree, |i| self.corners[i], to, limit_squared);
        self.of_input(found)
    }

    /// With the triangle's place in the input, given that in the tree's order.
    fn of_input(&self, found: Option<Closest>) -> Option<Closest> {
        let found = found?;
        let triangle = self.tree.order()[found.triangle as usize];
        Some(Closest { triangle, ..found })
    }
}

/// About how many triangles a query looks at, from a few of some places.
pub(super) fn mean_cost(
    tree: &BoxTree,
    corners: impl Fn(usize) -> [DVec3; 3],
    places: &[DVec3],
) -> f64 {
    const SAMPLES: usize = 32;
    let looked_at = Cell::new(0usize);
    let corners = |i: usize| {
        looked_at.set(looked_at.get() + 1);
        corners(i)
    };
    let step = places.len().div_ceil(SAMPLES).max(1);
    let asked = places.iter().step_by(step).inspect(|place| {
        nearest(tree, corners, **place, f64::INFINITY);
    });
    let asked = asked.count().max(1);
    looked_at.get() as f64 / asked as f64
}

/// The closest points to a list of points; the search for each begins at the triangle that was found
/// for the last.
pub(super) fn each_from_the_last(
    points: &[DVec3],
    closest: impl Fn(DVec3, Option<u32>) -> Option<Closest> + Sync,
) -> Vec<Option<Closest>> {
    listed_in_runs(points.len(), 256, |few, list| {
        let mut last = None;
        list.extend(points[few].iter().map(|&point| {
            let found = closest(point, last)?;
            last = Some(found.triangle);
            Some(found)
        }));
    })
}

/// The closest point of triangles in a tree, given in its order as `corners` are; found sooner where
/// one of them is known to be near.
pub(super) fn nearest_from(
    tree: &BoxTree,
    corners: impl Fn(usize) -> [DVec3; 3],
    to: DVec3,
    near: Option<u32>,
) -> Option<Closest> {
    let start = near.map(|triangle| {
        let point = closest_on_triangle(to, corners(triangle as usize));
        Closest {
            point,
            distance_squared: point.distance_squared(to),
            triangle,
        }
    });
    let limit = start.map_or(f64::INFINITY, |start| start.distance_squared);
    nearest(tree, corners, to, limit).or(start)
}

/// The closest point of triangles in a tree, given in its order, that is nearer than a limit; its
/// triangle by its place in that order.
pub(super) fn nearest(
    tree: &BoxTree,
    corners: impl Fn(usize) -> [DVec3; 3],
    to: DVec3,
    limit_squared: f64,
) -> Option<Closest> {
    let mut best = limit_squared;
    let mut found = None;
    let mut stack = [(0.0f64, 0usize); 64];
    let mut depth = 1;
    stack[0] = (distance_to(tree, 0, to), 0);
    while depth > 0 {
        depth -= 1;
        let (distance, node) = stack[depth];
        if distance >= best {
            continue;
        }
        let (left, right) = match tree.node(node) {
            Node::Pair(left, right) => (left, right),
            Node::Items(range) => {
                for i in range {
                    let point = closest_on_triangle(to, corners(i));
                    let distance_squared = point.distance_squared(to);
                    if distance_squared < best {
                        best = distance_squared;
                        found = Some(Closest {
                            point,
                            distance_squared,
                            triangle: i as u32,
                        });
                    }
                }
                continue;
            }
        };
        let mut near = (distance_to(tree, left, to), left);
        let mut far = (distance_to(tree, right, to), right);
        if far.0 < near.0 {
            std::mem::swap(&mut near, &mut far);
        }
        stack[depth] = far;
        stack[depth + 1] = near;
        depth += 2;
    }
    found
}

/// How far a place lies from a node's box, squared.
fn distance_to(tree: &BoxTree, node: usize, to: DVec3) -> f64 {
    let [low, high] = tree.bounds(node);
    if low.x > high.x {
        return f64::INFINITY;
    }
    let nearest = to.clamp(low.as_dvec3(), high.as_dvec3());
    nearest.distance_squared(to)
}

/// Whether the box of a triangle reaches into another.
#[inline]
pub fn reaches_into(corners: &[DVec3; 3], low: DVec3, high: DVec3) -> bool {
    let [from, to] = bounds_of(corners);
    (from.cmple(high) & low.cmple(to)).all()
}

/// The box round a triangle.
pub(super) fn bounds_of([a, b, c]: &[DVec3; 3]) -> [DVec3; 2] {
    [a.min(*b).min(*c), a.max(*b).max(*c)]
}

/// What of a triangle a point lies on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum On {
    /// The triangle itself.
    Face,
    /// The edge from this corner to the next.
    Edge(usize),
    /// This corner.
    Corner(usize),
}

/// The point of a triangle closest to `p`.
#[inline]
pub fn closest_on_triangle(p: DVec3, triangle: [DVec3; 3]) -> DVec3 {
    closest_and_where(p, triangle).0
}

/// The point of a triangle closest to `p` and what it lies on, by the region of the plane that
/// `p` lies over (the seven regions as in Ericson 2005, §5.1.5).
#[inline]
pub fn closest_and_where(p: DVec3, [a, b, c]: [DVec3; 3]) -> (DVec3, On) {
    let (ab, ac, ap) = (b - a, c - a, p - a);
    let (d1, d2) = (ab.dot(ap), ac.dot(ap));
    if d1 <= 0.0 && d2 <= 0.0 {
        return (a, On::Corner(0));
    }
    let bp = p - b;
    let (d3, d4) = (ab.dot(bp), ac.dot(bp));
    if d3 >= 0.0 && d4 <= d3 {
        return (b, On::Corner(1));
    }
    let vc = d1 * d4 - d3 * d2;
    if vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0 && d1 > d3 {
        return (a + ab * (d1 / (d1 - d3)), On::Edge(0));
    }
    let cp = p - c;
    let (d5, d6) = (ab.dot(cp), ac.dot(cp));
    if d6 >= 0.0 && d5 <= d6 {
        return (c, On::Corner(2));
    }
    let vb = d5 * d2 - d1 * d6;
    if vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0 && d2 > d6 {
        return (a + ac * (d2 / (d2 - d6)), On::Edge(2));
    }
    let va = d3 * d6 - d5 * d4;
    let (e, f) = (d4 - d3, d5 - d6);
    if va <= 0.0 && e >= 0.0 && f >= 0.0 && e + f > 0.0 {
        return (b + (c - b) * (e / (e + f)), On::Edge(1));
    }
    let sum = va + vb + vc;
    if sum > 0.0 {
        (a + ab * (vb / sum) + ac * (vc / sum), On::Face)
    } else {
        (a, On::Corner(0))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::FaceId;
    use crate::shapes;

    #[test]
    fn finds_what_trying_every_triangle_finds() {
        let mesh = shapes::bumpy_sphere(900);
        let triangle = |f: usize| {
            let face = mesh.face(FaceId::new(f));
            [0, 1, 2].map(|i| mesh.position(face[i]))
        };
        let tree = TriangleTree::new(mesh.face_count(), triangle);
        for i in 0..300 {
            let t = i as f64;
            let query = DVec3::new((t * 0.7).sin(), (t * 1.3).cos(), (t * 0.37).sin()) * 1.7;
            let best = (0..mesh.face_count())
                .map(|f| closest_on_triangle(query, triangle(f)).distance(query))
                .fold(f64::INFINITY, f64::min);
            let found = tree.closest(query).unwrap();
            assert!((found.distance_squared.sqrt() - best).abs() < 1e-12);
            for hint in [0, 17, u32::MAX] {
                let hinted = tree.closest_from(query, hint).unwrap();
                assert_eq!(hinted.distance_squared, found.distance_squared);
            }
        }
    }

    #[test]
    fn an_empty_tree_finds_nothing() {
        let tree = TriangleTree::new(0, |_| unreachable!());
        assert_eq!(tree.closest(DVec3::ZERO), None);
    }

    #[test]
    fn degenerate_triangles_have_closest_points() {
        let point = DVec3::new(1.0, 2.0, 3.0);
        assert_eq!(closest_on_triangle(DVec3::ZERO, [point; 3]), point);
        let line = [DVec3::ZERO, DVec3::X, DVec3::X * 2.0];
        let near = closest_on_triangle(DVec3::new(1.5, 1.0, 0.0), line);
        assert!(near.distance(DVec3::new(1.5, 0.0, 0.0)) < 1e-12, "{near}");
    }
}
