//! What a closed surface encloses, asked of many places.
//!
//! A ray counts how often a closed surface winds round a place, for some hundredth of what the tree
//! of solid angles costs; the tree is used only where no ray is sure. On the surface itself a place is
//! half inside.

use super::rays::times_inside;
use super::{TriangleHierarchy, Winding};
use glam::DVec3;
use std::sync::OnceLock;

/// What lies so near, as a share of the largest coordinate, lies on the surface.
const ON: f64 = 1e-12;

/// A closed surface.
pub struct Enclosing<'s, 'm> {
    hierarchy: &'s TriangleHierarchy<'m>,
    by_tree: OnceLock<Winding<'s, 'm>>,
}

impl<'s, 'm> Enclosing<'s, 'm> {
    /// Of triangles that have no border.
    pub fn of(hierarchy: &'s TriangleHierarchy<'m>) -> Self {
        Self {
            hierarchy,
            by_tree: OnceLock::new(),
        }
    }

    /// How often the surface winds round a place.
    pub fn times(&self, place: DVec3) -> f64 {
        let near = ON * place.abs().max_element();
        if self.hierarchy.closest_within(place, near).is_some() {
            return 0.5;
        }
        match times_inside(self.hierarchy, place) {
            Some(times) => f64::from(times),
            None => self
                .by_tree
                .get_or_init(|| Winding::on_one_thread(self.hierarchy))
                .at(place),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;

    #[test]
    fn places_are_in_out_or_on_a_torus_as_its_radii_say() {
        let torus = shapes::torus(1.0, 0.4, 96, 48);
        let hierarchy = TriangleHierarchy::whole(&torus);
        let enclosing = Enclosing::of(&hierarchy);
        for i in 0..500 {
            let turn = f64::from(i) * 0.731;
            let across = f64::from(i) * 0.37;
            let far = 0.05 + 0.0014 * f64::from(i);
            if (far - 0.4).abs() < 0.02 {
                continue;
            }
            let ring = 1.0 + far * across.cos();
            let at = DVec3::new(ring * turn.cos(), ring * turn.sin(), far * across.sin());
            // Beyond the tube's own hole the far side of the ring may hold it.
            let off = (at.truncate().length() - 1.0).hypot(at.z);
            assert_eq!(enclosing.times(at) > 0.9, off < 0.4, "{at}");
        }
        for &at in torus.positions().iter().step_by(37) {
            assert_eq!(enclosing.times(at), 0.5);
        }
    }
}
