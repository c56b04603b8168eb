//! Collapses beside a vertex at which a crowd of triangles meets: the hub of a fan, the spine of a
//! book. None of those is gone through for each neighbour that goes, so that the whole takes
//! near-linear time: the crowd's vertex stays, and where it is.

use super::quadric::Quadric;
use super::reduce::{Placement, Reduction};

impl Reduction {
    /// Which end stays, which goes, and where to, where one of them is crowded; `None` where that is
    /// not tried this time.
    pub(super) fn beside_crowd(
        &mut self,
        keep: u32,
        gone: u32,
        placement: Placement,
        quadric: &Quadric,
    ) -> Option<(u32, u32, Placement)> {
        let [stays, goes] = [keep, gone].map(|v| self.linked.is_crowded(v));
        if !stays && !goes {
            return Some((keep, gone, placement));
        }
        let are_alike = self.kinds[keep as usize] == self.kinds[gone as usize];
        let (keep, gone) = match (stays, goes) {
            (false, true) if are_alike && self.rules.mirror.is_none() => (gone, keep),
            (false, true) if self.passes_over(gone) => return None,
            (false, true) => return Some((keep, gone, placement)),
            _ => (keep, gone),
        };
        let here = self.linked.positions[keep as usize];
        let placement = Placement {
            at: here,
            share: 0.0,
            error: quadric.at(here - self.rules.centre),
        };
        Some((keep, gone, placement))
    }
}
