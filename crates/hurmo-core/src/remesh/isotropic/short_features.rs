//! Feature edges too short to be kept: a lone sharp edge from noise, a few faces in the wrong group.

use super::feature_edges::{FeatureEdges, Why, ends, normal};
use crate::mesh::Model;
use crate::topology::{LinkedMesh, UnionFind};
use rustc_hash::FxHashMap;

/// Which lines are too short to be kept.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum ShortFeatures {
    /// What noise makes of a surface: creases that begin or end on a smooth one and are shorter,
    /// all in all or from there on, than two of the edges that are to be.
    Noise,
    /// Creases and borders of groups that are shorter than this, in model units, all in all or from
    /// a loose end on.
    Under(f64),
}

/// Creases shorter than this many edges as they are to be, with a loose end, are noise.
const NOISE: f64 = 2.0;

impl ShortFeatures {
    fn under(self) -> f64 {
        match self {
            Self::Noise => NOISE,
            Self::Under(length) => length,
        }
    }

    /// Whether a line of this kind may go.
    fn may_be(self, why: Why) -> bool {
        match self {
            Self::Noise => why == Why::Crease,
            Self::Under(_) => why != Why::Sheet,
        }
    }
}

/// The kept edges, and what of them may go.
pub(super) struct Sieve<'a, L> {
    pub short_features: ShortFeatures,
    pub edges: &'a mut FxHashMap<(u32, u32), Why>,
    /// For every vertex, the other ends of the kept edges at it.
    pub spokes: &'a mut FxHashMap<u32, Vec<u32>>,
    /// How long an edge is, in what the short features are measured by.
    pub length: L,
}

impl<L: Fn(u32, u32) -> f64> Sieve<'_, L> {
    /// Leaves out short features; how many.
    pub fn leave_out(mut self) -> usize {
        if self.short_features.under() <= 0.0 {
            return 0;
        }
        let whole = self.leave_out_whole();
        whole + self.leave_out_spurs()
    }

    /// Leaves out lines that are too short with all that they meet.
    fn leave_out_whole(&mut self) -> usize {
        let mut together: FxHashMap<u32, (f64, bool, bool)> = FxHashMap::default();
        let mut joined = UnionFind::new(self.spokes.keys().max().map_or(0, |&v| v as usize + 1));
        for &(a, b) in self.edges.keys() {
            joined.join(a, b);
        }
        let mut sorted: Vec<((u32, u32), Why)> =
            self.edges.iter().map(|(&e, &why)| (e, why)).collect();
        sorted.sort_unstable_by_key(|(edge, _)| *edge);
        for &((a, b), why) in &sorted {
            let all = together.entry(joined.find(a)).or_insert((0.0, true, false));
            all.0 += (self.length)(a, b);
            all.1 &= self.short_features.may_be(why);
            all.2 |= [a, b].iter().any(|v| self.spokes[v].len() == 1);
        }
        let any_end = self.short_features != ShortFeatures::Noise;
        let goes = |&(sum, may_go, is_loose): &(f64, bool, bool)| {
            may_go && (is_loose || any_end) && sum < self.short_features.under()
        };
        let short_features = together.values().filter(|all| goes(all)).count();
        let gone = sorted.iter().map(|&(edge, _)| edge);
        let gone = gone.filter(|&(a, _)| goes(&together[&joined.find(a)]));
        let gone: Vec<(u32, u32)> = gone.collect();
        self.take_out(&gone);
        short_features
    }

    /// Leaves out lines that are too short from a loose end to where they meet others.
    fn leave_out_spurs(&mut self) -> usize {
        let ends = self.spokes.iter().filter(|(_, others)| others.len() == 1);
        let mut loose: Vec<u32> = ends.map(|(&v, _)| v).collect();
        loose.sort_unstable();
        let mut short_features = 0;
        for first in loose {
            if let Some(spur) = self.spur(first)
                && !spur.is_empty()
            {
                short_features += 1;
                self.take_out(&spur);
            }
        }
        short_features
    }

    /// The edges from a loose end to where others are met, if they are short.
    fn spur(&self, first: u32) -> Option<Vec<(u32, u32)>> {
        let mut spur = Vec::new();
        let (mut before, mut here, mut sum) = (u32::MAX, first, 0.0);
        while let Some(others) = self.spokes.get(&here) {
            let ahead = match others[..] {
                [only] if before == u32::MAX => only,
                [x, y] if before != u32::MAX => match x == before {
                    true => y,
                    false => x,
                },
                _ => break,
            };
            sum += (self.length)(here, ahead);
            let edge = ends(here, ahead);
            if sum >= self.short_features.under() || !self.short_features.may_be(self.edges[&edge])
            {
                return None;
            }
            spur.push(edge);
            (before, here) = (here, ahead);
        }
        Some(spur)
    }

    fn take_out(&mut self, gone: &[(u32, u32)]) {
        for &(a, b) in gone {
            self.edges.remove(&(a, b));
            for (v, other) in [(a, b), (b, a)] {
                let Some(others) = self.spokes.get_mut(&v) else {
                    continue;
                };
                others.retain(|&o| o != other);
                if others.is_empty() {
                    self.spokes.remove(&v);
                }
            }
        }
    }
}

/// Gives faces that are no longer set apart by lines the group and material of the most area
/// among those with them: their triangles then come from a face of that. How many triangles.
pub(super) fn take_in_crumbs(
    linked: &LinkedMesh,
    origins: &mut [u32],
    lines: &FeatureEdges,
    model: &Model,
) -> usize {
    let tags = &model.attributes.tags.of_face;
    if tags.is_empty() {
        return 0;
    }
    let mut together = UnionFind::new(linked.places());
    let living = || (0..linked.places() as u32).filter_map(|t| Some((t, linked.triangle(t)?)));
    for (t, [a, b, c]) in living() {
        for (p, q) in [(a, b), (b, c), (c, a)] {
            if !lines.has(p, q) {
                linked.on_edge(p, q).for_each(|(other, _)| {
                    together.join(t, other);
                });
            }
        }
    }
    // By piece and tag: the area, and a face.
    let mut areas: FxHashMap<(u32, u32), (f64, u32)> = FxHashMap::default();
    for (t, _) in living() {
        let face = origins[t as usize];
        let key = (together.find(t), tags[face as usize]);
        areas.entry(key).or_insert((0.0, face)).0 += normal(linked, t).length();
    }
    let mut largest: FxHashMap<u32, (f64, u32)> = FxHashMap::default();
    let mut sorted: Vec<_> = areas.into_iter().collect();
    sorted.sort_unstable_by_key(|(key, _)| *key);
    for ((piece, _), (area, face)) in sorted {
        let best = largest.entry(piece).or_insert((area, face));
        if area > best.0 {
            *best = (area, face);
        }
    }
    let mut taken = 0;
    for (t, _) in living() {
        let face = largest[&together.find(t)].1;
        if tags[face as usize] != tags[origins[t as usize] as usize] {
            origins[t as usize] = face;
            taken += 1;
        }
    }
    taken
}
