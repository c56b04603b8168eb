//! Keeping the volume that a surface closes in.

use super::quadric::Quadric;
use super::reduce::{Placement, Reduction};
use super::vertex_class::VertexClass;
use glam::DVec3;

/// This many times the error is borne for the sake of the volume.
const VOLUME_FOR: f64 = 8.0;

impl Reduction {
    /// Moves a vertex that was put freely, within a surface, so that the surface closes in as much
    /// as before: quadrics alone would make what is round larger with every collapse. It moves
    /// along the normal, and no further than to a few times the error, so that edges stay sharp.
    pub(super) fn care_for_volume(
        &self,
        keep: u32,
        gone: u32,
        placement: &mut Placement,
        quadric: &Quadric,
    ) {
        let at = placement.at;
        let ends = [keep, gone].map(|v| self.linked.positions[v as usize]);
        if self.kinds[gone as usize] != VertexClass::Inside || ends.contains(&at) {
            return;
        }
        // Twice the area of the ring and six times the volume under the faces, seen from there.
        let (mut area, mut volume) = (DVec3::ZERO, 0.0);
        for (here, other) in [(keep, gone), (gone, keep)] {
            let from = self.linked.positions[here as usize] - at;
            for (_, [_, x, y]) in self.linked.around(here) {
                let [p, q] = [x, y].map(|v| self.linked.positions[v as usize] - at);
                let across = p.cross(q);
                let is_between = x == other || y == other;
                if !is_between {
                    area += across;
                }
                if !is_between || here == keep {
                    volume += from.dot(across);
                }
            }
        }
        let way = area * (volume / area.length_squared());
        let to = at + way;
        let error = quadric.at(to - self.rules.centre);
        let length = ends[0].distance_squared(ends[1]);
        if way.length_squared() <= 0.25 * length
            && self.is_before_mirror(to)
            && error <= VOLUME_FOR * placement.error
        {
            placement.at = to;
            placement.error = error;
        }
    }
}
