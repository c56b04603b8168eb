//! How often a surface winds round a point: the generalized winding number (Jacobson, Kavan &
//! Sorkine-Hornung 2013), by tree (Barill, Dickson, Schmidt, Levin & Jacobson 2018).
//!
//! A closed surface that faces outward winds once round each point inside and not round those
//! outside; of an open one the number changes smoothly, and measures how far a point is inside.
//!
//! ```text
//! far nodes  ─▶ their area vector, and how it is spread, as seen from the point
//! near leaves ─▶ each triangle's solid angle, exactly (van Oosterom & Strackee 1983)
//! ```
//!
//! Cost: about log n a query; 60 bytes for each node of the tree. With [`NEAR`] radii the error
//! stays under 0.03, which the tests hold it to.

use super::solid_angle::{AngleSum, solid_angle};
use super::{Node, TriangleHierarchy};
use crate::parallel::change_each;
use glam::DVec3;
use smallvec::SmallVec;
use std::f64::consts::PI;

/// A node is far when the point is further away than this many of its radii.
const NEAR: f64 = 2.5;

/// How many triangles may be looked at altogether: some seconds' work. Only where most faces
/// reach across most of a large model is it more.
pub const MOST_WORK: f64 = 5e7;

/// A surface's winding numbers.
pub struct Winding<'s, 'm> {
    hierarchy: &'s TriangleHierarchy<'m>,
    moments: Vec<Moments>,
}

/// A node's surface, as seen from afar.
#[derive(Clone, Copy, Default)]
struct Moments {
    /// Middle by area, and the radius of a ball round it that holds the node.
    middle: DVec3,
    radius: f64,
    area: f64,
    /// Sum of area vectors.
    normal: DVec3,
    /// Symmetric part of Σ area vector ⊗ (place - middle): xx, yy, zz, xy, yz, zx.
    spread: [f64; 6],
}

/// The winding number on both sides of a face.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sides {
    /// Just before its front.
    pub front: f64,
    /// Just behind its back.
    pub back: f64,
}

impl<'s, 'm> Winding<'s, 'm> {
    /// Works out the moments of all nodes.
    pub fn of(hierarchy: &'s TriangleHierarchy<'m>) -> Self {
        Self::by(hierarchy, |level, of_node| {
            change_each(level, 512, |i, own| *own = of_node(i));
        })
    }

    /// The same on this thread alone, which then waits for no other: under a lock nothing else will
    /// do, since a thread that waits for others of its pool may take up work that asks for the lock.
    pub fn on_one_thread(hierarchy: &'s TriangleHierarchy<'m>) -> Self {
        Self::by(hierarchy, |level, of_node| {
            let level = level.iter_mut().enumerate();
            level.for_each(|(i, own)| *own = of_node(i));
        })
    }

    /// Level by level from below; `all` fills a level.
    fn by(
        hierarchy: &'s TriangleHierarchy<'m>,
        all: impl Fn(&mut [Moments], &(dyn Fn(usize) -> Moments + Sync)),
    ) -> Self {
        let tree = hierarchy.tree();
        let mut moments = vec![Moments::default(); tree.node_count()];
        let mut end = tree.node_count();
        while end > 0 {
            let begin = end / 2;
            let (level, below) = moments[begin..].split_at_mut(end - begin);
            // The children of a level follow right behind it, in the same order.
            let children = |i: usize| below.get(2 * i..2 * i + 2).unwrap_or_default();
            all(level, &|i| {
                Moments::of_node(hierarchy, begin + i, children(i))
            });
            end = begin;
        }
        Self { hierarchy, moments }
    }

    /// The winding number round a point.
    pub fn at(&self, point: DVec3) -> f64 {
        let mut near = AngleSum::default();
        let far = self.walk(point, |triangle| {
            near.add_seen(self.hierarchy.corners(triangle), point);
        });
        (far + 2.0 * near.total()) / (4.0 * PI)
    }

    /// The winding numbers just off both sides of a point on the surface; `offset` is small
    /// against everything there, and points to the front.
    pub fn both_sides(&self, point: DVec3, offset: DVec3) -> Sides {
        let (mut both, mut sides) = (AngleSum::default(), [0.0; 2]);
        let far = self.walk(point, |triangle| {
            let corners = self.hierarchy.corners(triangle);
            if lies_flat(corners, point) {
                sides[0] += solid_angle(corners, point + offset);
                sides[1] += solid_angle(corners, point - offset);
            } else {
                both.add_seen(corners, point);
            }
        });
        let far = far + 2.0 * both.total();
        let [front, back] = sides.map(|near| (far + near) / (4.0 * PI));
        Sides { front, back }
    }

    /// The winding numbers just off both sides of a triangle's middle.
    pub fn sides_of(&self, triangle: usize) -> Sides {
        let (middle, offset) = self.hierarchy.middle_and_offset(triangle);
        self.both_sides(middle, offset)
    }

    /// About how many triangles a query on the surface has to look at one by one, from a few of
    /// them.
    pub fn mean_cost(&self) -> f64 {
        const SAMPLES: usize = 32;
        if self.hierarchy.is_empty() {
            return 0.0;
        }
        let step = self.hierarchy.len().div_ceil(SAMPLES);
        let (mut near, mut asked) = (0usize, 0usize);
        for triangle in (0..self.hierarchy.len()).step_by(step) {
            self.walk(self.hierarchy.middle_and_offset(triangle).0, |_| near += 1);
            asked += 1;
        }
        near as f64 / asked as f64
    }

    /// A bound on the winding number anywhere in a ball, either way; infinite where the surface
    /// is in it, and not looked at closer once it is above `enough`.
    pub fn at_most_in(&self, middle: DVec3, radius: f64, enough: f64) -> f64 {
        let share = |area: f64, gap: f64| area / (4.0 * PI * gap * gap);
        self.bound_in(middle, radius, enough, share)
    }

    /// A bound on how far the winding number anywhere in a ball is from that at its middle; the same
    /// goes for it. It changes as the potential of a layer of dipoles does.
    pub fn varies_in(&self, middle: DVec3, radius: f64, enough: f64) -> f64 {
        let share = |area: f64, gap: f64| radius * area / (2.0 * PI * gap * gap * gap);
        self.bound_in(middle, radius, enough, share)
    }

    /// Sums up what areas may do to a ball at so wide a gap.
    fn bound_in(
        &self,
        middle: DVec3,
        radius: f64,
        enough: f64,
        share: impl Fn(f64, f64) -> f64,
    ) -> f64 {
        let tree = self.hierarchy.tree();
        let mut sum = 0.0;
        let mut stack = [0usize; 64];
        let mut depth = 1;
        while depth > 0 && sum <= enough {
            depth -= 1;
            let node = stack[depth];
            let moments = &self.moments[node];
            let gap = moments.middle.distance(middle) - moments.radius - radius;
            if gap > moments.radius {
                sum += share(moments.area, gap);
                continue;
            }
            match tree.node(node) {
                Node::Items(range) => {
                    for triangle in range {
                        let own = Moments::of_triangle(self.hierarchy.corners(triangle));
                        let gap = own.middle.distance(middle) - own.radius - radius;
                        sum += match gap > 0.0 {
                            true => share(own.area, gap),
                            false => f64::INFINITY,
                        };
                    }
                }
                Node::Pair(left, right) => {
                    stack[depth] = left;
                    stack[depth + 1] = right;
                    depth += 2;
                }
            }
        }
        sum
    }

    /// Sums up the far nodes' solid angles and shows the near triangles to `near`.
    fn walk(&self, point: DVec3, mut near: impl FnMut(usize)) -> f64 {
        let tree = self.hierarchy.tree();
        let mut sum = 0.0;
        let mut stack = [0usize; 64];
        let mut depth = 1;
        while depth > 0 {
            depth -= 1;
            let node = stack[depth];
            let moments = &self.moments[node];
            let away = moments.middle - point;
            let reach = NEAR * moments.radius;
            if away.length_squared() > reach * reach {
                sum += moments.seen_along(away);
                continue;
            }
            match tree.node(node) {
                Node::Items(range) => range.for_each(&mut near),
                Node::Pair(left, right) => {
                    stack[depth] = left;
                    stack[depth + 1] = right;
                    depth += 2;
                }
            }
        }
        sum
    }
}

impl Moments {
    /// Of a node, by those of its children.
    fn of_node(hierarchy: &TriangleHierarchy<'_>, node: usize, below: &[Moments]) -> Self {
        let tree = hierarchy.tree();
        let mut own = match tree.node(node) {
            Node::Items(range) => {
                let parts = range.map(|i| Moments::of_triangle(hierarchy.corners(i)));
                Moments::sum(&parts.collect::<SmallVec<[Moments; 4]>>())
            }
            Node::Pair(..) => Moments::sum(below),
        };
        // The box is often tighter than the balls of the parts.
        let [low, high] = tree.bounds(node).map(|corner| corner.as_dvec3());
        let reach = (own.middle - low).abs().max((high - own.middle).abs());
        own.radius = own.radius.min(reach.length());
        own
    }

    fn of_triangle([a, b, c]: [DVec3; 3]) -> Self {
        let middle = (a + b + c) / 3.0;
        let normal = (b - a).cross(c - a) / 2.0;
        let radius = [a, b, c]
            .map(|p| p.distance(middle))
            .into_iter()
            .fold(0.0, f64::max);
        Self {
            middle,
            radius,
            area: normal.length(),
            normal,
            spread: [0.0; 6],
        }
    }

    fn sum(parts: &[Moments]) -> Self {
        let area: f64 = parts.iter().map(|m| m.area).sum();
        if area <= 0.0 {
            let spans = parts.iter().filter(|m| m.radius > 0.0 || m.area > 0.0);
            return spans.copied().next().unwrap_or_default();
        }
        let middle = parts.iter().map(|m| m.middle * (m.area / area)).sum();
        let mut whole = Self {
            middle,
            area,
            ..Self::default()
        };
        for part in parts.iter().filter(|part| part.area > 0.0) {
            let off = part.middle - middle;
            let n = part.normal;
            whole.normal += n;
            whole.radius = whole.radius.max(off.length() + part.radius);
            let shifted = [
                n.x * off.x,
                n.y * off.y,
                n.z * off.z,
                (n.x * off.y + n.y * off.x) / 2.0,
                (n.y * off.z + n.z * off.y) / 2.0,
                (n.z * off.x + n.x * off.z) / 2.0,
            ];
            for (slot, (own, moved)) in whole.spread.iter_mut().zip(part.spread.iter().zip(shifted))
            {
                *slot += own + moved;
            }
        }
        whole
    }

    /// The solid angle under which the node is seen from a point that lies `away` from its
    /// middle: the first two terms of the expansion in the node's size.
    #[inline]
    fn seen_along(&self, away: DVec3) -> f64 {
        let square = away.length_squared();
        if square <= 0.0 {
            return 0.0;
        }
        let cube = square * square.sqrt();
        let [xx, yy, zz, xy, yz, zx] = self.spread;
        let DVec3 { x, y, z } = away;
        let along =
            xx * x * x + yy * y * y + zz * z * z + 2.0 * (xy * x * y + yz * y * z + zx * z * x);
        (self.normal.dot(away) + xx + yy + zz - 3.0 * along / square) / cube
    }
}

/// Whether a point is so near a triangle's plane that it matters on which side it is.
#[inline]
fn lies_flat(corners: [DVec3; 3], point: DVec3) -> bool {
    let [a, b, c] = corners.map(|corner| corner - point);
    let volume = a.dot(b.cross(c));
    let size = a.length_squared() * b.length_squared() * c.length_squared();
    volume * volume <= 1e-6 * size
}

#[cfg(test)]
mod tests;
