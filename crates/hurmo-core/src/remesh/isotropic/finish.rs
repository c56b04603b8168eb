//! From a sheet back to a model: what was not touched stays, what is new carries what the model
//! has there.
//!
//! Values of corners (UVs, normals) come from the nearest triangle of the same smooth piece of
//! the model: lines bound the pieces, so that a seam stays a seam. Colours come from the nearest
//! point, tags from the face that a triangle was part of.

use super::feature_edges::FeatureEdges;
use super::sheet::{NEW, ReferenceSurface, Sheet};
use crate::mesh::{FaceId, Model, Rebuild, VertexId};
use crate::parallel::{mapped, mapped_of};
use crate::topology::UnionFind;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// How far from a corner towards the middle of its triangle its place in the model is looked for.
const INWARD: [f64; 3] = [0.02, 0.2, 1.0];

/// The pieces into which lines divide the model's triangles.
pub(super) struct Pieces(Vec<u32>);

impl Pieces {
    /// By the lines of the model as it was.
    pub fn of(triangles: &[[VertexId; 3]], lines: &FeatureEdges) -> Self {
        let mut sides: FxHashMap<(u32, u32), u32> = FxHashMap::default();
        let mut together = UnionFind::new(triangles.len());
        for (t, &[a, b, c]) in triangles.iter().enumerate() {
            for (p, q) in [(a.0, b.0), (b.0, c.0), (c.0, a.0)] {
                if lines.has(p, q) {
                    continue;
                }
                let other = sides
                    .entry(super::feature_edges::ends(p, q))
                    .or_insert(t as u32);
                together.join(*other, t as u32);
            }
        }
        let count = triangles.len() as u32;
        Self((0..count).map(|t| together.find(t)).collect())
    }

    fn of_triangle(&self, triangle: u32) -> u32 {
        self.0[triangle as usize]
    }
}

/// The model with a sheet in place of the faces that were touched, and for each of its faces the one
/// before that it is or was part of.
pub(super) fn model_of(
    model: &Model,
    sheet: &Sheet,
    touched: &[bool],
    reference: &ReferenceSurface<'_>,
    pieces: Option<&Pieces>,
) -> (Model, Vec<FaceId>) {
    let mut rebuild = Rebuild::new(model);
    let mesh = &model.mesh;
    let mut sources: Vec<FaceId> = mesh
        .face_ids()
        .filter(|face| !touched[face.index()])
        .collect();
    sources.iter().for_each(|&face| rebuild.keep(face));
    let vertices = 0..sheet.linked.positions.len() as u32;
    let colors: Option<Vec<[f32; 4]>> = model.attributes.colors.as_ref().map(|_| {
        mapped(sheet.linked.positions.len(), 1024, |v| {
            let place = sheet.linked.positions[v];
            reference.carried.color_from(place, sheet.near[v])
        })
    });
    let names: Vec<VertexId> = vertices
        .map(|v| match sheet.source[v as usize] {
            NEW => {
                let color = colors.as_ref().map(|colors| colors[v as usize]);
                rebuild.colored_vertex(sheet.linked.positions[v as usize], VertexId(0), color)
            }
            source => VertexId(source),
        })
        .collect();
    let triangles: Vec<(u32, [u32; 3])> = (0..sheet.linked.places() as u32)
        .filter_map(|t| Some((sheet.origins[t as usize], sheet.linked.triangle(t)?)))
        .collect();
    let corners = pieces.map(|pieces| Corners::of(model, sheet, &triangles, reference, pieces));
    let mut made: FxHashMap<(u32, u32), usize> = FxHashMap::default();
    for (t, &(face, triangle)) in triangles.iter().enumerate() {
        let face = FaceId::new(face as usize);
        sources.push(face);
        let Some(corners) = &corners else {
            rebuild.new_face(face, &triangle.map(|v| names[v as usize]));
            continue;
        };
        let own = [0, 1, 2].map(|i| {
            let (piece, of) = corners.0[t][i];
            let corner = *made
                .entry((triangle[i], piece))
                .or_insert_with(|| rebuild.blended(of.into_iter().map(|(c, w)| (c as usize, w))));
            (corner, names[triangle[i] as usize])
        });
        rebuild.moved_piece(face, own.into_iter());
    }
    let mut new = rebuild.finish();
    new.drop_unused_vertices();
    (new, sources)
}

/// What a corner is made up of: its piece of the model, and corners there with their shares.
pub(super) type Blend = (u32, [(u32, f64); 3]);

/// For every new triangle, what its corners are made up of.
struct Corners(Vec<[Blend; 3]>);

impl Corners {
    fn of(
        model: &Model,
        sheet: &Sheet,
        triangles: &[(u32, [u32; 3])],
        reference: &ReferenceSurface<'_>,
        pieces: &Pieces,
    ) -> Self {
        Self(mapped_of(triangles, 256, |&(_, triangle)| {
            let points = sheet.linked.points(triangle);
            let middle = points.iter().sum::<DVec3>() / 3.0;
            let near = sheet.near[triangle[0] as usize];
            points.map(|point| blend_towards(model, reference, pieces, point, middle, near))
        }))
    }
}

/// What a corner of a new face is made up of: of a triangle near it that is in the same piece of
/// the model as the middle of the face. `near`: a triangle of the model near that.
pub(super) fn blend_towards(
    model: &Model,
    reference: &ReferenceSurface<'_>,
    pieces: &Pieces,
    corner: DVec3,
    middle: DVec3,
    near: u32,
) -> Blend {
    let own = reference.carried.closest_from(middle, near);
    let own = own.map_or(0, |found| found.triangle);
    let piece = pieces.of_triangle(own);
    let inward = INWARD.iter().find_map(|&inward| {
        let found = reference
            .carried
            .closest_from(corner.lerp(middle, inward), own)?;
        (pieces.of_triangle(found.triangle) == piece).then_some(found.triangle)
    });
    (
        piece,
        blend(model, reference, inward.unwrap_or(own), corner),
    )
}

/// What a place in the plane of a triangle is made up of, beyond its edges too.
fn blend(
    model: &Model,
    reference: &ReferenceSurface<'_>,
    triangle: u32,
    place: DVec3,
) -> [(u32, f64); 3] {
    let shares = reference.carried.shares(triangle, place);
    let face = reference.carried.faces()[triangle as usize];
    let vertices = reference.carried.triangles()[triangle as usize];
    let mesh = &model.mesh;
    [0, 1, 2].map(|i| {
        let mut corners = mesh.face_range(face);
        let corner = corners.find(|&c| mesh.corners()[c] == vertices[i]);
        (
            corner.unwrap_or(mesh.face_range(face).start) as u32,
            shares[i],
        )
    })
}
