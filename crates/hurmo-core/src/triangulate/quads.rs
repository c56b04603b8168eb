//! N-gons into quads where these come out well, and triangles for the rest.
//!
//! ```text
//! convex, up to 128 corners ─▶ every way to cut it, by dynamic programming
//! others                    ─▶ into triangles, which are paired again
//! ```
//!
//! Of all ways, that with the most quads is taken, and of those the squarest. A quad must be
//! strictly convex (decided exactly in the n-gon's plane) and flat. Cutting a convex polygon
//! goes as for triangles (Klincsek 1980), with two corners between the ends of an edge rather
//! than one. Triangles of a polygon are neighbours like the nodes of a tree, so that the best
//! pairs are found from the leaves to the root. Cost: O(n⁴) for convex ones, which is little up
//! to 128; else that of cutting into triangles, O(n²).

use super::{flattened, polygon_beside, quality};
use crate::geometry::off_plane;
use crate::predicates::side_of_line;
use glam::{DVec2, DVec3};
use rustc_hash::FxHashMap;
use std::cmp::Ordering;

/// A quad's corners may be so far from square, in degrees.
const SKEW: f64 = 85.0;
/// And so far off its plane, as a share of its longest edge: half of what the audit calls bent.
const BENT: f64 = 0.005;

/// Cuts a polygon into quads and triangles over its corners, wound like it.
pub fn quads_and_triangles(points: &[DVec3]) -> Vec<Vec<u32>> {
    quads_beside(points, |_, _| false)
}

/// The same, where there is a choice not along diagonals that are taken.
pub(super) fn quads_beside(points: &[DVec3], taken: impl Fn(u32, u32) -> bool) -> Vec<Vec<u32>> {
    let triangles = polygon_beside(points, &taken);
    if points.len() < 5 {
        return triangles.into_iter().map(|t| t.to_vec()).collect();
    }
    let flat = flattened(points);
    if points.len() <= EVERY_WAY && is_convex(&flat) {
        return cut_every_way(points, &flat, taken);
    }
    let mut half: FxHashMap<[u32; 2], usize> = FxHashMap::default();
    for (t, &[a, b, c]) in triangles.iter().enumerate() {
        for side in [[a, b], [b, c], [c, a]] {
            half.insert(side, t);
        }
    }
    let beside = |t: usize| {
        let [a, b, c] = triangles[t];
        let sides = [[a, b, c], [b, c, a], [c, a, b]].into_iter();
        sides.filter_map(|[from, to, beyond]| {
            let other = *half.get(&[to, from])?;
            let across = triangles[other]
                .into_iter()
                .find(|v| ![from, to].contains(v))?;
            Some((other, [from, across, to, beyond]))
        })
    };
    let worth = |quad: [u32; 4]| Some(ONE_MORE - skew(points, &flat, quad)?);
    let mut pairing = Pairing::of(triangles.len(), beside, worth);
    let mut pieces: Vec<Vec<u32>> = Vec::new();
    for (t, triangle) in triangles.iter().enumerate() {
        match pairing.take(t) {
            Some(quad) => pieces.push(quad.to_vec()),
            None if pairing.taken[t] => {}
            None => pieces.push(triangle.to_vec()),
        }
    }
    pieces
}

/// Up to this many corners, all ways to cut a convex polygon are tried.
const EVERY_WAY: usize = 128;

/// Whether a polygon turns left or not at all everywhere, and once round.
fn is_convex(flat: &[DVec2]) -> bool {
    let count = flat.len();
    let next = |i: usize| flat[(i + 1) % count] - flat[i];
    let mut turned = 0.0;
    (0..count).all(|i| {
        let j = (i + 1) % count;
        turned += next(i).angle_to(next(j));
        side_of_line(flat[i], flat[j], flat[(j + 1) % count]) != Ordering::Less
    }) && turned < 1.5 * std::f64::consts::TAU
}

/// The best way to cut a convex polygon.
fn cut_every_way(
    points: &[DVec3],
    flat: &[DVec2],
    taken: impl Fn(u32, u32) -> bool,
) -> Vec<Vec<u32>> {
    let count = points.len();
    let at = |i: usize, j: usize| i * count + j;
    // By first and last corner of a chain: the cost of what lies between it and its chord, and
    // the corners of the piece along that chord.
    let mut cost = vec![0.0; count * count];
    let mut piece: Vec<[u32; 2]> = vec![[NONE; 2]; count * count];
    for span in 2..count {
        for i in 0..count - span {
            let j = i + span;
            let mut best = (f64::INFINITY, [NONE; 2]);
            for k in i + 1..j {
                let beside = cost[at(i, k)];
                let shape = quality([points[i], points[k], points[j]]);
                let triangle = beside + cost[at(k, j)] + ONE_MORE + 90.0 * (1.0 - shape);
                if triangle < best.0 {
                    best = (triangle, [k as u32, NONE]);
                }
                for l in k + 1..j {
                    let others = beside + cost[at(k, l)] + cost[at(l, j)];
                    if others >= best.0 {
                        continue;
                    }
                    let corners = [i as u32, k as u32, l as u32, j as u32];
                    if let Some(skew) = skew(points, flat, corners).filter(|s| others + s < best.0)
                    {
                        best = (others + skew, [k as u32, l as u32]);
                    }
                }
            }
            if span + 1 < count && taken(i as u32, j as u32) {
                best.0 += TAKEN;
            }
            (cost[at(i, j)], piece[at(i, j)]) = best;
        }
    }
    let mut pieces = Vec::new();
    let mut chords = vec![(0, count - 1)];
    while let Some((i, j)) = chords.pop() {
        if j - i < 2 {
            continue;
        }
        let between = piece[at(i, j)].into_iter().filter(|&k| k != NONE);
        let corners: Vec<u32> = [i as u32]
            .into_iter()
            .chain(between)
            .chain([j as u32])
            .collect();
        let pairs = corners.windows(2);
        chords.extend(pairs.map(|pair| (pair[0] as usize, pair[1] as usize)));
        pieces.push(corners);
    }
    pieces
}

const NONE: u32 = u32::MAX;

/// What a quad more is worth, against degrees of skew.
const ONE_MORE: f64 = 1e4;

/// What a diagonal costs that is an edge elsewhere.
const TAKEN: f64 = 1e8;

/// Which triangles are put together.
struct Pairing {
    /// By triangle, the quad that it makes with one further from the root.
    quad: Vec<Option<[u32; 4]>>,
    taken: Vec<bool>,
}

impl Pairing {
    /// `beside` gives the neighbours of a triangle, and the quads with them.
    fn of<I: Iterator<Item = (usize, [u32; 4])>>(
        count: usize,
        beside: impl Fn(usize) -> I,
        worth: impl Fn([u32; 4]) -> Option<f64>,
    ) -> Self {
        const NONE: usize = usize::MAX;
        // From the root outward, each after its parent.
        let mut parent = vec![NONE; count];
        let mut order = Vec::with_capacity(count);
        for root in 0..count {
            if parent[root] != NONE {
                continue;
            }
            parent[root] = root;
            order.push(root);
            let mut next = order.len() - 1;
            while let Some(&here) = order.get(next) {
                next += 1;
                for (other, _) in beside(here) {
                    if parent[other] == NONE {
                        parent[other] = here;
                        order.push(other);
                    }
                }
            }
        }
        // The most that a triangle and all beyond it can be worth, it being free or not.
        let (mut free, mut best) = (vec![0.0; count], vec![0.0; count]);
        let mut choice: Vec<Option<(usize, [u32; 4])>> = vec![None; count];
        for &here in order.iter().rev() {
            let children =
                || beside(here).filter(|&(other, _)| parent[other] == here && other != here);
            free[here] = children().map(|(child, _)| best[child]).sum();
            best[here] = free[here];
            for (child, quad) in children() {
                let Some(worth) = worth(quad) else { continue };
                let together = free[here] - best[child] + free[child] + worth;
                if together > best[here] {
                    best[here] = together;
                    choice[here] = Some((child, quad));
                }
            }
        }
        let mut pairing = Self {
            quad: vec![None; count],
            taken: vec![false; count],
        };
        for here in order {
            if let Some((child, quad)) = choice[here].filter(|_| !pairing.taken[here]) {
                pairing.taken[here] = true;
                pairing.taken[child] = true;
                pairing.quad[here] = Some(quad);
            }
        }
        pairing
    }

    fn take(&mut self, triangle: usize) -> Option<[u32; 4]> {
        self.quad[triangle].take()
    }
}

/// How far a quad's worst corner is from square, in degrees; `None` if it is no good.
fn skew(points: &[DVec3], flat: &[DVec2], quad: [u32; 4]) -> Option<f64> {
    let corner = |i: usize| [(i + 3) % 4, i, (i + 1) % 4].map(|j| quad[j] as usize);
    let convex = (0..4).all(|i| {
        let [a, b, c] = corner(i).map(|v| flat[v]);
        side_of_line(a, b, c) == Ordering::Greater
    });
    let worst = (0..4)
        .map(|i| {
            let [a, b, c] = corner(i).map(|v| points[v]);
            ((a - b).angle_between(c - b).to_degrees() - 90.0).abs()
        })
        .fold(0.0, f64::max);
    let corners = quad.map(|v| points[v as usize]);
    (convex && worst <= SKEW && off_plane(corners.into_iter()) <= BENT).then_some(worst)
}
