//! The winding number on that side of a face that has less of it: by rays where every patch is
//! closed, by rays and caps where few edges are open, else by tree.

use super::closed_patches::ClosedPatches;
use crate::audit::MeshAnalysis;
use crate::spatial::{Capped, TriangleHierarchy, Winding, times_inside};

/// Tells winding numbers, in the cheapest way.
pub(super) struct Lower<'s, 'm> {
    hierarchy: &'s TriangleHierarchy<'m>,
    closed: Option<ClosedPatches<'s>>,
    capped: Capped<'s, 'm>,
}

impl<'s, 'm> Lower<'s, 'm> {
    /// `caps` close what is open.
    pub fn of(
        analysis: &'s MeshAnalysis<'m>,
        all_closed: bool,
        caps: Option<&'s TriangleHierarchy<'m>>,
    ) -> Self {
        Self {
            hierarchy: analysis.hierarchy(),
            closed: all_closed.then(|| ClosedPatches::of(analysis)),
            capped: match all_closed {
                true => Capped::without_tree(analysis.hierarchy()),
                false => Capped::new(analysis.hierarchy(), caps),
            },
        }
    }

    /// The winding numbers by tree.
    pub fn winding(&self) -> &Winding<'s, 'm> {
        self.capped.by_tree()
    }

    /// What closes the surface where it is open.
    pub fn capped(&self) -> &Capped<'s, 'm> {
        &self.capped
    }

    /// What a query costs, if it isn't answered by rays.
    pub fn mean_cost(&self) -> f64 {
        match self.closed {
            Some(_) => 0.0,
            None => self.capped.mean_cost(),
        }
    }

    /// The lower one of a triangle's two sides.
    pub fn at(&self, triangle: usize) -> f64 {
        let by_rays = self.closed.as_ref().and_then(|closed| {
            let both = closed.both_sides(self.hierarchy, triangle);
            both.map(|[front, back]| front.min(back))
                .or_else(|| self.by_two_rays(triangle))
        });
        by_rays.map(f64::from).unwrap_or_else(|| {
            let sides = self.capped.sides_of(triangle);
            sides.front.min(sides.back)
        })
    }

    fn by_two_rays(&self, triangle: usize) -> Option<i32> {
        let (middle, offset) = self.hierarchy.middle_and_offset(triangle);
        let front = times_inside(self.hierarchy, middle + offset)?;
        // Where the front is outside, the lower side is no higher.
        let back = match front {
            ..=0 => front,
            _ => times_inside(self.hierarchy, middle - offset)?,
        };
        Some(front.min(back))
    }
}
