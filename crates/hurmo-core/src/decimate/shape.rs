//! What a collapse does to the faces round it: what makes it wrong, and what its shape costs.
//!
//! Wrong is a face that turns over, and one that loses its area. Everything else is a price: the
//! badness of all faces round the edge is summed up before and after, those that vanish counted
//! before, and only a rise costs. So a cluster of needles is a reason to collapse, and never one to
//! keep. A face that is a needle already has a normal that rounding decides: it counts as turned
//! over only where it then looks away from what surrounds it, too.

use super::quadric::Quadric;
use super::reduce::Reduction;
use crate::triangulate::quality;
use glam::DVec3;

/// A face that was well shaped may lean over by at most this (cosine) in one collapse.
const LEAN: f64 = 0.2;
/// Below this quality a face is a needle: its own normal is not to be trusted.
const NEEDLE: f64 = 0.05;
/// Faces of this quality and better are as good as any.
const FAIR: f64 = 0.3;
/// This many faces at a vertex say which way it looks.
const ENOUGH: usize = 256;
/// What one bad face costs, as a squared distance over the whole neighbourhood, in squared lengths
/// of the edge.
const PRICE: f64 = 1e-4;
/// But at most such a share of what the collapse costs anyhow: shape is not worth a surface that lies
/// much further off.
const SHARE: f64 = 0.5;
/// Where the surface is flat, and shape alone decides, it costs this.
const PRICE_IF_FLAT: f64 = 1e-7;

/// What a collapse would do.
#[derive(Clone, Copy, PartialEq, Debug)]
pub(super) enum Verdict {
    /// A face would turn over, or lose its area.
    Wrong,
    /// It may be done, at this price above its error.
    Priced(f64),
}

/// How bad a face's shape is: from 0 for a fair one to 1 for one without area.
fn badness(quality: f64) -> f64 {
    let lack = (1.0 - quality / FAIR).max(0.0);
    lack * lack
}

impl Reduction {
    /// What the collapse of an edge into a vertex at this place, which costs this by itself, would do
    /// to the faces round it.
    pub(super) fn verdict(
        &self,
        [keep, gone]: [u32; 2],
        at: DVec3,
        quadric: &Quadric,
        cost: f64,
    ) -> Verdict {
        let linked = &self.linked;
        let from_of = |v: u32| linked.positions[v as usize];
        let from = [keep, gone].map(from_of);
        let least = self.rules.least_area.powi(2);
        let mut rise = 0.0;
        // Which way what surrounds the edge looks, worked out when that is first asked.
        let mut surroundings = None;
        for (here, other, from) in [(keep, gone, from[0]), (gone, keep, from[1])] {
            if from == at && here == keep {
                // What stays where it is loses faces, and no more.
                for (_, [_, x, y]) in linked.on_edge(gone, keep) {
                    let triangle = [from_of(gone), from_of(x), from_of(y)];
                    rise -= badness(quality(triangle));
                }
                continue;
            }
            for (_, [_, x, y]) in linked.around(here) {
                let [p, q] = [x, y].map(|v| linked.positions[v as usize]);
                if x == other || y == other {
                    if here == keep {
                        rise -= badness(quality([from, p, q]));
                    }
                    continue;
                }
                if from == at {
                    continue;
                }
                let before = (p - from).cross(q - from);
                let after = (p - at).cross(q - at);
                let (was, is) = (before.length_squared(), after.length_squared());
                if is <= least && was > least {
                    return Verdict::Wrong;
                }
                let qualities = [from, at].map(|apex| quality([apex, p, q]));
                let along = before.dot(after);
                let leans = along < 0.0 || along * along < LEAN * LEAN * was * is;
                if leans && was > least {
                    let is_needle = qualities[0] < NEEDLE;
                    let context = *surroundings.get_or_insert_with(|| self.looks(keep, gone));
                    let was_folded = before.dot(context) < 0.0;
                    let is_folded = after.dot(context) <= 0.0;
                    if is_folded || !(is_needle || was_folded) {
                        return Verdict::Wrong;
                    }
                }
                rise += badness(qualities[1]) - badness(qualities[0]);
            }
        }
        let all = quadric.weight() * from[0].distance_squared(from[1]);
        let price = (PRICE * all).min((SHARE * cost).max(PRICE_IF_FLAT * all));
        Verdict::Priced(rise.max(0.0) * price)
    }

    /// The sum of the vector areas round an edge; of a crowd, those of some.
    fn looks(&self, keep: u32, gone: u32) -> DVec3 {
        let at = |here: u32, other: Option<u32>| {
            let around = self.linked.around(here).take(ENOUGH);
            let own = around.filter(move |(_, t)| other.is_none_or(|other| !t.contains(&other)));
            own.map(|(_, triangle)| {
                let [a, b, c] = self.linked.points(triangle);
                (b - a).cross(c - a)
            })
        };
        at(keep, None).chain(at(gone, Some(keep))).sum()
    }
}
