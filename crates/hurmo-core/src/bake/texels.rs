//! Which places of a surface lie under which pixels of its texture.

use super::{DVec2, DVec3, Model, vector_area};
use crate::mesh::FaceId;
use crate::triangulate::polygon;

/// Samples along each side of a pixel.
const ACROSS: u32 = 2;

/// A triangle in space and in the texture.
pub struct Triangle {
    /// Its corners in the mesh.
    pub corners: [u32; 3],
    pub points: [DVec3; 3],
    pub uvs: [DVec2; 3],
    /// The normal of its face.
    pub facing: DVec3,
}

/// A place under a pixel.
#[derive(Clone, Copy, Debug)]
pub struct Sample {
    /// The pixel, counted row by row from the top.
    pub pixel: u32,
    pub place: DVec3,
    /// How it is made up of the triangle's corners.
    pub shares: [f64; 3],
    pub facing: DVec3,
}

/// All triangles with UVs.
pub fn triangles(model: &Model) -> Vec<Triangle> {
    let Some(layer) = &model.attributes.uvs else {
        return Vec::new();
    };
    let mesh = &model.mesh;
    let mut triangles = Vec::with_capacity(mesh.face_count());
    for face in mesh.face_ids() {
        let first = mesh.face_range(face).start as u32;
        let facing = vector_area(mesh, face).normalize_or_zero();
        for own in pieces(model, face) {
            let corners = own.map(|corner| first + corner);
            let uvs = corners.map(|corner| layer.at(corner as usize));
            let [Some(a), Some(b), Some(c)] = uvs else {
                continue;
            };
            triangles.push(Triangle {
                corners,
                points: corners.map(|c| mesh.position(mesh.corners()[c as usize])),
                uvs: [a, b, c],
                facing,
            });
        }
    }
    triangles
}

/// A face's triangles, by its corners.
fn pieces(model: &Model, face: FaceId) -> Vec<[u32; 3]> {
    match model.mesh.face(face).len() {
        0..=2 => Vec::new(),
        3 => vec![[0, 1, 2]],
        _ => {
            let points: Vec<DVec3> = model.mesh.face_points(face).collect();
            polygon(&points)
        }
    }
}

/// The samples of a triangle in a texture this many pixels wide; what lies beyond the tile is left out.
pub fn samples(triangle: &Triangle, size: u32) -> impl Iterator<Item = Sample> + '_ {
    let fine = size * ACROSS;
    // From the top left, in samples.
    let at = triangle
        .uvs
        .map(|uv| DVec2::new(uv.x, 1.0 - uv.y) * f64::from(fine));
    let [a, b, c] = at;
    let area = (b - a).perp_dot(c - a);
    let within = |low: f64, high: f64| {
        let from = (low - 0.5).ceil().clamp(0.0, f64::from(fine)) as u32;
        let upto = ((high - 0.5).floor() + 1.0).clamp(0.0, f64::from(fine)) as u32;
        from..upto.max(from)
    };
    let rows = match area != 0.0 && area.is_finite() {
        true => within(a.y.min(b.y).min(c.y), a.y.max(b.y).max(c.y)),
        false => 0..0,
    };
    let columns = within(a.x.min(b.x).min(c.x), a.x.max(b.x).max(c.x));
    rows.flat_map(move |row| {
        columns.clone().filter_map(move |column| {
            let p = DVec2::new(f64::from(column) + 0.5, f64::from(row) + 0.5) - a;
            let s = p.perp_dot(c - a) / area;
            let t = (b - a).perp_dot(p) / area;
            if s < 0.0 || t < 0.0 || s + t > 1.0 {
                return None;
            }
            let shares = [1.0 - s - t, s, t];
            let [p, q, r] = triangle.points;
            Some(Sample {
                pixel: row / ACROSS * size + column / ACROSS,
                place: p * shares[0] + q * s + r * t,
                shares,
                facing: triangle.facing,
            })
        })
    })
}
