//! One half of a symmetric model.
//!
//! Triangles that the plane cuts are cut along it (Sutherland & Hodgman 1974), once for each edge,
//! so that neighbours stay joined; what lies very near the plane is put on it.

use super::{Mirror, Symmetry};
use crate::attribute_transfer::shares;
use crate::measure::bounds;
use crate::mesh::{CornerLayer, FaceId, Model, Rebuild, VertexId};
use crate::parallel::all;
use crate::spatial::TriangleTree;
use crate::triangulate::all_triangles;
use glam::{DVec2, DVec3};
use rustc_hash::FxHashMap;

/// What lies so near the plane, as a share of the diagonal, is put on it.
const NEAR: f64 = 1e-7;
/// UVs that differ by more belong to different places in the texture.
const SAME_UV: f64 = 1e-3;
/// This many triangles are asked for their UVs, at most.
const ASKED: usize = 50_000;

/// The half of a model before a mirror.
#[derive(Clone, Debug)]
pub struct Half {
    /// What it was cut along.
    pub mirror: Mirror,
    /// How far the model lies from its image.
    pub off: f64,
    /// All triangles.
    pub model: Model,
    /// By its face, which of the whole model's it is from.
    pub from: Vec<FaceId>,
    /// Whether what meets on the plane is joined there; else two sheets only touch.
    pub is_joined: bool,
}

/// Why a model can't be taken by halves.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Unfit {
    /// This many faces lie in the plane itself.
    #[error("{0} of its faces lie in the plane of symmetry")]
    InPlane(usize),
    /// Some vertices on the plane join both sides, some do not.
    #[error(
        "it is joined along the plane of symmetry in some places and open in others; weld it first"
    )]
    PartlyJoined,
    /// The two sides have different UVs.
    #[error("its two sides lie in different places of the texture")]
    OtherUvs,
}

impl Half {
    /// Takes the half of a model that lies before a mirror.
    pub fn of(model: &Model, found: &Symmetry) -> Result<Self, Unfit> {
        let mirror = &found.mirror;
        let (triangles, faces) = all_triangles(&model.mesh);
        let near = NEAR * bounds(&model.mesh).map_or(0.0, |bounds| bounds.diagonal());
        let side = |vertex: VertexId| match mirror.before(model.mesh.position(vertex)) {
            off if off > near => 1,
            off if off < -near => -1,
            _ => 0,
        };
        let sides: Vec<i8> = model.mesh.vertex_ids().map(side).collect();
        let sides_of = |t: usize| triangles[t].map(|v| sides[v.index()]);
        let in_plane = (0..triangles.len()).filter(|&t| sides_of(t) == [0; 3]);
        match in_plane.count() {
            0 => {}
            count => return Err(Unfit::InPlane(count)),
        }
        let is_joined = is_joined(&triangles, &sides)?;
        if !share_uvs(model, mirror, (&triangles, &faces), &sides) {
            return Err(Unfit::OtherUvs);
        }
        let mut cut = Cut {
            mirror,
            rebuild: Rebuild::new(model),
            on_edge: FxHashMap::default(),
            model,
            sides: &sides,
        };
        let mut from = Vec::with_capacity(triangles.len() / 2);
        for (&triangle, &face) in triangles.iter().zip(&faces) {
            let pieces = cut.take(triangle, face);
            from.extend(std::iter::repeat_n(face, pieces));
        }
        let mut half = cut.rebuild.finish();
        half.lines.clear();
        half.drop_unused_vertices();
        // Exactly on the plane, so that both halves meet there.
        let near_plane = |at: &&mut DVec3| mirror.before(**at).abs() <= near;
        let positions = half.mesh.positions_mut().iter_mut();
        positions
            .filter(near_plane)
            .for_each(|at| *at = mirror.onto(*at));
        Ok(Self {
            mirror: *mirror,
            off: found.off,
            model: half,
            from,
            is_joined,
        })
    }
}

/// Whether the vertices on the plane have faces on both sides: all of them, or none.
fn is_joined(triangles: &[[VertexId; 3]], sides: &[i8]) -> Result<bool, Unfit> {
    let mut reached = vec![[false; 2]; sides.len()];
    let mut straddles = false;
    for triangle in triangles {
        let own = triangle.map(|v| sides[v.index()]);
        let both = [own.contains(&1), own.contains(&-1)];
        straddles |= both == [true; 2];
        for v in triangle.iter().filter(|v| sides[v.index()] == 0) {
            let reached = &mut reached[v.index()];
            *reached = [reached[0] | both[0], reached[1] | both[1]];
        }
    }
    let on_plane = || reached.iter().filter(|reached| **reached != [false; 2]);
    let joined = on_plane().filter(|reached| **reached == [true; 2]).count();
    match joined {
        0 if straddles && on_plane().next().is_some() => Err(Unfit::PartlyJoined),
        0 => Ok(straddles),
        _ if joined == on_plane().count() => Ok(true),
        _ => Err(Unfit::PartlyJoined),
    }
}

/// A model that is being cut along a mirror.
struct Cut<'a> {
    model: &'a Model,
    mirror: &'a Mirror,
    sides: &'a [i8],
    rebuild: Rebuild<'a>,
    /// The new vertices, by the ends of the edges that they lie on.
    on_edge: FxHashMap<[VertexId; 2], VertexId>,
}

impl Cut<'_> {
    /// Takes what lies before the mirror of a triangle; says how many triangles that makes.
    fn take(&mut self, triangle: [VertexId; 3], face: FaceId) -> usize {
        let own = triangle.map(|v| self.sides[v.index()]);
        if !own.contains(&1) {
            return 0;
        }
        let corner = |v: VertexId| {
            let mut range = self.model.mesh.face_range(face);
            range.find(|&c| self.model.mesh.corners()[c] == v)
        };
        let Some(corners) = triangle.map(corner).into_iter().collect::<Option<Vec<_>>>() else {
            return 0;
        };
        let mut kept: Vec<(usize, VertexId)> = Vec::with_capacity(4);
        for i in 0..3 {
            let j = (i + 1) % 3;
            if own[i] >= 0 {
                kept.push((corners[i], triangle[i]));
            }
            if own[i] * own[j] < 0 {
                kept.push(self.between([triangle[i], triangle[j]], [corners[i], corners[j]]));
            }
        }
        // Of four corners, the shorter diagonal.
        let at = |i: usize| self.rebuild.position(kept[i].1);
        let pieces: &[[usize; 3]] = match kept.len() {
            3 => &[[0, 1, 2]],
            _ if at(0).distance_squared(at(2)) <= at(1).distance_squared(at(3)) => {
                &[[0, 1, 2], [0, 2, 3]]
            }
            _ => &[[0, 1, 3], [1, 2, 3]],
        };
        for piece in pieces {
            let corners = piece.map(|i| kept[i]);
            self.rebuild.moved_piece(face, corners.into_iter());
        }
        pieces.len()
    }

    /// The corner where an edge meets the plane.
    fn between(&mut self, ends: [VertexId; 2], corners: [usize; 2]) -> (usize, VertexId) {
        // The same from either side.
        let low = usize::from(ends[0] > ends[1]);
        let [a, b] = [ends[low], ends[1 - low]];
        let [from, to] = [a, b].map(|v| self.model.mesh.position(v));
        let (start, end) = (self.mirror.before(from), self.mirror.before(to));
        let share = start / (start - end);
        let (model, mirror, rebuild) = (self.model, self.mirror, &mut self.rebuild);
        let vertex = *self.on_edge.entry([a, b]).or_insert_with(|| {
            let colors = model.attributes.colors.as_ref();
            let color = colors.map(|colors| {
                let [p, q] = [a, b].map(|v| colors[v.index()]);
                [0, 1, 2, 3].map(|i| p[i] + (q[i] - p[i]) * share as f32)
            });
            let at = mirror.onto(from.lerp(to, share));
            rebuild.colored_vertex(at, a, color)
        });
        let of = [(corners[low], 1.0 - share), (corners[1 - low], share)];
        (self.rebuild.blended(of.into_iter()), vertex)
    }
}

/// Whether what lies behind the mirror has the UVs of its image.
fn share_uvs(
    model: &Model,
    mirror: &Mirror,
    (triangles, faces): (&[[VertexId; 3]], &[FaceId]),
    sides: &[i8],
) -> bool {
    if model.attributes.uvs.is_none() {
        return true;
    }
    let mesh = &model.mesh;
    let points = |t: usize| triangles[t].map(|v| mesh.position(v));
    let tree = TriangleTree::new(triangles.len(), points);
    let uv_at = |uvs: &CornerLayer<DVec2>, t: usize, place: DVec3| -> Option<DVec2> {
        let mut range = mesh.face_range(faces[t]);
        let mut uv = DVec2::ZERO;
        for (v, share) in triangles[t].iter().zip(shares(points(t), place)) {
            let corner = range.clone().find(|&c| mesh.corners()[c] == *v)?;
            uv += uvs.at(corner)? * share;
        }
        range.next().map(|_| uv)
    };
    let behind = |t: &usize| triangles[*t].iter().all(|v| sides[v.index()] <= 0);
    let stride = (triangles.len() / ASKED).max(1);
    let asked: Vec<usize> = (0..triangles.len())
        .step_by(stride)
        .filter(behind)
        .collect();
    all(asked.len(), 1, |i| {
        let t = asked[i];
        let middle = points(t).iter().sum::<DVec3>() / 3.0;
        let Some(found) = tree.closest(mirror.image(middle)) else {
            return true;
        };
        let (image, place) = (found.triangle as usize, found.point);
        let mut sets = model.attributes.uv_sets();
        sets.all(
            |uvs| match (uv_at(uvs, t, middle), uv_at(uvs, image, place)) {
                (Some(own), Some(image)) => own.distance(image) <= SAME_UV,
                (own, image) => own.is_none() == image.is_none(),
            },
        )
    })
}
