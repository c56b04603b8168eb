//! Feature polylines: the lines as the model has them, from corner to corner, to be walked by length.

use super::feature_edges::{FeatureEdges, Span, VertexConstraint};
use crate::spatial::closest_on_triangle;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

/// One line, from a corner to a corner, or round.
struct FeaturePolyline {
    /// Its points in order; the first again at the end of one that goes round.
    points: Vec<DVec3>,
    /// How far each point lies from the first.
    lengths: Vec<f64>,
    is_round: bool,
}

/// The lines of the model as it was, which those of the new mesh follow.
#[derive(Default)]
pub(super) struct FeaturePolylines(Vec<FeaturePolyline>);

impl FeaturePolylines {
    /// Follows the kept edges from corner to corner, then round. Also every edge's span.
    pub fn of(
        positions: &[DVec3],
        spokes: &FxHashMap<u32, Vec<u32>>,
        constraints: &[VertexConstraint],
    ) -> (Self, FeatureEdges) {
        let mut begins: Vec<u32> = spokes.keys().copied().collect();
        // Corners first; what is left then goes round.
        begins.sort_unstable_by_key(|&v| (constraints[v as usize] == VertexConstraint::Line, v));
        let mut done: FxHashSet<(u32, u32)> = FxHashSet::default();
        let mut chains = Vec::new();
        let mut lines = FeatureEdges::default();
        for begin in begins {
            for &next in &spokes[&begin] {
                if done.contains(&super::feature_edges::ends(begin, next)) {
                    continue;
                }
                let vertices = followed(begin, next, spokes, constraints, &mut done);
                let mut lengths = vec![0.0];
                let chain = chains.len() as u32;
                for pair in vertices.windows(2) {
                    let [p, q] = [pair[0], pair[1]].map(|v| positions[v as usize]);
                    let from = lengths[lengths.len() - 1];
                    let to = from + p.distance(q);
                    lengths.push(to);
                    lines.add(pair[0], pair[1], Span { chain, from, to });
                }
                let is_round = constraints[begin as usize] == VertexConstraint::Line;
                chains.push(FeaturePolyline {
                    points: vertices.iter().map(|&v| positions[v as usize]).collect(),
                    lengths,
                    is_round,
                });
            }
        }
        (Self(chains), lines)
    }

    /// How many there are.
    pub fn len(&self) -> usize {
        self.0.len()
    }

    /// The point so far along a chain.
    pub fn at(&self, chain: u32, along: f64) -> DVec3 {
        let chain = &self.0[chain as usize];
        let (i, along) = chain.segment(along);
        let [p, q] = [chain.points[i], chain.points[i + 1]];
        let (from, to) = (chain.lengths[i], chain.lengths[i + 1]);
        if to <= from {
            return p;
        }
        p.lerp(q, ((along - from) / (to - from)).clamp(0.0, 1.0))
    }

    /// How far a chain's points lie from the straight way between two places on it.
    pub fn rise(&self, chain: u32, from: f64, to: f64) -> f64 {
        let (low, high) = if from < to { (from, to) } else { (to, from) };
        let (a, b) = (self.at(chain, low), self.at(chain, high));
        let chain = &self.0[chain as usize];
        let length = chain.lengths[chain.lengths.len() - 1];
        if high - low >= length && chain.is_round {
            return f64::INFINITY;
        }
        let mut rise: f64 = 0.0;
        let (mut i, along) = chain.segment(low);
        let mut left = high - low + along;
        // Over the points between, round the end where need be.
        while chain.lengths[i + 1] < left {
            let point = chain.points[i + 1];
            rise = rise.max(closest_on_triangle(point, [a, b, b]).distance(point));
            i += 1;
            if i + 1 == chain.lengths.len() {
                if !chain.is_round {
                    break;
                }
                left -= length;
                i = 0;
            }
        }
        rise
    }
}

impl FeaturePolyline {
    /// The segment so far along, and how far along that is without whole rounds.
    fn segment(&self, along: f64) -> (usize, f64) {
        let last = self.lengths.len() - 1;
        let length = self.lengths[last];
        let along = match self.is_round && length > 0.0 {
            true => along.rem_euclid(length),
            false => along.clamp(0.0, length),
        };
        let i = self.lengths.partition_point(|&at| at <= along);
        (i.clamp(1, last) - 1, along)
    }
}

/// The points from one corner to the next, or round.
fn followed(
    begin: u32,
    next: u32,
    spokes: &FxHashMap<u32, Vec<u32>>,
    constraints: &[VertexConstraint],
    done: &mut FxHashSet<(u32, u32)>,
) -> Vec<u32> {
    let mut points = vec![begin];
    let (mut before, mut here) = (begin, next);
    loop {
        points.push(here);
        done.insert(super::feature_edges::ends(before, here));
        if here == begin || constraints[here as usize] != VertexConstraint::Line {
            return points;
        }
        let others = &spokes[&here];
        let ahead = match others[0] == before {
            true => others[1],
            false => others[0],
        };
        (before, here) = (here, ahead);
    }
}
