//! How much of the guides the edges of quads run along.

use super::guides::FAR;
use crate::mesh::Mesh;
use crate::spatial::TriangleTree;
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
                if turned(&corners, along).is_some_and(|angle| angle <= FOLLOWED) {
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

/// By how many degrees a line over a quad is turned from the nearer of its two ways: from the middles of its sides to
/// those of the opposite ones.
fn turned(corners: &[DVec3], line: DVec3) -> Option<f64> {
    let &[a, b, c, d] = corners else {
        return None;
    };
    let ways = [b + c - a - d, c + d - a - b];
    let normal = ways[0].cross(ways[1]).try_normalize()?;
    let flat = line.reject_from_normalized(normal).try_normalize()?;
    let cosine = ways.map(|way| way.normalize().dot(flat).abs());
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
}
