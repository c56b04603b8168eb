//! Triangles of matching sizes on both sides of a seam, which stays a line.
//!
//! At the seam edges are as long as those of the finer side; from there they change gently into those
//! of each side. Before a seam is rounded, edges are a share of the radius as far as the fillet reaches.

use super::band::faces_near;
use super::bends::Bends;
use super::line::Seam;
use super::stretches::FURTHEST;
use super::{Joined, SeamOptions};
use crate::measure::vector_area;
use crate::mesh::{FaceId, Mesh, Model};
use crate::parallel::listed;
use crate::progress::Observer;
use crate::remesh::{self, RemeshError, ShortFeatures, Target, edge_for};
use crate::spatial::TriangleTree;
use crate::topology::Edges;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// By how much of the reach edges may leave the surface.
const WITHIN: f64 = 0.005;
/// Edges across a fillet are such a share of its radius.
const OF_RADIUS: f64 = 0.2;
/// How much shorter than before edges may be given there, where others are so already.
const FINER: f64 = 2.0;
/// How much farther than a fillet reaches triangles are made even, in times of its radius.
const ROOM: f64 = 0.3;

/// What was made even, before seams are rounded.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Evened {
    /// Triangles before, of the faces that were touched.
    pub before: usize,
    /// Triangles in their place.
    pub after: usize,
    /// The shortest and the longest length that edges were to have, in model units.
    pub edges: [f64; 2],
    /// Of the faces that were touched, those beyond the distance, so that sizes change gently.
    pub beyond: usize,
}

/// One pass. Coarse faces have no vertices beside the seam that a length could be given to: each pass makes
/// them for the next.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Pass {
    kind: Kind,
    /// Faces nearer to the seam than this are touched.
    width: f64,
    /// The radius of the fillet that the seam is to get, if any.
    radius: f64,
}

/// Where edges are to be how long.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Kind {
    /// As faces were before they were cut.
    AsBefore,
    /// As short as the fillet needs at the seam.
    FineAtSeam,
    /// As short as the fillet needs as far as it reaches.
    Fine,
}

impl Pass {
    /// How far from a place on the seam faces are touched. `tangent`: of half the bend there.
    fn reach(self, tangent: f64) -> f64 {
        self.width.max(self.fillet(tangent))
    }

    /// How far the fillet reaches from there, with some room.
    fn fillet(self, tangent: f64) -> f64 {
        (tangent.min(FURTHEST) + ROOM) * self.radius
    }

    /// The longest edge at the seam.
    fn longest(self) -> f64 {
        match self.kind {
            Kind::AsBefore => f64::INFINITY,
            Kind::FineAtSeam | Kind::Fine => OF_RADIUS * self.radius,
        }
    }
}

/// About how many triangles fillets take, times their radius: as many as cover what they reach over on
/// both sides, with edges so much longer than the share of the radius. Within a factor of 3 where it was
/// measured: fewer in plain right angles, more where small faces lie beside.
pub(super) fn triangles_of_fillets(mesh: &Mesh, solids: &[u32], seam: &Seam) -> f64 {
    const LONGER: f64 = 1.5;
    let edge = LONGER * OF_RADIUS;
    let triangle = 3.0f64.sqrt() / 4.0 * edge * edge;
    let tangents = Bends::of(mesh, solids, seam).of_edges(seam);
    let areas = seam.edges.iter().zip(&tangents).map(|(ends, tangent)| {
        let [from, to] = ends.map(|v| mesh.position(v));
        2.0 * (tangent.min(FURTHEST) + ROOM) * from.distance(to)
    });
    areas.sum::<f64>() / triangle
}

/// The passes that are needed.
pub(super) fn passes(options: &SeamOptions) -> impl Iterator<Item = Pass> {
    let SeamOptions { even_along, radius } = *options;
    let pass = |kind| Pass {
        kind,
        width: even_along.unwrap_or(0.0),
        radius: radius.unwrap_or(0.0),
    };
    let first = (even_along.is_some() || radius.is_some()).then_some(pass(Kind::AsBefore));
    let others = [Kind::FineAtSeam, Kind::Fine].map(|kind| Pass {
        width: 0.0,
        ..pass(kind)
    });
    let others = others.into_iter().filter(move |_| radius.is_some());
    first.into_iter().chain(others)
}

/// A model made even, and where its faces come from.
pub(super) struct Made {
    pub model: Model,
    sources: Vec<FaceId>,
}

impl Made {
    /// What each face has that its source had.
    pub fn of_each<T: Copy>(&self, before: &[T]) -> Vec<T> {
        let sources = self.sources.iter();
        sources.map(|source| before[source.index()]).collect()
    }
}

/// Makes the faces along the seam even; `None` where they have no area.
pub(super) fn evened(
    joined: &Joined<'_>,
    pass: Pass,
    observer: &dyn Observer,
) -> Result<Option<(Made, Evened)>, RemeshError> {
    let mesh = &joined.model.mesh;
    let edges = Edges::of(mesh);
    let seam = Seam::by(mesh, &edges, joined.solids);
    let bends = Bends::of(mesh, joined.solids, &seam);
    let tangents = bends.of_edges(&seam);
    let reach = |edge: usize| pass.reach(tangents[edge]);
    let near = faces_near(joined.model, &edges, &seam, &reach);
    let furthest = (0..seam.edges.len()).map(reach).fold(0.0, f64::max);
    let options = remesh::RemeshOptions {
        short_features: ShortFeatures::Under(0.0),
        faces: Some(near),
        lines: seam.edges.clone(),
        ..remesh::RemeshOptions::of(Target::ByVertex {
            lengths: lengths(joined, &seam, &tangents, pass),
            within: WITHIN * furthest,
        })
    };
    match remesh::remesh(joined.model, &options, observer) {
        Ok(made) => {
            let evened = Evened {
                before: made.before,
                after: made.after,
                edges: made.edges,
                beyond: made.belt,
            };
            let made = Made {
                model: made.model,
                sources: made.sources,
            };
            Ok(Some((made, evened)))
        }
        Err(RemeshError::NoSurface | RemeshError::NoLength) => Ok(None),
        Err(error) => Err(error),
    }
}

/// How long edges are to be at every vertex: as they are on its solid, of several the shortest.
fn lengths(joined: &Joined<'_>, seam: &Seam, tangents: &[f64], pass: Pass) -> Vec<f64> {
    let mesh = &joined.model.mesh;
    // The sum of squares and how many there are, by vertex and solid.
    let mut sums = vec![[0.0; 2]; mesh.vertex_count()];
    let mut on_seam: FxHashMap<(u32, u32), [f64; 2]> = FxHashMap::default();
    let beside = seam.beside();
    for (face, corners) in mesh.faces() {
        let size = match pass.kind {
            Kind::AsBefore => joined.sizes[face.index()],
            // Needles that were cut are no measure of how fine it is to be.
            Kind::FineAtSeam | Kind::Fine => {
                let before = joined.sizes[face.index()].min(pass.longest());
                size_of(joined.model, face).max(before / FINER)
            }
        };
        for &vertex in corners {
            let sum = match beside.contains_key(&vertex) {
                true => on_seam
                    .entry((vertex.0, joined.solids[face.index()]))
                    .or_default(),
                false => &mut sums[vertex.index()],
            };
            *sum = [sum[0] + size * size, sum[1] + 1.0];
        }
    }
    let length = |[squares, count]: [f64; 2]| (squares / count).sqrt();
    let mut lengths: Vec<f64> = sums.into_iter().map(length).collect();
    for ((vertex, _), sum) in on_seam {
        let least = &mut lengths[vertex as usize];
        *least = least.min(length(sum)).min(pass.longest());
    }
    if pass.kind == Kind::Fine {
        let reach = |edge: usize| pass.fillet(tangents[edge]);
        for vertex in near_vertices(joined.model, seam, &reach) {
            lengths[vertex] = lengths[vertex].min(pass.longest());
        }
    }
    // Vertices that no face has, or only faces without area, take no part.
    let longest = lengths.iter().copied().filter(|length| length.is_finite());
    let longest = longest.fold(f64::MIN_POSITIVE, f64::max);
    let usable = |length: f64| if length > 0.0 { length } else { longest };
    lengths.into_iter().map(usable).collect()
}

/// The vertices nearer to an edge of a seam than it reaches, over whatever is between.
fn near_vertices(model: &Model, seam: &Seam, reach: &(dyn Fn(usize) -> f64 + Sync)) -> Vec<usize> {
    let positions = model.mesh.positions();
    let tree = TriangleTree::new(positions.len(), |i| [positions[i]; 3]);
    let places = seam.places(&model.mesh, |edge| reach(edge) / 4.0);
    listed(places.len(), 16, |i, near| {
        let (edge, place) = places[i];
        let around = DVec3::splat(reach(edge));
        let all = tree.reaching_into(place - around, place + around, usize::MAX);
        let all = all.unwrap_or_default().into_iter();
        let those = all.filter(|(_, [at, ..])| at.distance(place) < around.x);
        near.extend(those.map(|(vertex, _)| vertex as usize));
    })
}

/// How long the edges of even triangles are that are as large as those of a face.
pub fn size_of(model: &Model, face: FaceId) -> f64 {
    let triangles = model.mesh.face(face).len().saturating_sub(2).max(1);
    edge_for(vector_area(&model.mesh, face).length(), triangles as f64)
}
