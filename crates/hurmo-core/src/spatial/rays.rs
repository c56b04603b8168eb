//! Where a ray goes through a surface.

use super::{Bounds32, TriangleHierarchy};
use glam::DVec3;

/// One passage of a ray through a face.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Crossing {
    /// How far along the ray, in lengths of its direction.
    pub at: f64,
    /// Whether the ray comes out of the face's front, that is, leaves a solid.
    pub outward: bool,
    /// The triangle, by its place in the hierarchy.
    pub triangle: usize,
}

/// All passages of a ray up to a distance, nearest first; `found` is cleared first. Two at one
/// place and in one direction, as on an edge between two faces, are one.
///
/// Triangles are met as by Möller & Trumbore 1997. Cost: about log n.
pub fn crossings(
    hierarchy: &TriangleHierarchy<'_>,
    from: DVec3,
    direction: DVec3,
    limit: f64,
    found: &mut Vec<Crossing>,
) {
    found.clear();
    let inverse = inverse_of(direction);
    hierarchy.tree().visit(
        |bounds| enters(bounds, from, inverse, limit),
        |triangle| {
            if let Some((at, outward)) = through(hierarchy.corners(triangle), from, direction)
                && (0.0..=limit).contains(&at)
            {
                found.push(Crossing {
                    at,
                    outward,
                    triangle,
                });
            }
        },
    );
    found.sort_by(|a, b| a.at.total_cmp(&b.at).then(a.triangle.cmp(&b.triangle)));
    let near = limit.min(f64::MAX) * 1e-9;
    found.dedup_by(|b, a| b.outward == a.outward && b.at - a.at <= near);
}

/// What a direction's coordinates are divided by, as their inverse; finite, so that no product with
/// it is without a number.
fn inverse_of(direction: DVec3) -> DVec3 {
    direction
        .recip()
        .clamp(DVec3::splat(-1e300), DVec3::splat(1e300))
}

/// Whether a ray enters a box before the limit (Kay & Kajiya 1986), given by the inverse of its
/// direction. In the plane of a box's side the answer is either: boxes are rounded outward, and
/// nothing in them lies there.
#[inline]
fn enters([low, high]: Bounds32, from: DVec3, inverse: DVec3, limit: f64) -> bool {
    let a = (low.as_dvec3() - from) * inverse;
    let b = (high.as_dvec3() - from) * inverse;
    let near = a.min(b).max_element();
    let far = a.max(b).min_element();
    near.max(0.0) <= far.min(limit)
}

fn through([a, b, c]: [DVec3; 3], from: DVec3, direction: DVec3) -> Option<(f64, bool)> {
    let (u, v) = (b - a, c - a);
    let across = direction.cross(v);
    let determinant = u.dot(across);
    if determinant == 0.0 {
        return None;
    }
    let start = from - a;
    let s = start.dot(across) / determinant;
    let turned = start.cross(u);
    let t = direction.dot(turned) / determinant;
    (s >= 0.0 && t >= 0.0 && s + t <= 1.0).then(|| (v.dot(turned) / determinant, determinant < 0.0))
}

/// Directions that no grid has.
const DIRECTIONS: [DVec3; 4] = [
    DVec3::new(0.437_129_517, 0.331_571_13, 0.836_047_21),
    DVec3::new(-0.571_903_37, 0.742_713_59, 0.348_170_93),
    DVec3::new(0.281_937_11, -0.899_173_53, 0.334_719_3),
    DVec3::new(-0.713_579_1, -0.211_319_7, -0.667_930_3),
];

/// How often closed surfaces wind round a point: how many fronts a ray from it comes out of,
/// less how many it goes into. Rays that pass too near an edge of a triangle to be sure are tried again in another direction; nothing
/// when none of several is sure.
///
/// Cost: about log n, and the faces in the way.
pub fn times_inside(hierarchy: &TriangleHierarchy<'_>, point: DVec3) -> Option<i32> {
    times_inside_all(&[hierarchy], point)
}

/// The same, of surfaces that are closed together.
pub fn times_inside_all(hierarchies: &[&TriangleHierarchy<'_>], point: DVec3) -> Option<i32> {
    DIRECTIONS.into_iter().find_map(|direction| {
        let inverse = inverse_of(direction);
        let mut tally = Tally::default();
        for hierarchy in hierarchies {
            hierarchy.tree().visit(
                |bounds| enters(bounds, point, inverse, f64::INFINITY),
                |triangle| tally.add(passes(hierarchy.corners(triangle), point, direction)),
            );
        }
        tally.result()
    })
}

#[derive(Default)]
struct Tally {
    times: i32,
    unsure: bool,
}

impl Tally {
    fn add(&mut self, passage: Passage) {
        match passage {
            Passage::Beside => {}
            Passage::Through(true) => self.times += 1,
            Passage::Through(false) => self.times -= 1,
            Passage::Unsure => self.unsure = true,
        }
    }

    fn result(self) -> Option<i32> {
        (!self.unsure).then_some(self.times)
    }
}

enum Passage {
    Beside,
    /// Whether the ray comes out of the front.
    Through(bool),
    Unsure,
}

/// How a ray passes a triangle.
fn passes([a, b, c]: [DVec3; 3], from: DVec3, direction: DVec3) -> Passage {
    /// How near an edge, as a share of the triangle, is too near.
    const NEAR: f64 = 1e-9;
    let (u, v) = (b - a, c - a);
    let across = direction.cross(v);
    let determinant = u.dot(across);
    let start = from - a;
    let turned = start.cross(u);
    let (s, t) = (start.dot(across), direction.dot(turned));
    let far = v.dot(turned);
    let size = determinant.abs();
    let sign = determinant.signum();
    let (s, t, far) = (s * sign, t * sign, far * sign);
    let least = s.min(t).min(size - s - t);
    // Against the size of what was summed up, since the triangle may be seen from its side.
    let doubt = NEAR * (size + 1e-6 * u.length() * v.length());
    if least < -doubt || far < 0.0 {
        Passage::Beside
    } else if least < doubt {
        Passage::Unsure
    } else {
        Passage::Through(determinant < 0.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;

    #[test]
    fn a_ray_through_two_shells_goes_in_and_out_of_each() {
        let sphere = shapes::sphere(1.0, 3);
        let hierarchy = TriangleHierarchy::whole(&sphere);
        let mut found = Vec::new();
        let aside = DVec3::new(0.01, 0.02, 0.0);
        crossings(
            &hierarchy,
            aside - DVec3::Z * 3.0,
            DVec3::Z,
            10.0,
            &mut found,
        );
        let sides: Vec<bool> = found.iter().map(|c| c.outward).collect();
        assert_eq!(sides, [false, true]);
        assert!((found[0].at - 2.0).abs() < 0.01 && (found[1].at - 4.0).abs() < 0.01);
        crossings(
            &hierarchy,
            aside - DVec3::Z * 3.0,
            DVec3::Z,
            2.5,
            &mut found,
        );
        assert_eq!(found.len(), 1);
    }

    #[test]
    fn points_are_inside_as_often_as_the_winding_number_says() {
        let mut mesh = shapes::cuboid(DVec3::splat(-1.0), DVec3::ONE, 4);
        let torus = shapes::torus(0.9, 0.4, 30, 20);
        let base = mesh.vertex_count() as u32;
        torus.positions().iter().for_each(|&p| {
            mesh.push_vertex(p);
        });
        for (_, face) in torus.faces() {
            mesh.push_face(face.iter().map(|v| crate::mesh::VertexId(v.0 + base)));
        }
        let hierarchy = TriangleHierarchy::whole(&mesh);
        let winding = crate::spatial::Winding::of(&hierarchy);
        for i in 0..500 {
            let t = f64::from(i);
            // Also on the grid of the box.
            let point = DVec3::new((t * 0.7).sin(), (t * 1.3).cos(), (t * 0.37).sin());
            let point = if i % 2 == 0 {
                point * 1.5
            } else {
                (point * 8.0).round() / 8.0 + 0.01
            };
            let times = times_inside(&hierarchy, point).unwrap();
            assert_eq!(f64::from(times), winding.at(point).round(), "{point}");
        }
    }

    #[test]
    fn a_ray_along_an_edge_between_faces_counts_once() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
        let hierarchy = TriangleHierarchy::whole(&cube);
        let mut found = Vec::new();
        crossings(
            &hierarchy,
            DVec3::new(0.5, 0.5, -1.0),
            DVec3::Z,
            5.0,
            &mut found,
        );
        assert_eq!(found.iter().map(|c| c.at).collect::<Vec<_>>(), [1.0, 2.0]);
    }
}
