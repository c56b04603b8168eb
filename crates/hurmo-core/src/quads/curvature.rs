//! Where a surface bends one way more than another: a cross for each triangle, with how much it counts.
//!
//! The shape operator of a triangle maps its edges to the differences of normals along them, by least
//! squares (Rusinkiewicz 2004, Estimating Curvatures and Their Derivatives on Triangle Meshes).

use super::surface::Surface;
use crate::parallel::mapped;
use glam::{DMat2, DVec2, DVec3};

/// Rounds in which normals are smoothed before they are compared.
const ROUNDS: usize = 2;

/// For each triangle a principal direction as a complex number to the fourth power, in its frame. Its absolute
/// value is how much it counts: the difference of curvatures, times `length`, up to one; less where the surface
/// bends both ways alike.
pub(super) fn crosses(surface: &Surface, length: f64) -> Vec<DVec2> {
    let normals = normals(surface);
    mapped(surface.triangles.len(), 256, |t| {
        let operator = shape_operator(surface, t as u32, &normals);
        let [a, b, c] = [operator.x_axis.x, operator.y_axis.x, operator.y_axis.y];
        // The part without trace: half the difference of curvatures, at twice the angle of the first direction.
        let double = DVec2::new((a - c) / 2.0, b);
        let (mean, half) = ((a + c) / 2.0, double.length());
        let clear = half / (half + mean.abs()).max(1e-300);
        let counts = (2.0 * half * length).min(1.0) * clear * clear;
        double
            .try_normalize()
            .map_or(DVec2::ZERO, |unit| unit.rotate(unit) * counts)
    })
}

/// For each triangle the radius of the sharpest bend.
pub(super) fn radii(surface: &Surface) -> Vec<f64> {
    let normals = normals(surface);
    mapped(surface.triangles.len(), 256, |t| {
        let operator = shape_operator(surface, t as u32, &normals);
        let [a, b, c] = [operator.x_axis.x, operator.y_axis.x, operator.y_axis.y];
        let greatest = ((a + c) / 2.0).abs() + ((a - c) / 2.0).hypot(b);
        1.0 / greatest
    })
}

/// The symmetric matrix that maps the edges of a triangle best to the differences of normals; none at features.
fn shape_operator(surface: &Surface, t: u32, normals: &[DVec3]) -> DMat2 {
    if surface.triangles[t as usize]
        .iter()
        .any(|&v| normals[v as usize] == DVec3::ZERO)
    {
        return DMat2::ZERO;
    }
    let mut squares = [0.0; 3];
    let mut right = [0.0; 3];
    for half_edge in 3 * t..3 * t + 3 {
        let e = surface.in_plane(t, surface.along(half_edge));
        let [from, to] = [surface.from(half_edge), surface.to(half_edge)];
        let d = surface.in_plane(t, normals[to as usize] - normals[from as usize]);
        squares[0] += e.x * e.x;
        squares[1] += e.x * e.y;
        squares[2] += e.y * e.y;
        right[0] += d.x * e.x;
        right[1] += d.x * e.y + d.y * e.x;
        right[2] += d.y * e.y;
    }
    // Normal equations of [a b; b c]·e = d.
    let [xx, xy, yy] = squares;
    let matrix = glam::DMat3::from_cols(
        DVec3::new(xx, xy, 0.0),
        DVec3::new(xy, xx + yy, xy),
        DVec3::new(0.0, xy, yy),
    );
    let determinant = matrix.determinant();
    if determinant.is_nan() || determinant.abs() <= 1e-12 * (xx + yy).powi(3) {
        return DMat2::ZERO;
    }
    let [a, b, c] = (matrix.inverse() * DVec3::from_array(right)).to_array();
    DMat2::from_cols(DVec2::new(a, b), DVec2::new(b, c))
}

/// Smoothed normals of vertices; none of vertices on features, where the surface has more than one.
fn normals(surface: &Surface) -> Vec<DVec3> {
    let count = surface.positions.len();
    let mut is_feature = vec![false; count];
    for half_edge in 0..surface.half_edge_count() {
        if surface.is_feature[half_edge as usize] {
            is_feature[surface.from(half_edge) as usize] = true;
            is_feature[surface.to(half_edge) as usize] = true;
        }
    }
    let mut normals: Vec<DVec3> = mapped(count, 1024, |v| {
        if is_feature[v] {
            return DVec3::ZERO;
        }
        let faces = surface.around(v as u32).map(|half_edge| half_edge / 3);
        let sum = faces
            .map(|t| surface.normal(t) * surface.area(t))
            .sum::<DVec3>();
        sum.normalize_or_zero()
    });
    for _ in 0..ROUNDS {
        normals = mapped(count, 1024, |v| {
            if is_feature[v] {
                return DVec3::ZERO;
            }
            let beside = surface
                .around(v as u32)
                .map(|half_edge| normals[surface.to(half_edge) as usize]);
            (normals[v] + beside.sum::<DVec3>()).normalize_or_zero()
        });
    }
    normals
}
