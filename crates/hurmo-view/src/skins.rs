//! What triangles look like, from place to place on them: their texture, the colours of their
//! vertices, or that of their material.

use crate::color::{CLAY, Color};
use glam::DVec2;
use hurmo_core::Model;
use hurmo_core::mesh::{FaceId, VertexId};
use hurmo_core::paint::{Look, Texture};
use std::sync::Arc;

/// What a triangle looks like.
#[derive(Clone)]
pub(crate) enum Skin {
    /// The same everywhere.
    Plain(Color),
    /// By corners.
    Corners([Color; 3]),
    /// By the UVs of its corners.
    Texture(Arc<Texture>, [DVec2; 3]),
}

impl Skin {
    /// Of a triangle that was cut from a face; `looks` are those of the model's tags.
    pub(crate) fn of(
        model: &Model,
        looks: &[Option<Look>],
        face: FaceId,
        triangle: [VertexId; 3],
    ) -> Self {
        let attributes = &model.attributes;
        let tag = attributes
            .tags
            .of_face
            .get(face.index())
            .copied()
            .unwrap_or(0);
        let look = looks.get(tag as usize).and_then(Option::as_ref);
        let plain = match look {
            Some(Look::Texture(texture)) => {
                let range = model.mesh.face_range(face);
                let uv = |vertex: VertexId| {
                    let corner = range.clone().find(|&c| model.mesh.corners()[c] == vertex)?;
                    attributes.uvs.as_ref()?.at(corner)
                };
                if let [Some(a), Some(b), Some(c)] = triangle.map(uv) {
                    return Self::Texture(texture.clone(), [a, b, c]);
                }
                CLAY
            }
            Some(Look::Plain([r, g, b, _])) => [*r, *g, *b],
            None => CLAY,
        };
        match &attributes.colors {
            Some(colors) => Self::Corners(triangle.map(|v| {
                let [r, g, b, _] = colors[v.index()];
                [r, g, b]
            })),
            None => Self::Plain(plain),
        }
    }

    /// The colour at a place, by its shares of the corners.
    pub(crate) fn at(&self, shares: [f64; 3]) -> Color {
        match self {
            Self::Plain(color) => *color,
            Self::Corners(colors) => {
                let mix = |i: usize| {
                    let parts = colors.iter().zip(shares);
                    parts.map(|(color, share)| color[i] * share as f32).sum()
                };
                [0, 1, 2].map(mix)
            }
            Self::Texture(texture, uvs) => {
                let uv = uvs.iter().zip(shares).map(|(uv, share)| *uv * share).sum();
                let [r, g, b, _] = texture.at(uv);
                [r, g, b]
            }
        }
    }
}
