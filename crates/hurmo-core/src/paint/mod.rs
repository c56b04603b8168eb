//! Colours of one model brought onto the vertices of another, by nearest surface.
//!
//! ```text
//! vertex ─▶ closest point of the original ─▶ texture there, through UVs ─┐
//!     └▶ and places round it, a third of the way into its faces ─────────┴▶ mean ─▶ colour
//! ```
//!
//! A texture is finer than most meshes, so that a vertex has the mean of what lies round it, and
//! not the one pixel that it hits. Where a face has no texture, its colours at vertices count, or
//! else the plain colour of its material. Cost: a closest point a vertex, and one more a corner
//! where there are textures.

mod light;
mod near;
mod texture;

pub use light::{linear, on_screen};
pub use near::Near;
pub use texture::Texture;

use crate::attribute_transfer::Carried;
use crate::mesh::{Mesh, Model, VertexId};
use crate::parallel::mapped;
use crate::progress::{Cancelled, Observer};
use glam::{DVec2, DVec3};
use std::sync::Arc;

/// How much of the way to a face's middle lies the place that is looked at beside a vertex.
const INTO_FACE: f64 = 0.5;

/// By so much of the way to the middle of their triangle UVs are moved.
const INWARD: f64 = 1e-6;

/// How a material looks.
#[derive(Clone, Debug, PartialEq)]
pub enum Look {
    /// As a texture, through the UVs of corners.
    Texture {
        /// The texture.
        texture: Arc<Texture>,
        /// By which set of UVs, from 0.
        uv_set: usize,
    },
    /// The same everywhere.
    Plain([f32; 4]),
}

/// Where colours came from, by number of vertices, and what they are.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Painted {
    /// Red, green, blue, alpha by vertex, 0 to 1.
    pub colors: Vec<[f32; 4]>,
    /// From a texture.
    pub by_texture: usize,
    /// From colours at vertices.
    pub by_vertices: usize,
    /// From a material's plain colour.
    pub by_material: usize,
    /// From nothing: white.
    pub bare: usize,
    /// How far a vertex lies from the original at most.
    pub farthest: f64,
    /// Which one.
    pub farthest_vertex: Option<VertexId>,
    /// The root of the mean square of how far all lie from it.
    pub rms: f64,
}

/// Where a colour comes from.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Source {
    Texture,
    Vertices,
    Material,
    Nothing,
}

/// A model with colours to give: `looks` are those of its tags, one for each in their table.
pub struct Original<'a> {
    carried: Carried<'a>,
    looks: &'a [Option<Look>],
}

impl<'a> Original<'a> {
    /// Makes a model ready to give its colours. Of faces without tags, the look is the first.
    pub fn new(model: &'a Model, looks: &'a [Option<Look>]) -> Self {
        Self {
            carried: Carried::by(model),
            looks,
        }
    }

    /// The colours of a mesh's vertices. Vertices in no face have one too.
    ///
    /// # Errors
    /// When the observer says to stop.
    pub fn paint(&self, mesh: &Mesh, observer: &dyn Observer) -> Result<Painted, Cancelled> {
        observer.begin("bringing colours over", 0);
        let has_textures = self.looks.iter().flatten().any(Look::is_texture);
        let beside = match has_textures {
            true => places_beside(mesh),
            false => Beside::default(),
        };
        let of_vertex = |v: usize| {
            let at = mesh.positions()[v];
            let found = self.carried.closest_from(at, u32::MAX)?;
            let (mut sum, source) = self.color(found.triangle, found.point);
            let mut count = 1.0;
            let others = match source {
                Source::Texture => beside.of(v),
                _ => &[],
            };
            for &place in others {
                // What lies round the corner has other colours, but belongs to the vertex too.
                let Some(near) = self.carried.closest_from(place, found.triangle) else {
                    continue;
                };
                let (color, source) = self.color(near.triangle, near.point);
                if source == Source::Texture {
                    count += 1.0;
                    for (sum, channel) in sum.iter_mut().zip(color) {
                        *sum += channel;
                    }
                }
            }
            let color = sum.map(|channel| channel / count);
            Some((color, source, found.distance_squared))
        };
        let found: Vec<_> = mapped(mesh.vertex_count(), 256, of_vertex);
        let mut painted = Painted::default();
        let (mut farthest, mut squares) = (-1.0, 0.0);
        for (v, found) in found.into_iter().enumerate() {
            let (color, source, off) = found.unwrap_or(([1.0; 4], Source::Nothing, 0.0));
            painted.colors.push(color);
            *painted.count_of(source) += 1;
            squares += off;
            if off > farthest {
                farthest = off;
                painted.farthest_vertex = Some(VertexId::new(v));
            }
        }
        painted.farthest = farthest.max(0.0).sqrt();
        painted.rms = (squares / painted.colors.len().max(1) as f64).sqrt();
        observer.check()?;
        Ok(painted)
    }

    /// The colour of a place on a triangle.
    fn color(&self, triangle: u32, place: DVec3) -> ([f32; 4], Source) {
        let tag = self.carried.tag_of(triangle).unwrap_or(0);
        let look = self.looks.get(tag as usize).and_then(Option::as_ref);
        if let Some(Look::Texture { texture, uv_set }) = look
            && let Some(uv) = self.uv(*uv_set, triangle, place)
        {
            return (texture.at(uv), Source::Texture);
        }
        if let Some(color) = self.carried.color_on(triangle, place) {
            return (color, Source::Vertices);
        }
        match look {
            Some(Look::Plain(color)) => (*color, Source::Material),
            _ => ([1.0; 4], Source::Nothing),
        }
    }

    /// The UV of a place on a triangle; `None` where one of its corners has none.
    fn uv(&self, set: usize, triangle: u32, place: DVec3) -> Option<DVec2> {
        let uvs = self.carried.model().attributes.uv_set(set)?;
        let shares = self.carried.shares(triangle, place);
        let (mut uv, mut middle) = (DVec2::ZERO, DVec2::ZERO);
        for (corner, share) in self.corners(triangle).into_iter().zip(shares) {
            let own = uvs.at(corner?)?;
            uv += own * share;
            middle += own / 3.0;
        }
        // So that what lies on the border of a tile counts to the side that the face is on.
        Some(uv.lerp(middle, INWARD))
    }
}

impl Look {
    /// A texture by the first set of UVs.
    pub fn texture(texture: Arc<Texture>) -> Self {
        Self::Texture { texture, uv_set: 0 }
    }

    fn is_texture(&self) -> bool {
        matches!(self, Self::Texture { .. })
    }
}

impl Painted {
    fn count_of(&mut self, source: Source) -> &mut usize {
        match source {
            Source::Texture => &mut self.by_texture,
            Source::Vertices => &mut self.by_vertices,
            Source::Material => &mut self.by_material,
            Source::Nothing => &mut self.bare,
        }
    }
}

/// For every vertex, places inside its faces.
#[derive(Default)]
struct Beside {
    /// Where those of each vertex begin, and of the last end.
    starts: Vec<u32>,
    places: Vec<DVec3>,
}

impl Beside {
    fn of(&self, vertex: usize) -> &[DVec3] {
        match self.starts.get(vertex..vertex + 2) {
            Some(&[from, to]) => &self.places[from as usize..to as usize],
            _ => &[],
        }
    }
}

fn places_beside(mesh: &Mesh) -> Beside {
    let mut starts = vec![0u32; mesh.vertex_count() + 1];
    for v in mesh.corners() {
        starts[v.index() + 1] += 1;
    }
    for v in 0..mesh.vertex_count() {
        starts[v + 1] += starts[v];
    }
    let mut next = starts.clone();
    let mut places = vec![DVec3::ZERO; mesh.corners().len()];
    for (face, corners) in mesh.faces() {
        let middle = mesh.face_middle(face);
        for v in corners {
            places[next[v.index()] as usize] = mesh.position(*v).lerp(middle, INTO_FACE);
            next[v.index()] += 1;
        }
    }
    Beside { starts, places }
}

#[cfg(test)]
mod tests;
