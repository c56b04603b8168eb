//! Where a ray goes through a surface.

use super::{Bounds32, Soup};
use glam::DVec3;

/// One passage of a ray through a face.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Crossing {
    /// How far along the ray, in lengths of its direction.
    pub at: f64,
    /// Whether the ray comes out of the face's front, that is, leaves a solid.
    pub outward: bool,
    /// The triangle, by its place in the soup.
    pub triangle: usize,
}

/// All passages of a ray up to a distance, nearest first; `found` is cleared first. Two at one
/// place and in one direction, as on an edge between two faces, are one.
///
/// Triangles are met as by Möller & Trumbore 1997. Cost: about log n.
pub fn crossings(
    soup: &Soup<'_>,
    from: DVec3,
    direction: DVec3,
    limit: f64,
    found: &mut Vec<Crossing>,
) {
    found.clear();
    let inverse = direction.recip();
    soup.tree().visit(
        |bounds| enters(bounds, from, inverse, limit),
        |triangle| {
            if let Some((at, outward)) = through(soup.corners(triangle), from, direction)
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

/// Whether a ray enters a box before the limit (Kay & Kajiya 1986).
fn enters([low, high]: Bounds32, from: DVec3, inverse: DVec3, limit: f64) -> bool {
    let a = (low.as_dvec3() - from) * inverse;
    let b = (high.as_dvec3() - from) * inverse;
    // A coordinate in which the ray doesn't move gives no number where it lies on the border.
    let or = |x: DVec3, other: f64| {
        DVec3::from_array(x.to_array().map(|x| if x.is_nan() { other } else { x }))
    };
    let near = or(a.min(b), f64::NEG_INFINITY).max_element();
    let far = or(a.max(b), f64::INFINITY).min_element();
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes;

    #[test]
    fn a_ray_through_two_shells_goes_in_and_out_of_each() {
        let sphere = shapes::sphere(1.0, 3);
        let soup = Soup::whole(&sphere);
        let mut found = Vec::new();
        let aside = DVec3::new(0.01, 0.02, 0.0);
        crossings(&soup, aside - DVec3::Z * 3.0, DVec3::Z, 10.0, &mut found);
        let sides: Vec<bool> = found.iter().map(|c| c.outward).collect();
        assert_eq!(sides, [false, true]);
        assert!((found[0].at - 2.0).abs() < 0.01 && (found[1].at - 4.0).abs() < 0.01);
        crossings(&soup, aside - DVec3::Z * 3.0, DVec3::Z, 2.5, &mut found);
        assert_eq!(found.len(), 1);
    }

    #[test]
    fn a_ray_along_an_edge_between_faces_counts_once() {
        let cube = shapes::cuboid(DVec3::ZERO, DVec3::ONE, 2);
        let soup = Soup::whole(&cube);
        let mut found = Vec::new();
        crossings(&soup, DVec3::new(0.5, 0.5, -1.0), DVec3::Z, 5.0, &mut found);
        assert_eq!(found.iter().map(|c| c.at).collect::<Vec<_>>(), [1.0, 2.0]);
    }
}
