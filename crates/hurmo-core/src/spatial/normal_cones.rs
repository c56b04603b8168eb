//! Which way the triangles under each box of a hierarchy look, so that those which look another
//! way than asked for are passed by all at once.
//!
//! For every node the box round its triangles' unit normals. How far two directions agree at the
//! least, each out of such a box, follows by interval arithmetic (Moore 1966). Cost: 32 bytes for
//! each node of the tree; a query visits what reaches into its box and may look the way asked for.

use super::TriangleTree;
use super::boxes::{Bounds32, NOWHERE, Node, overlap, rounded_outward, united};
use super::closest::bounds_of;
use crate::parallel::change_each;
use glam::DVec3;

/// What single precision may take from a product of directions.
const ROUNDING: f32 = 1e-5;

/// The boxes round the unit normals of a tree's triangles.
pub struct Facings<'t> {
    triangles: &'t TriangleTree,
    normals: Vec<Bounds32>,
}

impl<'t> Facings<'t> {
    /// Of a tree's triangles.
    pub fn of(triangles: &'t TriangleTree) -> Self {
        let tree = triangles.tree();
        let mut normals = vec![NOWHERE; tree.node_count()];
        let leaves = tree.node_count() / 2;
        let (above, leaf) = normals.split_at_mut(leaves);
        change_each(leaf, 1024, |i, bound| {
            if let Node::Items(items) = tree.node(leaves + i) {
                *bound = round_directions(items.map(|item| normal(triangles.corners(item))));
            }
        });
        for node in (0..above.len()).rev() {
            normals[node] = united(normals[2 * node + 1], normals[2 * node + 2]);
        }
        Self { triangles, normals }
    }

    /// Whether a triangle's box reaches into a box, and its normal may agree with a direction out
    /// of some less than so (cosine). False is certain.
    pub fn may_differ(&self, within: Bounds32, directions: Bounds32, cosine: f32) -> bool {
        let tree = self.triangles.tree();
        let differs = |normals| least_agreement(normals, directions) < cosine + ROUNDING;
        let mut stack = [0usize; 64];
        let mut depth = 1;
        while depth > 0 {
            depth -= 1;
            let node = stack[depth];
            if !overlap(tree.bounds(node), within) || !differs(self.normals[node]) {
                continue;
            }
            match tree.node(node) {
                // Where the curve leaps, a leaf's triangles lie far apart.
                Node::Items(mut items) => {
                    if items.any(|item| {
                        let corners = self.triangles.corners(item);
                        overlap(rounded_outward(bounds_of(&corners)), within)
                            && differs(round_directions([normal(corners)].into_iter()))
                    }) {
                        return true;
                    }
                }
                Node::Pair(left, right) => {
                    stack[depth] = right;
                    stack[depth + 1] = left;
                    depth += 2;
                }
            }
        }
        false
    }
}

fn normal([a, b, c]: [DVec3; 3]) -> DVec3 {
    (b - a).cross(c - a).normalize_or_zero()
}

/// The box round unit vectors; those that are none are left out.
pub fn round_directions(directions: impl Iterator<Item = DVec3>) -> Bounds32 {
    directions
        .filter(|&direction| direction != DVec3::ZERO)
        .map(|direction| rounded_outward([direction; 2]))
        .fold(NOWHERE, united)
}

/// The least product of two vectors, each out of a box; infinite of boxes that hold nothing.
fn least_agreement(a: Bounds32, b: Bounds32) -> f32 {
    let products = [a[0] * b[0], a[0] * b[1], a[1] * b[0], a[1] * b[1]];
    let [p, q, r, s] = products;
    match a[0].x > a[1].x || b[0].x > b[1].x {
        true => f32::INFINITY,
        false => p.min(q).min(r.min(s)).element_sum(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;
    use crate::triangulate::all_triangles;

    /// Asked of every triangle by itself, with random boxes and directions.
    #[test]
    fn what_is_passed_by_looks_no_such_way() {
        let mesh = shapes::torus(1.0, 0.3, 240, 80);
        let (triangles, _) = all_triangles(&mesh);
        let corners = |i: usize| triangles[i].map(|v| mesh.position(v));
        let tree = TriangleTree::new(triangles.len(), corners);
        let facings = Facings::of(&tree);
        let (mut passed, mut found) = (0, 0);
        for i in 0..2000 {
            let t = f64::from(i);
            let middle = DVec3::new((t * 0.71).sin(), (t * 1.31).cos(), 0.3 * (t * 0.37).sin());
            let half = DVec3::splat(0.02 + 0.1 * (t * 0.17).sin().abs());
            let within = rounded_outward([middle - half, middle + half]);
            let way = DVec3::new((t * 0.3).cos(), (t * 0.9).sin(), (t * 1.7).cos()).normalize();
            let directions = round_directions([way].into_iter());
            let differs = (0..triangles.len()).any(|t| {
                let corners = tree.corners(t);
                let reaches = overlap(rounded_outward(bounds_of(&corners)), within);
                reaches && normal(corners).dot(way) < -0.3
            });
            let may = facings.may_differ(within, directions, -0.3);
            assert!(may || !differs, "{middle} {way}");
            passed += u32::from(!may);
            found += u32::from(differs);
        }
        // And it passes by most of what it could.
        assert!(found > 100 && passed + found == 2000, "{passed} {found}");
    }
}
