//! Collapsing what is too short.

use super::feature_edges::{Span, VertexConstraint};
use super::sheet::{NEW, ReferenceSurface, Sheet};
use super::split::LONG;
use crate::topology::{Along, may_collapse};
use glam::DVec3;
use smallvec::SmallVec;

/// Edges shorter than this share of what they should be are collapsed.
const SHORT: f64 = 4.0 / 5.0;
/// A line may be cut short by at most this share of the edge length.
const SHORTCUT: f64 = 0.1;

impl Sheet {
    /// Collapses the shortest edges first.
    pub fn collapse_short(&mut self, reference: &ReferenceSurface<'_>) {
        const LIMIT: f64 = SHORT * SHORT;
        for (_, a, b) in self.edges_where(|stretch| stretch < LIMIT) {
            if self.stretch(a, b) < LIMIT {
                self.try_collapse(a, b, reference);
            }
        }
    }

    fn try_collapse(&mut self, a: u32, b: u32, reference: &ReferenceSurface<'_>) {
        let (keep, gone) = match self.constraint(a) >= self.constraint(b) {
            true => (a, b),
            false => (b, a),
        };
        let Some((at, line)) = self.made_one(keep, gone, reference) else {
            return;
        };
        // Doubled faces stay doubled: they are divided alike only where no edge of theirs goes.
        let sides = self.linked.on_edge(a, b);
        let thirds: SmallVec<[u32; 4]> = sides
            .map(|(_, [_, x, y])| if x == b { y } else { x })
            .collect();
        if matches!(thirds[..], [one, two] if one == two) || thirds.len() > 2 {
            return;
        }
        let both_held = self.constraint(gone) != VertexConstraint::Free;
        // Along a crease both ends are held and the edge has two sides all the same.
        let along = match both_held && thirds.len() == 1 {
            true => Along::Border,
            false => Along::Sheet,
        };
        if !may_collapse(&self.linked, &mut self.marks, keep, gone, along)
            || !self.knows_all_round(keep, gone)
            || !self.stays_short(keep, gone, at)
            || !self.sound(keep, Some(gone), at)
            || !self.sound(gone, Some(keep), at)
        {
            return;
        }
        if let Some((beyond, span)) = line {
            self.lines.take(gone, keep);
            self.lines.take(gone, beyond);
            self.lines.add(keep, beyond, span);
        }
        self.linked.collapse(keep, gone);
        if self.linked.positions[keep as usize] != at {
            self.linked.positions[keep as usize] = at;
            self.source[keep as usize] = NEW;
        }
    }

    /// Where two vertices may become one, and what the line beyond then becomes; `None` where
    /// they may not.
    fn made_one(
        &self,
        keep: u32,
        gone: u32,
        reference: &ReferenceSurface<'_>,
    ) -> Option<(DVec3, Option<(u32, Span)>)> {
        let [here, there] = [keep, gone].map(|v| self.linked.positions[v as usize]);
        match (self.constraint(keep), self.constraint(gone)) {
            (VertexConstraint::Free, _) => Some(((here + there) / 2.0, None)),
            (_, VertexConstraint::Free) => Some((here, None)),
            (_, VertexConstraint::Line) if self.is_line(keep, gone) => {
                let neighbours = self.line_neighbours(gone);
                let beyond = *neighbours.iter().find(|&&v| v != keep)?;
                let near = self.lines.get(keep, gone)?;
                let far = self.lines.get(gone, beyond)?;
                if neighbours.len() != 2 || near.chain != far.chain || self.is_line(keep, beyond) {
                    return None;
                }
                // Feature edges that go round count on: the far span's begin is the near one's end.
                let from = near.from + (far.from - near.to);
                let span = Span { from, ..far };
                let most = SHORTCUT * self.wanted_at(keep).min(self.wanted_at(gone));
                let rise = reference.chains.rise(span.chain, span.from, span.to);
                (rise <= most.min(reference.most_rise)).then_some((here, Some((beyond, span))))
            }
            _ => None,
        }
    }

    /// Whether all edges are known that could run from both to one and the same vertex: those
    /// between frozen vertices may belong to faces elsewhere.
    fn knows_all_round(&self, keep: u32, gone: u32) -> bool {
        self.constraint(keep) != VertexConstraint::Frozen
            || self.linked.around(gone).all(|(_, [_, x, y])| {
                let across = x == keep || y == keep;
                across
                    || (self.constraint(x) != VertexConstraint::Frozen
                        && self.constraint(y) != VertexConstraint::Frozen)
                    || [x, y].iter().all(|&v| {
                        self.constraint(v) != VertexConstraint::Frozen
                            || self.linked.on_edge(gone, v).any(|(_, t)| t.contains(&keep))
                    })
            })
    }

    fn stays_short(&self, keep: u32, gone: u32, at: DVec3) -> bool {
        let sizing = match self.sizing.is_empty() {
            true => self.edge,
            false => self.wanted_at(keep).min(self.wanted_at(gone)),
        };
        let limit = (LONG * sizing).powi(2);
        self.linked.around(gone).all(|(_, [_, x, y])| {
            [x, y].iter().all(|&v| {
                v == keep || self.linked.positions[v as usize].distance_squared(at) <= limit
            })
        })
    }
}
