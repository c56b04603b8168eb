//! Winding numbers of patches, from those of their neighbours. Where two triangles cross, a step from one
//! piece of a triangle to its other piece goes through the other triangle, and changes winding
//! numbers as that does.

use super::fragments::All;
use super::patches::{Patches, Side};
use super::windings::Sides;
use crate::parallel::listed;
use crate::topology::UnionFind;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

/// Four fragments at an edge in which two triangles cross: two pieces of the one, two of the other.
#[derive(Clone, Copy, Debug)]
pub(super) struct Crossing {
    /// The pieces of the one: that before the other triangle, and that behind it.
    pub one: [u32; 2],
    /// The pieces of the other, likewise.
    pub other: [u32; 2],
}

impl Crossing {
    /// The crossing at an edge, of all its fragments and whether each runs from the lower point to the higher.
    /// `None` unless just two triangles cross there, in a way that double precision resolves.
    pub fn of(all: &All<'_, '_>, edge: &[Side]) -> Option<Self> {
        let &[a, b, c, d] = edge else { return None };
        // By triangle, that which runs along the edge first. A fragment of several has none.
        let triangle = |fragment: u32| match all.kept(fragment)[..] {
            [(triangle, false)] => Some(triangle),
            _ => None,
        };
        let mut fragments = [a, b, c, d]
            .map(|Side { item, .. }| (item.fragment, item.runs_up, triangle(item.fragment)));
        fragments.sort_unstable_by_key(|&(_, along, of)| (of, !along));
        let [
            (p, _, one),
            (p_back, _, also_one),
            (q, _, other),
            (q_back, _, also_other),
        ] = fragments;
        let ways = fragments.map(|(_, along, _)| along);
        if one != also_one
            || other != also_other
            || one == other
            || ways != [true, false, true, false]
        {
            return None;
        }
        // A fragment lies to the left of the edge as it runs it: normal × edge.
        Some(match all.runs_along([one?, other?], a.ends)? {
            true => Self {
                one: [p_back, p],
                other: [q, q_back],
            },
            false => Self {
                one: [p, p_back],
                other: [q_back, q],
            },
        })
    }
}

/// The winding numbers before the front of `to` are those before the front of `from`, plus or minus the
/// steps of a fragment.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
struct Link {
    from: u32,
    to: u32,
    /// The fragment, and whether its steps are added.
    steps: Option<(u32, bool)>,
}

/// Patches linked so that the winding numbers of one give those of all.
pub(super) struct Linked {
    /// By patch it goes out from.
    links: Vec<Link>,
    begins: Vec<usize>,
    /// The patches that hang together, the one with most fragments first.
    pub sets: Vec<Vec<u32>>,
}

impl Linked {
    pub fn of(patches: &Patches) -> Self {
        let of = |fragment: u32| patches.patch(fragment);
        let mut links: Vec<Link> = listed(patches.crossings.len(), 256, |i, links| {
            let Crossing { one, other } = patches.crossings[i];
            for (from, to, steps) in [
                (one[0], other[0], None),
                (one[0], one[1], Some(other[0])),
                (other[0], other[1], Some(one[0])),
            ] {
                let (from, to) = (of(from), of(to));
                let link = |from, to, adds| Link {
                    from,
                    to,
                    steps: steps.map(|fragment| (fragment, adds)),
                };
                links.extend([link(from, to, true), link(to, from, false)]);
            }
        });
        links.par_sort_unstable();
        links.dedup_by_key(|link| (link.from, link.to));
        let begins = (0..=patches.len() as u32)
            .map(|patch| links.partition_point(|link| link.from < patch))
            .collect();
        let mut together = UnionFind::new(patches.len());
        for link in &links {
            together.join(link.from, link.to);
        }
        let mut order: Vec<(u32, usize, u32)> = (0..patches.len() as u32)
            .map(|patch| {
                let fragments = patches.of(patch as usize).len();
                (together.find(patch), usize::MAX - fragments, patch)
            })
            .collect();
        order.sort_unstable();
        let sets = order.chunk_by(|a, b| a.0 == b.0);
        let sets = sets.map(|set| set.iter().map(|&(.., patch)| patch).collect());
        Self {
            begins,
            sets: sets.collect(),
            links,
        }
    }

    /// The sides of all patches that hang together with one whose sides are known.
    pub fn spread(
        &self,
        all: &All<'_, '_>,
        patches: &Patches,
        from: u32,
        sides: Sides,
    ) -> Vec<(u32, Sides)> {
        let mut known: FxHashMap<u32, usize> = FxHashMap::default();
        known.insert(from, 0);
        let mut reached = vec![(from, sides)];
        let mut next = 0;
        while next < reached.len() {
            let from = reached[next].0 as usize;
            for link in &self.links[self.begins[from]..self.begins[from + 1]] {
                let front = || {
                    let front = &reached[next].1.front;
                    match link.steps {
                        None => front.clone(),
                        Some((fragment, adds)) => {
                            front.plus(&all.steps(fragment), if adds { 1 } else { -1 })
                        }
                    }
                };
                if let Some(&at) = known.get(&link.to) {
                    debug_assert_eq!(
                        reached[at].1.front,
                        front(),
                        "windings agree round cut lines"
                    );
                    continue;
                }
                let front = front();
                let steps = all.steps(patches.of(link.to as usize)[0]);
                let back = front.plus(&steps, 1);
                known.insert(link.to, reached.len());
                reached.push((link.to, Sides { front, back }));
            }
            next += 1;
        }
        reached
    }
}
