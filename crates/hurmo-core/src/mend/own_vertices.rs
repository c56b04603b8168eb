//! Vertices of their own for sheets that come apart.
//!
//! Round every vertex each set of joined corners but the first gets a vertex of its own. Where both
//! ends of an edge hold its pairs of sides together by other faces, each pair gets a point of its
//! own in the middle of the edge.

use super::pairing::Kept;
use crate::mesh::{FaceId, Mesh, Model, Rebuild, VertexId};
use crate::topology::{Edges, Fans, Side};
use crate::triangulate::polygon;
use glam::DVec3;
use rustc_hash::FxHashMap;

/// The sides, by their corner, of pairs that get a point of their own in the middle of their edge,
/// since both ends are shared with another pair's; with the number of the pair.
pub(super) fn held_together(
    mesh: &Mesh,
    fans: &mut Fans,
    apart: &[Vec<Kept>],
) -> FxHashMap<usize, usize> {
    let mut middles = FxHashMap::default();
    let mut count = 0;
    for pairs in apart {
        let mut ends = |side: &Side| {
            let corner = side.corner();
            let next = mesh.next_corner(side.face, corner);
            let mut roots = [corner, next].map(|corner| fans.root(corner));
            if !side.runs_up() {
                roots.swap(0, 1);
            }
            roots
        };
        let all: Vec<[usize; 2]> = pairs.iter().map(|(side, _)| ends(side)).collect();
        for (i, (one, other)) in pairs.iter().enumerate() {
            let mut others = all.iter().enumerate().filter(|(k, _)| *k != i);
            if others.any(|(_, roots)| *roots == all[i]) {
                middles.insert(one.corner(), count);
                if let Some(other) = other {
                    middles.insert(other.corner(), count);
                }
                count += 1;
            }
        }
    }
    middles
}

/// Gives each set of corners but the first, at the vertices of `cut_here`, a vertex of its own,
/// moved `gap` into its own faces; and sides that are named by their corner a point in the middle,
/// one for those of the same number.
pub(super) fn with_own_vertices(
    model: &Model,
    edges: &Edges,
    fans: &mut Fans,
    (cut_here, middles): (&[bool], &FxHashMap<usize, usize>),
    gap: f64,
) -> Model {
    let mesh = &model.mesh;
    let inward = sheet_middles(mesh, edges, fans, cut_here);
    let between = middle_points(mesh, middles, gap);
    let mut rebuild = Rebuild::new(model);
    let mut own: FxHashMap<usize, VertexId> = FxHashMap::default();
    let mut own_middle: FxHashMap<usize, VertexId> = FxHashMap::default();
    let mut first_taken = vec![false; mesh.vertex_count()];
    for face in mesh.face_ids() {
        let range = mesh.face_range(face);
        let mut corners = Vec::with_capacity(range.len());
        for corner in range.clone() {
            let vertex = mesh.corners()[corner];
            let apart = cut_here[vertex.index()]
                && fans.is_pinched(vertex)
                && edges.at_corner(corner).is_some();
            let new = if apart {
                let root = fans.root(corner);
                *own.entry(root).or_insert_with(|| {
                    if !std::mem::replace(&mut first_taken[vertex.index()], true) {
                        return vertex;
                    }
                    let at = mesh.position(vertex);
                    let step = (inward[&root] - at).normalize_or_zero() * gap;
                    rebuild.new_vertex(at + step, vertex)
                })
            } else {
                vertex
            };
            corners.push((corner, new));
            if let Some(&pair) = middles.get(&corner) {
                let next = mesh.next_corner(face, corner);
                let point = *own_middle
                    .entry(pair)
                    .or_insert_with(|| rebuild.new_vertex(between[pair], vertex));
                let blend = [(corner, 0.5), (next, 0.5)];
                corners.push((rebuild.blended(blend.into_iter()), point));
            }
        }
        if corners.len() == range.len() || range.len() > 4 {
            rebuild.moved_piece(face, corners.into_iter());
            continue;
        }
        let points: Vec<DVec3> = corners.iter().map(|c| rebuild.position(c.1)).collect();
        for triangle in polygon(&points) {
            rebuild.moved_piece(face, triangle.into_iter().map(|i| corners[i as usize]));
        }
    }
    rebuild.finish()
}

/// Where the points in the middle of edges go: `gap` into the faces of their own pair.
fn middle_points(mesh: &Mesh, middles: &FxHashMap<usize, usize>, gap: f64) -> Vec<DVec3> {
    let count = middles.values().max().map_or(0, |most| most + 1);
    let mut sums = vec![(DVec3::ZERO, DVec3::ZERO, 0.0); count];
    let owners = owners_of(mesh, middles.keys().copied());
    for (&corner, &pair) in middles {
        let face = owners[&corner];
        let next = mesh.next_corner(face, corner);
        let ends = [corner, next].map(|corner| mesh.position(mesh.corners()[corner]));
        sums[pair].0 += (ends[0] + ends[1]) / 2.0;
        sums[pair].1 += mesh.face_middle(face);
        sums[pair].2 += 1.0;
    }
    let point = |(at, into, count): (DVec3, DVec3, f64)| {
        let (at, into) = (at / count, into / count);
        at + (into - at).normalize_or_zero() * gap
    };
    sums.into_iter().map(point).collect()
}

/// Of which face each of some corners is.
fn owners_of(mesh: &Mesh, corners: impl Iterator<Item = usize>) -> FxHashMap<usize, FaceId> {
    let starts = mesh.starts();
    corners
        .map(|corner| {
            let face = starts.partition_point(|&start| start as usize <= corner) - 1;
            (corner, FaceId::new(face))
        })
        .collect()
}

/// The middle of the faces of each sheet round the vertices that are cut.
fn sheet_middles(
    mesh: &Mesh,
    edges: &Edges,
    fans: &mut Fans,
    cut_here: &[bool],
) -> FxHashMap<usize, DVec3> {
    let mut sums: FxHashMap<usize, (DVec3, f64)> = FxHashMap::default();
    for face in mesh.face_ids() {
        for corner in mesh.face_range(face) {
            let vertex = mesh.corners()[corner];
            if cut_here[vertex.index()]
                && fans.is_pinched(vertex)
                && edges.at_corner(corner).is_some()
            {
                let sum = sums.entry(fans.root(corner)).or_default();
                sum.0 += mesh.face_middle(face);
                sum.1 += 1.0;
            }
        }
    }
    sums.into_iter()
        .map(|(root, (sum, count))| (root, sum / count))
        .collect()
}
