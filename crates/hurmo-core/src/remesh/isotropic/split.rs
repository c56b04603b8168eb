//! Splitting what is too long.

use super::feature_edges::{Span, VertexConstraint};
use super::sheet::{NEW, ReferenceSurface, Sheet, StretchedEdge};
use crate::spatial::Closest;
use std::collections::BinaryHeap;

/// Edges longer than this share of what they should be are split.
pub(super) const LONG: f64 = 4.0 / 3.0;

/// The same of the square.
pub(super) const LIMIT: f64 = LONG * LONG;

/// A middle nearer to the model than this share of its edge is on the sheet that was found.
const CLOSE: f64 = 0.05;

impl Sheet {
    /// Splits the longest edge first (Rivara 1984): in any other order, faces get thinner and
    /// thinner.
    pub fn split_long(&mut self, reference: &ReferenceSurface<'_>) {
        let long = self.edges_where(|stretch| stretch > LIMIT);
        let mut todo: BinaryHeap<StretchedEdge> = long.into();
        while let Some((_, a, b)) = todo.pop() {
            let sides: Vec<(u32, [u32; 3])> = self.linked.on_edge(a, b).collect();
            if sides.is_empty() || self.is_held_up(a, b, &sides) {
                continue;
            }
            let middle = self.middle_of(a, b, reference);
            let mut made = vec![(a, middle), (b, middle)];
            for (t, [_, x, y]) in sides {
                // Seen from a: either a-b-y or a-x-b.
                let (near, far) = match x == b {
                    true => ([a, middle, y], [middle, b, y]),
                    false => ([a, x, middle], [middle, x, b]),
                };
                self.linked.replace(t, near);
                let added = self.linked.add(far);
                debug_assert_eq!(added as usize, self.origins.len());
                self.origins.push(self.origins[t as usize]);
                let third = if x == b { y } else { x };
                // What the edge held up may go on.
                made.extend([(middle, third), (a, third), (b, third)]);
            }
            self.bring_onto_line(a, middle, reference);
            todo.extend(made.into_iter().filter_map(|(a, b)| {
                let stretch = self.stretch(a, b);
                (stretch > LIMIT && !self.is_frozen(a, b))
                    .then(|| (stretch.to_bits(), a.min(b), a.max(b)))
            }));
        }
    }

    /// Whether a face has a longer edge that stays, because it is frozen or held up itself:
    /// cutting past that would give thinner and thinner faces, without end.
    fn is_held_up(&self, a: u32, b: u32, sides: &[(u32, [u32; 3])]) -> bool {
        let length = |p: u32, q: u32| {
            self.linked.positions[p as usize].distance_squared(self.linked.positions[q as usize])
        };
        let own = length(a, b);
        sides.iter().any(|&(_, [_, x, y])| {
            let third = if x == b { y } else { x };
            [a, b].iter().any(|&end| {
                length(end, third) > own
                    && (self.stretch(end, third) > LIMIT || self.is_frozen(end, third))
            })
        })
    }

    /// Adds a vertex in the middle of an edge, on the line if the edge is on one.
    pub fn middle_of(&mut self, a: u32, b: u32, reference: &ReferenceSurface<'_>) -> u32 {
        let [p, q] = [a, b].map(|v| self.linked.positions[v as usize]);
        self.near.push(self.near_middle(a, b, reference));
        let middle = self.linked.add_vertex((p + q) / 2.0);
        self.marks.grow(self.linked.positions.len());
        self.source.push(NEW);
        if !self.sizing.is_empty() {
            let mean = (self.sizing[a as usize] + self.sizing[b as usize]) / 2.0;
            self.sizing.push(mean);
        }
        let span = match self.is_line(a, b) {
            true => self.lines.take(a, b),
            false => None,
        };
        self.constraints.push(match span {
            Some(_) => VertexConstraint::Line,
            None => VertexConstraint::Free,
        });
        if let Some(Span { chain, from, to }) = span {
            let half = (from + to) / 2.0;
            let spans = [(from, half), (half, to)].map(|(from, to)| Span { chain, from, to });
            self.lines.add(a, middle, spans[0]);
            self.lines.add(middle, b, spans[1]);
        }
        middle
    }

    /// A triangle of the model near the middle of an edge. Where two sheets begin at an end, the
    /// triangle near that end may be of the other one; a walk from it stays on that sheet.
    fn near_middle(&self, a: u32, b: u32, reference: &ReferenceSurface<'_>) -> u32 {
        let [p, q] = [a, b].map(|v| self.linked.positions[v as usize]);
        let middle = (p + q) / 2.0;
        let close = (CLOSE * p.distance(q)).powi(2);
        let [one, other] = [a, b].map(|v| self.near[v as usize]);
        let mut best = reference.closest(middle, one);
        for from in [Some(other), None] {
            if best.is_some_and(|best| best.distance_squared <= close) {
                break;
            }
            let found = match from {
                Some(from) => reference.closest(middle, from),
                None => reference.carried.closest_from(middle, one),
            };
            let is_closer = |found: &Closest| {
                best.is_none_or(|best| found.distance_squared < best.distance_squared)
            };
            best = found.filter(is_closer).or(best);
        }
        best.map_or(one, |best| best.triangle)
    }

    /// The middle of a straight edge of a bent line belongs beside it.
    pub fn bring_onto_line(&mut self, a: u32, middle: u32, reference: &ReferenceSurface<'_>) {
        if self.constraint(middle) != VertexConstraint::Line {
            return;
        }
        if let Some(span) = self.lines.get(a, middle) {
            let at = reference.chains.at(span.chain, span.to);
            if self.sound(middle, None, at) {
                self.linked.positions[middle as usize] = at;
            }
        }
    }
}
