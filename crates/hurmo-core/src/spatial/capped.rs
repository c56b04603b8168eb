//! Winding numbers of a surface that caps close.
//!
//! With the caps the surface winds round a point a whole number of times, which one ray tells;
//! what the caps contribute of that is their own winding number, and they are few. (That rays and
//! border together give the generalized winding number follows from its definition by Jacobson,
//! Kavan & Sorkine-Hornung 2013.)
//!
//! Cost: a ray or four, each about log n and the faces in the way, and a query of the caps.

use super::rays::times_inside_all;
use super::{Sides, SidesTally, Soup, Winding, overlap};

/// A surface and what closes it.
pub struct Capped<'s, 'm> {
    soup: &'s Soup<'m>,
    caps: &'s Soup<'m>,
    caps_alone: Winding<'s, 'm>,
}

impl<'s, 'm> Capped<'s, 'm> {
    /// The two together must have no border: each edge is run as often one way as the other.
    pub fn new(soup: &'s Soup<'m>, caps: &'s Soup<'m>) -> Self {
        Self {
            soup,
            caps,
            caps_alone: Winding::of(caps),
        }
    }

    /// About how many triangles a query has to look at one by one.
    pub fn mean_cost(&self) -> f64 {
        self.caps_alone.mean_cost()
    }

    /// The winding numbers of the surface alone just off both sides of a triangle's middle, if
    /// rays can tell.
    pub fn sides_of(&self, triangle: usize) -> Option<Sides> {
        let (middle, offset) = self.soup.middle_and_offset(triangle);
        let points = [middle + offset, middle - offset];
        let times = self.by_one_ray(triangle).or_else(|| {
            let both = points.map(|point| times_inside_all(&[self.soup, self.caps], point));
            Some([both[0]?, both[1]?])
        })?;
        let alone = points.map(|point| self.caps_alone.at(point));
        Some(Sides {
            front: f64::from(times[0]) - alone[0],
            back: f64::from(times[1]) - alone[1],
        })
    }

    fn by_one_ray(&self, triangle: usize) -> Option<[i32; 2]> {
        let mut tally = SidesTally::new(self.soup, triangle);
        let ray = tally.ray().bounds();
        let enter = |bounds| overlap(bounds, ray);
        let (soup, caps) = (self.soup, self.caps);
        soup.tree().visit(enter, |other| tally.add(soup, other));
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
        let (soup, caps) = (Soup::whole(&open), Soup::whole(&caps));
        let capped = Capped::new(&soup, &caps);
        let mut asked = 0;
        for triangle in (0..soup.len()).step_by(5) {
            let Some(sides) = capped.sides_of(triangle) else {
                continue;
            };
            asked += 1;
            let (middle, offset) = soup.middle_and_offset(triangle);
            for (told, point) in [
                (sides.front, middle + offset),
                (sides.back, middle - offset),
            ] {
                let all =
                    (0..soup.len()).map(|t| crate::spatial::solid_angle(soup.corners(t), point));
                let exact = all.sum::<f64>() / (4.0 * std::f64::consts::PI);
                assert!((told - exact).abs() < 0.03, "{told} for {exact}");
            }
        }
        assert!(asked * 5 > soup.len() * 9 / 10);
    }
}
