//! UVs and colours of new vertices: spread evenly over a patch from its border.
//!
//! Where the border crosses a UV seam, or a face along it has no UVs, the patch gets none: any
//! would tear or smear.

use super::border::Border;
use super::fair::spread;
use super::patch::Patch;
use crate::mesh::{CornerLayer, FaceId, Model, VertexId};
use glam::{DVec2, DVec3};

/// How far apart two UVs are that are one.
const SAME: f64 = 1e-6;

/// By set of UVs, for every vertex of a patch its own.
pub(super) fn uvs(model: &Model, border: &Border, patch: &Patch) -> Vec<Option<Vec<DVec2>>> {
    let sets = model.attributes.uv_sets();
    sets.map(|layer| uvs_of(layer, model, border, patch))
        .collect()
}

fn uvs_of(
    layer: &CornerLayer<DVec2>,
    model: &Model,
    border: &Border,
    patch: &Patch,
) -> Option<Vec<DVec2>> {
    let count = border.vertices.len();
    let at = |face: FaceId, vertex: VertexId| {
        let corner = model.mesh.face_range(face).zip(model.mesh.face(face));
        let (corner, _) = corner.into_iter().find(|(_, v)| **v == vertex)?;
        layer.at(corner)
    };
    let known: Option<Vec<DVec3>> = (0..count)
        .map(|i| {
            let vertex = border.vertices[i];
            let here = at(border.faces[i], vertex)?;
            let before = at(border.faces[(i + count - 1) % count], vertex)?;
            (here.distance(before) <= SAME).then_some(here.extend(0.0))
        })
        .collect();
    let all = spread(patch, &known?)?;
    Some(all.into_iter().map(|value| value.truncate()).collect())
}

/// For every vertex of a patch, its colour.
pub(super) fn colors(model: &Model, border: &Border, patch: &Patch) -> Option<Vec<[f32; 4]>> {
    let colors = model.attributes.colors.as_ref()?;
    let of = |channels: fn([f32; 4]) -> [f32; 3]| {
        let known = border.vertices.iter().map(|v| channels(colors[v.index()]));
        let known: Vec<DVec3> = known.map(|c| DVec3::from(c.map(f64::from))).collect();
        spread(patch, &known)
    };
    let (rgb, alpha) = (of(|[r, g, b, _]| [r, g, b])?, of(|[.., a]| [a, a, a])?);
    let pairs = rgb.into_iter().zip(alpha);
    Some(
        pairs
            .map(|(c, a)| [c.x as f32, c.y as f32, c.z as f32, a.x as f32])
            .collect(),
    )
}
