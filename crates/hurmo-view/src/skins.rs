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
            Some(Look::Texture { texture, uv_set }) => {
                let range = model.mesh.face_range(face);
                let uv = |vertex: VertexId| {
                    let corner = range.clone().find(|&c| model.mesh.corners()[c] == vertex)?;
                    attributes.uv_set(*uv_set)?.at(corner)
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

#[cfg(test)]
mod tests {
    use super::*;
    use glam::DVec3;
    use hurmo_core::mesh::{CornerLayer, Mesh, NO_VALUE};

    /// A triangle with UVs, and one whose last corner has none.
    fn sail() -> Model {
        let mut mesh = Mesh::default();
        let corners =
            [[0., 0.], [1., 0.], [0., 1.]].map(|[x, y]| mesh.push_vertex(DVec3::new(x, y, 0.)));
        mesh.push_face(corners);
        mesh.push_face(corners);
        let mut model = Model::from(mesh);
        model.attributes.uvs = Some(CornerLayer {
            values: vec![DVec2::ZERO, DVec2::X, DVec2::Y],
            index: vec![0, 1, 2, 0, 1, NO_VALUE],
        });
        model
    }

    #[test]
    fn places_look_as_the_texture_does_there() {
        let model = sail();
        let [red, blue] = [[255, 0, 0, 255], [0, 0, 255, 255]];
        let texture = Arc::new(Texture::new([2, 1], vec![red, blue]).unwrap());
        let looks = [Some(Look::texture(texture))];
        let triangle = [0, 1, 2].map(VertexId);
        let skin = |face: u32| Skin::of(&model, &looks, FaceId(face), triangle);
        assert_eq!(skin(0).at([0.8, 0.2, 0.0]), [1.0, 0.0, 0.0]);
        assert_eq!(skin(0).at([0.0, 0.8, 0.2]), [0.0, 0.0, 1.0]);
        // Half way it is half of both.
        assert_eq!(skin(0).at([0.5, 0.5, 0.0]), [0.5, 0.0, 0.5]);
        // Without UVs there is no texture.
        assert_eq!(skin(1).at([0.8, 0.2, 0.0]), CLAY);
    }

    #[test]
    fn colours_of_vertices_come_before_those_of_materials() {
        let mut model = sail();
        let looks = [Some(Look::Plain([0.5, 0.25, 0.0, 1.0]))];
        let triangle = [0, 1, 2].map(VertexId);
        let plain = Skin::of(&model, &looks, FaceId(0), triangle).at([1.0, 0.0, 0.0]);
        assert_eq!(plain, [0.5, 0.25, 0.0]);
        let color = |i: usize| [0, 1, 2, 3].map(|j| if i == j { 1.0 } else { 0.0 });
        model.attributes.colors = Some((0..3).map(color).collect());
        let mixed = Skin::of(&model, &looks, FaceId(0), triangle).at([0.5, 0.25, 0.25]);
        assert_eq!(mixed, [0.5, 0.25, 0.25]);
    }
}
