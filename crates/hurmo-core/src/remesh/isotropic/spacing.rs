//! Feature edges divided evenly along their whole length.
//!
//! Rounds even a line's vertices out between their neighbours only, which takes ever longer the
//! more there are. Here each goes at once where it belongs between the next two that stay.

use super::feature_edges::{Span, VertexConstraint, ends, turned};
use super::settle::HELD_AGAINST;
use super::sheet::{ReferenceSurface, Sheet};
use rustc_hash::FxHashSet;

/// Vertices whose way is barred by others are tried again, so often at most.
const TRIES: usize = 6;
/// A stretch stays as it is where a vertex would have to go further than this share of an edge: the
/// faces at it could not follow.
const FAR: f64 = 0.7;
/// How far a vertex goes at once, at most, as a share of the way to the next.
const AT_ONCE: f64 = 0.8;

/// An edge on a line in the direction of its chain: its span, and its ends.
type Along = (Span, [u32; 2]);

impl Sheet {
    /// Spaces the vertices on every line evenly, where lengths don't differ from place to place.
    pub fn space_lines(&mut self, reference: &ReferenceSurface<'_>) {
        if !self.sizing.is_empty() {
            return;
        }
        for _ in 0..TRIES {
            let mut moved = false;
            for stretch in self.stretches() {
                moved |= self.space(&stretch, reference);
            }
            if !moved {
                return;
            }
        }
    }

    /// The edges of lines to divide in two, so that there are as many as their lengths ask for, and
    /// no vertex is far from where it belongs.
    pub fn line_edges_to_divide(&self) -> FxHashSet<(u32, u32)> {
        let mut divided = FxHashSet::default();
        for stretch in self.stretches() {
            let (first, last) = (stretch[0].0, stretch[stretch.len() - 1].0);
            let length = last.to - first.from;
            let fit = length / (self.edge / HELD_AGAINST);
            let now = stretch.len();
            let all = (fit.round() as usize).clamp(now, 2 * now);
            let mut left = all;
            for (i, &(span, [a, b])) in stretch.iter().enumerate() {
                // This many should be left after this one, and this many may be.
                let after = (last.to - span.to) / length * all as f64;
                let edges = now - i - 1;
                let after = (after.round() as usize).clamp(edges, 2 * edges);
                let pieces = left.saturating_sub(after).clamp(1, 2);
                if pieces == 2 {
                    divided.insert(ends(a, b));
                }
                left -= pieces;
            }
        }
        divided
    }

    /// The edges of lines, in order, in stretches between vertices that stay where they are.
    fn stretches(&self) -> Vec<Vec<Along>> {
        let mut edges: Vec<Along> = self.lines.all().map(along).collect();
        edges.sort_unstable_by(|(one, _), (other, _)| {
            let chains = one.chain.cmp(&other.chain);
            chains.then(one.from.total_cmp(&other.from))
        });
        let goes_on = |one: &Along, next: &Along| {
            let [_, end] = one.1;
            one.0.chain == next.0.chain
                && end == next.1[0]
                && self.constraint(end) == VertexConstraint::Line
        };
        edges.chunk_by(goes_on).map(<[Along]>::to_vec).collect()
    }

    /// Moves the vertices between the ends of a stretch to where they are spaced evenly, or on the
    /// way there; whether one moved.
    fn space(&mut self, stretch: &[Along], reference: &ReferenceSurface<'_>) -> bool {
        let (first, last) = (stretch[0].0, stretch[stretch.len() - 1].0);
        let step = (last.to - first.from) / stretch.len() as f64;
        let way = |(i, edge): (usize, &Along)| first.from + step * (i + 1) as f64 - edge.0.to;
        let mut ways = stretch.iter().enumerate().map(way);
        if ways.any(|way| way.abs() > FAR * step) {
            return false;
        }
        let (mut moved, mut before_at) = (false, first.from);
        for (i, pair) in stretch.windows(2).enumerate() {
            let [(one, [before, here]), (next, [_, after])] = [pair[0], pair[1]];
            let least = AT_ONCE * (before_at - one.to);
            let most = AT_ONCE * (next.to - one.to);
            let by = way((i, &pair[0])).max(least).min(most);
            let moves = by.abs() > 1e-9 * step && self.slide(here, by, [before, after], reference);
            before_at = one.to + if moves { by } else { 0.0 };
            moved |= moves;
        }
        moved
    }
}

/// An edge as its chain runs.
fn along((a, b, span): (u32, u32, Span)) -> Along {
    let runs_back = span.from > span.to;
    let ends = if runs_back { [b, a] } else { [a, b] };
    (turned(span, runs_back), ends)
}
