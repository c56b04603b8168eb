//! A hierarchy of boxes over any items.
//!
//! ```text
//! items ─sorted along a space-filling curve─▶ runs of four ─▶ pairs of runs ─▶ … ─▶ root
//! ```
//!
//! The curve is Morton's (1966); bounds of runs of four, then of pairs of runs, and so on up
//! make a complete binary tree in one array, built bottom-up (the linear hierarchy of
//! Lauterbach et al. 2009, without its splits). Items are spoken of by their place along the
//! curve. Cost: O(n log n) to build; 20 bytes an item.

use crate::parallel::{change_each, mapped, mapped_of, of_runs};
use glam::{DVec3, Vec3A};
use rayon::prelude::*;
use std::ops::Range;

const LEAF: usize = 4;

/// A box in single precision, rounded outward: least and greatest coordinates.
pub type Bounds32 = [Vec3A; 2];

/// What contains nothing.
pub const NOWHERE: Bounds32 = [Vec3A::INFINITY, Vec3A::NEG_INFINITY];

/// A hierarchy of boxes.
pub struct BoxTree {
    /// By place along the curve: the item's index in the input.
    order: Vec<u32>,
    /// Heap-like: the children of `n` are `2n + 1` and `2n + 2`.
    bounds: Vec<Bounds32>,
    leaves: usize,
}

/// What a node holds.
pub enum Node {
    /// Items, by their places along the curve.
    Items(Range<usize>),
    /// Two nodes.
    Pair(usize, usize),
}

impl BoxTree {
    /// Builds the tree over `count` items with these boxes.
    pub fn new(count: usize, box_of: impl Fn(usize) -> [DVec3; 2] + Sync) -> Self {
        let middle = |_, [low, high]: Bounds32| (low.as_dvec3() + high.as_dvec3()) / 2.0;
        Self::sorted(count, &box_of, &middle)
    }

    /// The same, the items sorted by points in their boxes.
    pub fn by_points(
        count: usize,
        box_of: impl Fn(usize) -> [DVec3; 2] + Sync,
        point_of: impl Fn(usize) -> DVec3 + Sync,
    ) -> Self {
        Self::sorted(count, &box_of, &|i, _| point_of(i))
    }

    /// Compiled once, whatever the items are.
    fn sorted(
        count: usize,
        box_of: &(dyn Fn(usize) -> [DVec3; 2] + Sync),
        point_of: &(dyn Fn(usize, Bounds32) -> DVec3 + Sync),
    ) -> Self {
        let boxes: Vec<Bounds32> = mapped(count, 4096, |i| rounded_outward(box_of(i)));
        let all = |boxes: &[Bounds32]| boxes.iter().copied().fold(NOWHERE, united);
        let [low, high] = all(&of_runs(count, 4096, |run| all(&boxes[run])));
        let low = low.as_dvec3();
        // A place along the curve above the item's number, in one key.
        let number = usize::BITS - count.leading_zeros();
        let along = ((u64::BITS - number) / 3).min(21);
        let scale = DVec3::splat(((1u64 << along) - 1) as f64)
            / (high.as_dvec3() - low).max(DVec3::splat(f64::MIN_POSITIVE));
        let mut keyed: Vec<u64> = mapped(count, 4096, |i| {
            let at = (point_of(i, boxes[i]) - low) * scale;
            along_curve(at) << number | i as u64
        });
        keyed.par_sort_unstable();
        let number = (1u64 << number) - 1;
        let order: Vec<u32> = mapped_of(&keyed, 4096, |key| (key & number) as u32);
        let leaves = count.div_ceil(LEAF).max(1).next_power_of_two();
        let mut bounds = vec![NOWHERE; 2 * leaves - 1];
        change_each(&mut bounds[leaves - 1..], 1024, |leaf, bound| {
            for &i in order.iter().skip(leaf * LEAF).take(LEAF) {
                *bound = united(*bound, boxes[i as usize]);
            }
        });
        for node in (0..leaves - 1).rev() {
            bounds[node] = united(bounds[2 * node + 1], bounds[2 * node + 2]);
        }
        Self {
            order,
            bounds,
            leaves,
        }
    }

    /// How many items.
    pub fn len(&self) -> usize {
        self.order.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.order.is_empty()
    }

    /// By place along the curve: the item's index in the input.
    pub fn order(&self) -> &[u32] {
        &self.order
    }

    /// How many nodes; the root is node 0.
    pub fn node_count(&self) -> usize {
        self.bounds.len()
    }

    /// A node's bounds; [`NOWHERE`] of an empty one.
    #[inline]
    pub fn bounds(&self, node: usize) -> Bounds32 {
        self.bounds[node]
    }

    /// What a node holds.
    #[inline]
    pub fn node(&self, node: usize) -> Node {
        if node + 1 >= self.leaves {
            let from = ((node + 1 - self.leaves) * LEAF).min(self.order.len());
            Node::Items(from..(from + LEAF).min(self.order.len()))
        } else {
            Node::Pair(2 * node + 1, 2 * node + 2)
        }
    }

    /// Visits the items of every leaf all of whose ancestors' boxes `enter` lets through.
    pub fn visit(&self, enter: impl Fn(Bounds32) -> bool, mut item: impl FnMut(usize)) {
        let mut stack = [0usize; 64];
        let mut depth = 1;
        while depth > 0 {
            depth -= 1;
            let node = stack[depth];
            let bounds = self.bounds[node];
            if bounds[0].x > bounds[1].x || !enter(bounds) {
                continue;
            }
            match self.node(node) {
                Node::Items(range) => range.for_each(&mut item),
                Node::Pair(left, right) => {
                    stack[depth] = right;
                    stack[depth + 1] = left;
                    depth += 2;
                }
            }
        }
    }
}

/// Whether two boxes have a point in common.
#[inline]
pub fn overlap(a: Bounds32, b: Bounds32) -> bool {
    (a[0].cmple(b[1]) & b[0].cmple(a[1])).all()
}

/// The box round two.
#[inline]
pub(super) fn united(a: Bounds32, b: Bounds32) -> Bounds32 {
    [a[0].min(b[0]), a[1].max(b[1])]
}

/// A box in single precision that holds the other.
pub fn rounded_outward([low, high]: [DVec3; 2]) -> Bounds32 {
    [
        Vec3A::from_array(low.as_vec3().to_array().map(f32::next_down)),
        Vec3A::from_array(high.as_vec3().to_array().map(f32::next_up)),
    ]
}

/// How far along Morton's curve a place lies, given by coordinates of up to 21 bits.
#[inline]
pub fn along_curve(at: DVec3) -> u64 {
    spread(at.x as u64) | spread(at.y as u64) << 1 | spread(at.z as u64) << 2
}

/// Puts two zero bits between the low 21 bits of `x`.
fn spread(mut x: u64) -> u64 {
    x &= 0x1f_ffff;
    x = (x | x << 32) & 0x001f_0000_0000_ffff;
    x = (x | x << 16) & 0x001f_0000_ff00_00ff;
    x = (x | x << 8) & 0x100f_00f0_0f00_f00f;
    x = (x | x << 4) & 0x10c3_0c30_c30c_30c3;
    (x | x << 2) & 0x1249_2492_4924_9249
}
