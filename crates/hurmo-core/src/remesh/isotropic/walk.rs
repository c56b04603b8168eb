//! Closest points by walking over a surface.
//!
//! From a triangle that is near, on to whichever neighbour at the closest point is nearer, until
//! none is. What is found is the closest point round about, on the same sheet: a walk does not
//! jump to the far side of a thin wall, as a search through space would. Long ways are cut short
//! by such a search. Cost: a few triangles a query.

use super::sheet::ReferenceSurface;
use crate::spatial::{Closest, On, closest_and_where};
use glam::DVec3;

/// After this many steps, a search through space.
const STEPS: usize = 24;

impl ReferenceSurface<'_> {
    /// The closest place to a point, walking from a triangle.
    pub fn closest(&self, to: DVec3, from: u32) -> Option<Closest> {
        let points = |t: u32| Some(self.linked.points(self.linked.triangle(t)?));
        let Some(first) = points(from) else {
            return self.carried.closest_from(to, from);
        };
        let (mut at, mut on) = closest_and_where(to, first);
        let mut distance = at.distance_squared(to);
        let mut here = from;
        for _ in 0..STEPS {
            let corners = self.linked.triangle(here)?;
            let before = here;
            let ahead = match on {
                On::Face => None,
                On::Edge(i) => Some((corners[i], Some(corners[(i + 1) % 3]))),
                On::Corner(i) => Some((corners[i], None)),
            };
            for (t, [_, x, y]) in ahead.into_iter().flat_map(|(v, _)| self.linked.around(v)) {
                let end = ahead.and_then(|(_, end)| end);
                let is_there = end.is_none_or(|end| x == end || y == end);
                if t == before || !is_there {
                    continue;
                }
                let Some(triangle) = points(t) else {
                    continue;
                };
                let (point, where_on) = closest_and_where(to, triangle);
                let square = point.distance_squared(to);
                if square < distance {
                    (at, on, distance, here) = (point, where_on, square, t);
                }
            }
            if here == before {
                return Some(Closest {
                    point: at,
                    distance_squared: distance,
                    triangle: here,
                });
            }
        }
        self.carried.closest_from(to, here)
    }
}
