//! Which vertices a collapse sets free: what meets at them is simpler than it was.

use super::links::Links;
use super::reduce::Reduction;
use super::vertex_class::VertexClass;
use smallvec::{SmallVec, smallvec};

/// A vertex at which a crowd of triangles meets is looked at once in this many times.
const SELDOM: usize = 256;

impl Reduction {
    /// The vertices round one that what meets there no longer holds, now that it has taken another
    /// in.
    pub(super) fn freed_at(&mut self, vertex: u32) -> SmallVec<[u32; 4]> {
        let mut freed = SmallVec::new();
        if self.kinds[vertex as usize] < VertexClass::Seam {
            return freed;
        }
        if self.passes_over(vertex) {
            return freed;
        }
        let mut here: SmallVec<[u32; 16]> = smallvec![vertex];
        here.extend(self.linked.around(vertex).flat_map(|(_, [_, x, y])| [x, y]));
        here.sort_unstable();
        here.dedup();
        for v in here {
            let held = self.kinds[v as usize];
            if !matches!(held, VertexClass::Seam | VertexClass::Meeting) {
                continue;
            }
            if v != vertex && self.passes_over(v) {
                continue;
            }
            let linked = &self.linked;
            let mut now = Links::at(linked, v).kind();
            let wedges = self.wedges.as_ref();
            if now < VertexClass::Seam && wedges.is_some_and(|wedges| wedges.part_at(linked, v)) {
                now = VertexClass::Kept;
            }
            if now < held {
                self.kinds[v as usize] = now;
                freed.push(v);
            }
        }
        freed
    }

    /// Whether a vertex is not looked at this time: thousands of triangles are not gone through for
    /// each that went.
    pub(super) fn passes_over(&mut self, vertex: u32) -> bool {
        if !self.linked.is_crowded(vertex) {
            return false;
        }
        let passed_over = self.passed_over.entry(vertex).or_default();
        *passed_over = (*passed_over + 1) % SELDOM;
        *passed_over > 0
    }
}
