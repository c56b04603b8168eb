//! Winding numbers of a surface that caps close.
//!
//! With the caps the surface winds round a point a whole number of times, which one ray finds;
//! what the caps contribute of that is their own winding number, and they are few. (That rays and
//! border together give the generalized winding number follows from its definition by Jacobson,
//! Kavan & Sorkine-Hornung 2013.)
//!
//! Cost: a ray or four, each about log n and the faces in the way, and a query of the caps.

use super::rays::times_inside_all;
use super::{Sides, SidesTally, TriangleHierarchy, Winding, overlap};
use glam::DVec3;
use std::sync::OnceLock;

/// A surface, and what closes it where that is known.
pub struct Capped<'s, 'm> {
    hierarchy: &'s TriangleHierarchy<'m>,
    caps: Option<(&'s TriangleHierarchy<'m>, Winding<'s, 'm>)>,
    by_tree: OnceLock<Winding<'s, 'm>>,
}

impl<'s, 'm> Capped<'s, 'm> {
    /// Surface and caps together must have no border: each edge is run as often one way as the
    /// other. Without caps, all is computed by the tree.
    pub fn new(
        hierarchy: &'s TriangleHierarchy<'m>,
        caps: Option<&'s TriangleHierarchy<'m>>,
    ) -> Self {
        let capped = Self {
            hierarchy,
            caps: caps.map(|caps| (caps, Winding::of(caps))),
            by_tree: OnceLock::new(),
        };
        if caps.is_none() {
            capped.make_tree();
        }
        capped
    }

    /// A surface of which the tree is asked hardly ever.
    pub fn without_tree(hierarchy: &'s TriangleHierarchy<'m>) -> Self {
        Self {
            hierarchy,
            caps: None,
            by_tree: OnceLock::new(),
        }
    }

    /// Works the tree out on all threads, for many places that will be asked.
    pub fn make_tree(&self) {
        if self.by_tree.get().is_none() {
            // Two threads that come at once both do it, and one of the trees is kept.
            let _ = self.by_tree.set(Winding::of(self.hierarchy));
        }
    }

    /// The winding numbers of the surface by tree.
    pub fn by_tree(&self) -> &Winding<'s, 'm> {
        (self.by_tree).get_or_init(|| Winding::on_one_thread(self.hierarchy))
    }

    /// The surface.
    pub fn hierarchy(&self) -> &'s TriangleHierarchy<'m> {
        self.hierarchy
    }

    /// What closes it; none of it where it is closed, `None` where that is not known.
    pub fn caps(&self) -> Option<&'s TriangleHierarchy<'m>> {
        self.caps.as_ref().map(|&(caps, _)| caps)
    }

    /// How often the caps alone wind round a place; not at all where there are none.
    pub fn caps_wind(&self, place: DVec3) -> f64 {
        let caps = self.caps.as_ref();
        caps.map_or(0.0, |(_, alone)| alone.at(place))
    }

    /// How often surface and caps wind round a place: a whole number, if there are caps.
    pub fn whole(&self, place: DVec3) -> i32 {
        let caps = self.caps();
        let by_rays = caps.and_then(|caps| times_inside_all(&[self.hierarchy, caps], place));
        let by_tree = || (self.by_tree().at(place) + self.caps_wind(place)).round() as i32;
        by_rays.unwrap_or_else(by_tree)
    }

    /// How often the surface alone winds round a place.
    pub fn own(&self, place: DVec3) -> f64 {
        match &self.caps {
            Some((_, alone)) => f64::from(self.whole(place)) - alone.at(place),
            None => self.by_tree().at(place),
        }
    }

    /// The same where it is known to lie within a half of `guess`: only the caps are evaluated.
    pub fn own_about(&self, place: DVec3, guess: f64) -> f64 {
        match &self.caps {
            Some((_, alone)) => {
                let less = -alone.at(place);
                less + (guess - less).round()
            }
            None => self.by_tree().at(place),
        }
    }

    /// About how many triangles a query has to look at one by one.
    pub fn mean_cost(&self) -> f64 {
        match &self.caps {
            Some((_, alone)) => alone.mean_cost(),
            None => self.by_tree().mean_cost(),
        }
    }

    /// Whether caps are known, and wind round no point of a ball by more than this, either way.
    pub fn caps_wind_less(&self, middle: DVec3, radius: f64, than: f64) -> bool {
        let caps = self.caps.as_ref();
        caps.is_some_and(|(_, alone)| alone.at_most_in(middle, radius, than) <= than)
    }

    /// A bound on how far the caps' winding number within a ball is from that at its middle; not looked at
    /// closer once it is above `enough`.
    pub fn caps_vary(&self, middle: DVec3, radius: f64, enough: f64) -> f64 {
        let caps = self.caps.as_ref();
        caps.map_or(0.0, |(_, alone)| alone.varies_in(middle, radius, enough))
    }

    /// The winding numbers of the surface alone just off both sides of a triangle's middle.
    pub fn sides_of(&self, triangle: usize) -> Sides {
        self.by_rays(triangle)
            .unwrap_or_else(|| self.by_tree().sides_of(triangle))
    }

    /// The same, if there are caps and rays decide it.
    fn by_rays(&self, triangle: usize) -> Option<Sides> {
        let (caps, alone) = self.caps.as_ref()?;
        let (middle, offset) = self.hierarchy.middle_and_offset(triangle);
        let points = [middle + offset, middle - offset];
        let times = self.by_one_ray(triangle, caps).or_else(|| {
            let both = points.map(|point| times_inside_all(&[self.hierarchy, caps], point));
            Some([both[0]?, both[1]?])
        })?;
        let alone = alone.both_sides(middle, offset);
        Some(Sides {
            front: f64::from(times[0]) - alone.front,
            back: f64::from(times[1]) - alone.back,
        })
    }

    fn by_one_ray(&self, triangle: usize, caps: &TriangleHierarchy<'_>) -> Option<[i32; 2]> {
        let mut tally = SidesTally::new(self.hierarchy, triangle);
        let ray = tally.ray().bounds();
        let enter = |bounds| overlap(bounds, ray);
        let hierarchy = self.hierarchy;
        hierarchy
            .tree()
            .visit(enter, |other| tally.add(hierarchy, other));
        caps.tree()
            .visit(enter, |cap| tally.add_other(caps.corners(cap)));
        tally.result()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{Mesh, VertexId};
    use crate::shapes;

    /// Against the sum of all solid angles.
    #[test]
    fn what_caps_close_winds_as_the_sum_of_solid_angles_says() {
        let torus = shapes::torus(1.0, 0.4, 40, 24);
        // Every seventh face is gone, and closes what is left.
        let (mut open, mut caps) = (torus.clone(), torus.clone());
        for (mesh, taken) in [(&mut open, false), (&mut caps, true)] {
            let mut cut = Mesh::from_parts(torus.positions().to_vec(), vec![], vec![0]).unwrap();
            for (face, corners) in torus.faces() {
                if (face.index() % 7 == 0) == taken {
                    cut.push_face(corners.iter().copied());
                }
            }
            *mesh = cut;
        }
        // A wall in the middle, too, with what closes it lying on it.
        for (mesh, corners) in [(&mut open, [0u32, 300, 600]), (&mut caps, [600, 300, 0])] {
            mesh.push_face(corners.map(VertexId));
        }
        let (hierarchy, caps) = (
            TriangleHierarchy::whole(&open),
            TriangleHierarchy::whole(&caps),
        );
        let capped = Capped::new(&hierarchy, Some(&caps));
        let mut asked = 0;
        for triangle in (0..hierarchy.len()).step_by(5) {
            let Some(sides) = capped.by_rays(triangle) else {
                continue;
            };
            asked += 1;
            let (middle, offset) = hierarchy.middle_and_offset(triangle);
            for (found, point) in [
                (sides.front, middle + offset),
                (sides.back, middle - offset),
            ] {
                let all = (0..hierarchy.len())
                    .map(|t| crate::spatial::solid_angle(hierarchy.corners(t), point));
                let exact = all.sum::<f64>() / (4.0 * std::f64::consts::PI);
                assert!((found - exact).abs() < 0.03, "{found} for {exact}");
            }
        }
        assert!(asked * 5 > hierarchy.len() * 9 / 10);
    }
}
