//! Which vertices a collapse sets free: what meets at them is simpler than it was.

use super::links::Links;
use super::reduce::Reduction;
use super::surroundings::Kind;
use smallvec::{SmallVec, smallvec};

/// A vertex with more triangles is looked at anew once in so many times.
const CROWD: usize = 256;

impl Reduction {
    /// The vertices round one that what meets there no longer holds, now that it has taken another
    /// in.
    pub(super) fn freed_at(&mut self, vertex: u32) -> SmallVec<[u32; 4]> {
        let mut freed = SmallVec::new();
        if self.kinds[vertex as usize] < Kind::Seam {
            return freed;
        }
        let net = &self.net;
        let mut pass_over = |v: u32| {
            // Thousands of triangles are not gone through for each that went.
            if net.around(v).take(CROWD + 1).count() <= CROWD {
                return false;
            }
            let passed_over = self.passed_over.entry(v).or_default();
            *passed_over = (*passed_over + 1) % CROWD;
            *passed_over > 0
        };
        if pass_over(vertex) {
            return freed;
        }
        let mut here: SmallVec<[u32; 16]> = smallvec![vertex];
        here.extend(net.around(vertex).flat_map(|(_, [_, x, y])| [x, y]));
        here.sort_unstable();
        here.dedup();
        for v in here {
            let held = self.kinds[v as usize];
            if !matches!(held, Kind::Seam | Kind::Meeting) {
                continue;
            }
            if v != vertex && pass_over(v) {
                continue;
            }
            let mut now = Links::at(net, v).kind();
            let wedges = self.wedges.as_ref();
            if now < Kind::Seam && wedges.is_some_and(|wedges| wedges.part_at(net, v)) {
                now = Kind::Kept;
            }
            if now < held {
                self.kinds[v as usize] = now;
                freed.push(v);
            }
        }
        freed
    }
}
