//! How much of the guides the edges of quads run along.

use super::guides::FAR;
use crate::mesh::Mesh;
use crate::spatial::{TriangleTree, to_segment};
use crate::triangulate::all_triangles;
use glam::DVec3;

/// Edges follow a guide if they turn from it by no more than this, in degrees.
pub const FOLLOWED: f64 = 5.0;
/// How far apart places on guides are looked at, in sides of quads.
const STEP: f64 = 0.25;

/// Lengths of guides, in model units.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct GuidesFollowed {
    /// All of them.
    pub length: f64,
    /// Of these, what lies near the surface: quads can't run along the rest.
    pub near: f64,
    /// Of this, along which edges run within [`FOLLOWED`].
    pub followed: f64,
}

impl GuidesFollowed {
    /// Measures along pieces of lines how quads run, whose sides are about `edge` long.
    pub fn of(mesh: &Mesh, guides: &[[DVec3; 2]], edge: f64) -> Self {
        let (triangles, faces) = all_triangles(mesh);
        let corners = |t: usize| triangles[t].map(|v| mesh.position(v));
        let tree = TriangleTree::new(triangles.len(), corners);
        let mut found = Self::default();
        for &[from, to] in guides {
            let count = (from.distance(to) / (STEP * edge)).ceil().max(1.0);
            let (along, piece) = (to - from, from.distance(to) / count);
            for i in 0..count as usize {
                let at = from + along * ((i as f64 + 0.5) / count);
                found.length += piece;
                let Some(closest) = tree.closest_within(at, FAR * edge) else {
                    continue;
                };
                found.near += piece;
                let face = mesh.face(faces[closest.triangle as usize]);
                let corners: Vec<DVec3> = face.iter().map(|&v| mesh.position(v)).collect();
                if turned(&corners, closest.point, along).is_some_and(|angle| angle <= FOLLOWED) {
                    found.followed += piece;
                }
            }
        }
        found
    }

    /// The share of what lies near the surface that is followed; nothing where none does.
    pub fn share(&self) -> Option<f64> {
        (self.near > 0.0).then(|| self.followed / self.near)
    }
}

/// By how many degrees a line is turned from the nearer of the two ways of a quad, where the line is: these go over from
/// one side to the opposite one.
fn turned(corners: &[DVec3], at: DVec3, line: DVec3) -> Option<f64> {
    let &[a, b, c, d] = corners else {
        return None;
    };
    let way = |[one, other]: [[DVec3; 2]; 2]| {
        let [near, far] = [one, other].map(|side| to_segment(at, side).sqrt());
        let share = if near + far > 0.0 {
            near / (near + far)
        } else {
            0.5
        };
        (one[1] - one[0]).lerp(other[1] - other[0], share)
    };
    let ways = [way([[a, b], [d, c]]), way([[b, c], [a, d]])];
    let normal = (c - a).cross(d - b).try_normalize()?;
    let flat = line.reject_from_normalized(normal).try_normalize()?;
    let cosine = ways.map(|way| way.normalize_or_zero().dot(flat).abs());
    Some(cosine[0].max(cosine[1]).min(1.0).acos().to_degrees())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;

    /// On a sheet of squares each line is turned from the sides by an angle that is known.
    #[test]
    fn what_runs_along_sides_is_followed_and_the_rest_is_not() {
        let sheet = shapes::grid(20, 20, 2.0, 2.0);
        let at = |x: f64, y: f64, z: f64| DVec3::new(x, y, z);
        let of = |guides: &[[DVec3; 2]]| GuidesFollowed::of(&sheet, guides, 0.1);
        let along = [at(0.1, 0.33, 0.01), at(1.1, 0.33, 0.01)];
        let askew = [at(0.5, 0.5, 0.0), at(0.9, 0.9, 0.0)];
        let far = [at(0.0, 0.0, 1.0), at(1.0, 0.0, 1.0)];
        let near = |value: f64, wanted: f64| (value - wanted).abs() < 1e-9;
        let found = of(&[along, askew, far]);
        assert!(near(found.length, 2.0 + 0.4 * 2f64.sqrt()), "{found:?}");
        assert!(near(found.near, 1.0 + 0.4 * 2f64.sqrt()), "{found:?}");
        assert!(near(found.followed, 1.0), "{found:?}");
        let lean = |degrees: f64| {
            let way = at(0.0, degrees.to_radians().cos(), degrees.to_radians().sin());
            [at(1.0, 0.2, 0.0), at(1.0, 0.2, 0.0) + at(way.z, way.y, 0.0)]
        };
        assert_eq!(of(&[lean(4.9)]).share().map(|s| near(s, 1.0)), Some(true));
        assert_eq!(of(&[lean(5.1)]).share(), Some(0.0));
        assert_eq!(of(&[far]).share(), None);
        assert_eq!(of(&[]).share(), None);
    }

    /// The sides of a quad that narrows are turned from its middle: what runs along a side is followed there.
    #[test]
    fn on_a_side_its_own_direction_counts() {
        let corners = [[0.0, 0.0], [1.0, 0.0], [1.0, 0.6], [0.0, 1.0]];
        let corners = corners.map(|[x, y]| DVec3::new(x, y, 0.0));
        let slope = corners[2] - corners[3];
        let own = |share: f64, line: DVec3| {
            let at = DVec3::new(0.5, 0.8 * share, 0.0);
            turned(&corners, at, line).unwrap()
        };
        assert!(own(1.0, slope) < 1e-6 && own(0.0, DVec3::X) < 1e-6);
        assert!((own(0.0, slope) - 0.4f64.atan().to_degrees()).abs() < 1e-6);
        assert!(own(0.5, slope) > 5.0 && own(0.5, DVec3::X) > 5.0);
    }
}
