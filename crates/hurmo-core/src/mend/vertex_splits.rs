//! Vertices of their own for sheets that come apart.
//!
//! Round every vertex each set of joined corners but the first gets a vertex of its own. Where both
//! ends of an edge hold its pairs of sides together by other faces, each pair gets a point of its
//! own in the middle of the edge.

use super::side_pairs::Kept;
use crate::mesh::{FaceId, Mesh, Model, Rebuild, VertexId};
use crate::topology::{Edges, Fans, Side};
use crate::triangulate::polygon;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

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

/// Where vertices are to be taken apart.
pub(super) struct Cuts<'c> {
    /// Whether that is at a vertex.
    pub at: &'c [bool],
    /// Sides, named by their corner, that get a point in the middle: one for those of the same number.
    pub middles: &'c FxHashMap<usize, usize>,
    /// Sides, named by their corner, that come off without a partner.
    pub alone: &'c FxHashSet<usize>,
}

/// Gives each set of corners but the first, where it is cut, a vertex of its own, moved `gap` into what
/// its faces enclose, or along them where they are open there.
pub(super) fn with_own_vertices(
    model: &Model,
    edges: &Edges,
    fans: &mut Fans,
    cuts: &Cuts<'_>,
    gap: f64,
) -> Model {
    let mesh = &model.mesh;
    let (cut_here, middles) = (cuts.at, cuts.middles);
    let inward = ways_in(mesh, edges, fans, cuts);
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
                    rebuild.new_vertex(at + inward[&root] * gap, vertex)
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

/// Where the points in the middle of edges go: `gap` into what the faces of their own pair enclose.
fn middle_points(mesh: &Mesh, middles: &FxHashMap<usize, usize>, gap: f64) -> Vec<DVec3> {
    let count = middles.values().max().map_or(0, |most| most + 1);
    let mut all = vec![(DVec3::ZERO, Fan::default()); count];
    let owners = owners_of(mesh, middles.keys().copied());
    for (&corner, &pair) in middles {
        let face = owners[&corner];
        let next = mesh.next_corner(face, corner);
        let ends = [corner, next].map(|corner| mesh.position(mesh.corners()[corner]));
        let (sum, around) = &mut all[pair];
        *sum += (ends[0] + ends[1]) / 2.0;
        around.add(mesh, face, 1.0);
    }
    let point = |(sum, mut around): (DVec3, Fan)| {
        let at = sum / around.count;
        around.is_open = around.count < 2.0;
        at + around.way_in(at) * gap
    };
    all.into_iter().map(point).collect()
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

/// Faces round a place, summed up.
#[derive(Clone, Copy, Default)]
struct Fan {
    middles: DVec3,
    count: f64,
    normals: DVec3,
    weight: f64,
    is_open: bool,
}

impl Fan {
    fn add(&mut self, mesh: &Mesh, face: FaceId, weight: f64) {
        self.middles += mesh.face_middle(face);
        self.count += 1.0;
        let normal = crate::measure::vector_area(mesh, face).normalize_or_zero();
        self.normals += normal * weight;
        self.weight += weight;
    }

    /// The way from a place into what the faces enclose. A flat fan that moved along its faces would stay on
    /// what it touches. Open fans, and those whose normals cancel out, move along their faces.
    fn way_in(&self, at: DVec3) -> DVec3 {
        const CANCELLED: f64 = 1e-3;
        match self.is_open || self.normals.length() <= CANCELLED * self.weight {
            true => (self.middles / self.count - at).normalize_or_zero(),
            false => -self.normals.normalize(),
        }
    }
}

/// For each set of corners at the vertices that are cut, the way into what its faces enclose.
fn ways_in(
    mesh: &Mesh,
    edges: &Edges,
    fans: &mut Fans,
    cuts: &Cuts<'_>,
) -> FxHashMap<usize, DVec3> {
    let mut around: FxHashMap<usize, (VertexId, Fan)> = FxHashMap::default();
    for face in mesh.face_ids() {
        let range = mesh.face_range(face);
        for corner in range.clone() {
            let vertex = mesh.corners()[corner];
            if !cuts.at[vertex.index()]
                || !fans.is_pinched(vertex)
                || edges.at_corner(corner).is_none()
            {
                continue;
            }
            let before = if corner == range.start {
                range.end
            } else {
                corner
            } - 1;
            let next = mesh.next_corner(face, corner);
            let at = mesh.position(vertex);
            let [u, v] = [before, next].map(|c| mesh.position(mesh.corners()[c]) - at);
            let (_, here) = around
                .entry(fans.root(corner))
                .or_insert((vertex, Fan::default()));
            here.add(mesh, face, u.angle_between(v).max(f64::MIN_POSITIVE));
            let ends_sheet = |corner: usize| {
                let edge = edges.at_corner(corner);
                cuts.alone.contains(&corner) || edge.is_none_or(|edge| edges.sides(edge).len() == 1)
            };
            here.is_open |= ends_sheet(corner) || ends_sheet(before);
        }
    }
    let way = |(root, (vertex, around)): (usize, (VertexId, Fan))| {
        (root, around.way_in(mesh.position(vertex)))
    };
    around.into_iter().map(way).collect()
}
