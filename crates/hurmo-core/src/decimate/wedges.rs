//! Wedges: what the corners at a vertex have in common, and where they part.
//!
//! The triangles at a vertex that belong to one group and material, agree on its UVs and are not
//! parted by a hard edge form a wedge (Hoppe 1998). Edges on which wedges part are *lines*: UV
//! seams, borders of groups and materials, hard edges. A vertex on a line may move along it only;
//! where lines meet or end it stays. When an edge becomes a vertex, the wedges on each of its
//! sides become one. Its UV is that of the least squares among what all triangles that it has
//! taken in would have there, each going on as it does (the attribute part of Hoppe's 1999
//! quadric, with the place given), so that a texture doesn't slide however many collapses follow
//! each other.
//! Cost: some steps for each triangle round a vertex; 12 bytes a triangle, and 88 a wedge for each
//! set of UVs.

mod layers;

use super::cracks::Cracks;
use super::uv_set::UvSet;
use crate::mesh::{FaceId, Model, VertexId};
use crate::topology::LinkedMesh;
use glam::{DVec2, DVec3};
use rustc_hash::FxHashMap;
use smallvec::SmallVec;

/// Faces whose normals at a corner differ are parted by a hard edge where the surface itself
/// turns by more than this cosine's angle, 20°; else it is smooth and only shaded otherwise.
const HARD: f64 = 0.94;
/// The cosine from which on two normals are the same.
const SAME_NORMAL: f64 = 0.999_8;

/// The wedges of a linked mesh.
#[derive(Clone)]
pub(super) struct Wedges {
    /// By corner of the linked mesh.
    of_corner: Vec<u32>,
    /// Its UVs, by set.
    uv_sets: Vec<UvSet>,
    count: usize,
    /// By wedge, the vertex of the model that its corners were at; empty where no cracks are.
    sides: Vec<u32>,
    has_normals: bool,
    /// What places are measured from, for precision.
    centre: DVec3,
}

/// What becomes of wedges when an edge becomes a vertex: which takes in which.
pub(super) struct Merge {
    pairs: SmallVec<[(u32, u32); 2]>,
    /// By set of UVs, what each pair then has.
    uvs: SmallVec<[SmallVec<[DVec2; 2]>; 1]>,
}

impl Wedges {
    /// Of a model's triangles over the linked mesh; `from` says of which face each is. `None` where
    /// nothing parts and nothing is to be carried.
    pub fn of(
        model: &Model,
        linked: &LinkedMesh,
        (triangles, cracks): (&[[VertexId; 3]], Option<&Cracks>),
        from: &[FaceId],
        centre: DVec3,
    ) -> Option<Self> {
        let attributes = &model.attributes;
        let tags = &attributes.tags.of_face;
        let one_tag = tags.windows(2).all(|pair| pair[0] == pair[1]);
        if one_tag && !attributes.has_corner_layers() && cracks.is_none() {
            return None;
        }
        let vertex_of = |corner: u32| triangles[corner as usize / 3][corner as usize % 3];
        let source = |corner: u32| {
            let mut corners = model.mesh.face_range(from[corner as usize / 3]);
            let vertex = vertex_of(corner);
            corners.find(|&c| model.mesh.corners()[c] == vertex)
        };
        let uvs_differ = |corners: [u32; 2]| {
            let corners = corners.map(source);
            let mut sets = attributes.uv_sets();
            sets.any(|layer| {
                let [one, two] = corners.map(|corner| layer.at(corner?));
                one != two
            })
        };
        let parts = |one: u32, two: u32| {
            let faces = [one, two].map(|corner| from[corner as usize / 3].index());
            let tags_differ = !one_tag && tags[faces[0]] != tags[faces[1]];
            let is_crack = cracks.is_some() && vertex_of(one) != vertex_of(two);
            is_crack
                || tags_differ
                || uvs_differ([one, two])
                || is_hard(model, linked, [one, two], source)
        };
        let mut wedges = Self {
            of_corner: vec![u32::MAX; triangles.len() * 3],
            uv_sets: vec![UvSet::default(); attributes.uv_sets().count()],
            count: 0,
            sides: Vec::new(),
            has_normals: attributes.normals.is_some(),
            centre,
        };
        let mut around: Vec<(u32, [u32; 2])> = Vec::new();
        for vertex in 0..linked.positions.len() as u32 {
            around.clear();
            around.extend(
                linked
                    .corners_at(vertex)
                    .map(|(corner, [_, x, y])| (corner, [x, y])),
            );
            // Corner by corner, what it joins takes the number of the first.
            for i in 0..around.len() {
                let (first, _) = around[i];
                if wedges.of_corner[first as usize] != u32::MAX {
                    continue;
                }
                if cracks.is_some() {
                    wedges.sides.push(vertex_of(first).0);
                }
                let corner = source(first);
                for (set, layer) in wedges.uv_sets.iter_mut().zip(attributes.uv_sets()) {
                    set.push(corner.and_then(|corner| layer.at(corner)));
                }
                wedges.number_from(i, &around, parts);
            }
        }
        wedges.take_fits(linked);
        Some(wedges)
    }

    /// Makes a wedge of a corner at a vertex and what it reaches from there without being parted.
    /// `around`: all corners there, each with the others of its triangle.
    fn number_from(
        &mut self,
        first: usize,
        around: &[(u32, [u32; 2])],
        parts: impl Fn(u32, u32) -> bool,
    ) {
        let wedge = self.count as u32;
        self.count += 1;
        self.of_corner[around[first].0 as usize] = wedge;
        let mut waiting = vec![first];
        while let Some(here) = waiting.pop() {
            let (corner, [x, y]) = around[here];
            for (there, &(other, [p, q])) in around.iter().enumerate() {
                let beside = (p == y && q != x) || (q == x && p != y);
                let is_new = self.of_corner[other as usize] == u32::MAX;
                if beside && is_new && !parts(corner, other) {
                    self.of_corner[other as usize] = wedge;
                    waiting.push(there);
                }
            }
        }
    }

    /// Sums up how UVs go on over the triangles of each wedge.
    fn take_fits(&mut self, linked: &LinkedMesh) {
        if self.uv_sets.is_empty() {
            return;
        }
        for t in 0..linked.places() as u32 {
            if let Some(triangle) = linked.triangle(t) {
                let own = self.of_triangle(3 * t);
                let points = linked.points(triangle).map(|point| point - self.centre);
                self.uv_sets
                    .iter_mut()
                    .for_each(|set| set.take_in(points, own));
            }
        }
    }

    /// Those of some triangles, numbered anew, and by the new number the old.
    pub fn part(&self, triangles: &[u32]) -> (Self, Vec<u32>) {
        let mut names: Vec<u32> = Vec::new();
        let mut new: FxHashMap<u32, u32> = FxHashMap::default();
        let corners = triangles.iter().flat_map(|&t| self.of_triangle(3 * t));
        let of_corner = corners
            .map(|wedge| {
                *new.entry(wedge).or_insert_with(|| {
                    names.push(wedge);
                    names.len() as u32 - 1
                })
            })
            .collect();
        let part = Self {
            of_corner,
            uv_sets: self.uv_sets.iter().map(|set| set.part(&names)).collect(),
            count: names.len(),
            sides: match self.sides[..] {
                [] => Vec::new(),
                _ => names.iter().map(|&w| self.sides[w as usize]).collect(),
            },
            ..*self
        };
        (part, names)
    }

    /// Takes in what became of a part, but for its corners.
    pub fn take_back(&mut self, part: &Self, names: &[u32]) {
        for (set, part) in self.uv_sets.iter_mut().zip(&part.uv_sets) {
            set.take_back(part, names);
        }
    }

    /// Sets the wedge of every corner of a linked mesh.
    pub fn set_corners(&mut self, of_corner: Vec<u32>) {
        self.of_corner = of_corner;
    }

    /// The wedge of a corner of the linked mesh.
    #[inline]
    pub fn at(&self, corner: u32) -> u32 {
        self.of_corner[corner as usize]
    }

    /// The wedges of all three corners of a triangle, beginning with this one.
    #[inline]
    pub fn of_triangle(&self, corner: u32) -> [u32; 3] {
        [0, 1, 2].map(|i| self.at(step(corner, i)))
    }

    /// Whether two wedges at one vertex are on two sides of a crack.
    pub fn are_cracked(&self, one: u32, two: u32) -> bool {
        !self.sides.is_empty() && self.sides[one as usize] != self.sides[two as usize]
    }

    /// The wedges at both ends of each side of an edge, as the triangles there have them.
    fn sides(&self, linked: &LinkedMesh, keep: u32, gone: u32) -> SmallVec<[[u32; 2]; 2]> {
        let corners = linked.corners_at(gone).filter_map(|(corner, [_, x, y])| {
            let other = [x, y].iter().position(|&v| v == keep)? as u32;
            Some([self.at(step(corner, other + 1)), self.at(corner)])
        });
        corners.collect()
    }

    /// Whether an edge with two sides is a line.
    pub fn is_line(&self, linked: &LinkedMesh, a: u32, b: u32) -> bool {
        let (a, b) = if linked.degree(a) < linked.degree(b) {
            (b, a)
        } else {
            (a, b)
        };
        matches!(self.sides(linked, a, b)[..], [one, two] if one != two)
    }

    /// Whether there is more than one wedge at a vertex.
    pub fn part_at(&self, linked: &LinkedMesh, vertex: u32) -> bool {
        let mut all = linked.corners_at(vertex).map(|(corner, _)| self.at(corner));
        let first = all.next();
        all.any(|wedge| Some(wedge) != first)
    }

    /// What becomes of the wedges when an edge becomes a vertex at this place; `None` where that
    /// would turn a triangle's UVs over, or close a line on itself.
    pub fn merge(&self, linked: &LinkedMesh, keep: u32, gone: u32, at: DVec3) -> Option<Merge> {
        for (_, [_, x, y]) in linked.on_edge(gone, keep) {
            let third = if x == keep { y } else { x };
            if self.is_line(linked, third, keep) && self.is_line(linked, third, gone) {
                return None;
            }
        }
        let mut sides = self.sides(linked, keep, gone);
        sides.sort_unstable();
        sides.dedup();
        // Every wedge of the vertex that goes must become one other.
        let passes = |wedge: u32| sides.iter().filter(|side| side[1] == wedge).count() == 1;
        if !linked
            .corners_at(gone)
            .all(|(corner, _)| passes(self.at(corner)))
        {
            return None;
        }
        let mut merge = Merge {
            pairs: sides.iter().map(|&[kept, lost]| (kept, lost)).collect(),
            uvs: SmallVec::new(),
        };
        for set in &self.uv_sets {
            let uvs = sides.iter().map(|&side| {
                // A vertex that stays where it is keeps its UV.
                let mut ends = [keep, gone].into_iter().zip(side);
                let end = ends.find(|(end, _)| linked.positions[*end as usize] == at);
                match end {
                    Some((_, wedge)) => set.at(wedge),
                    None => set.joined(side, at - self.centre),
                }
            });
            merge.uvs.push(uvs.collect());
        }
        let stays = linked.positions[keep as usize] == at;
        let ends = [(gone, keep), (keep, gone)];
        // What stays where it is keeps its UVs, and so do the triangles there.
        let ends = if stays { &ends[..1] } else { &ends[..] };
        (self.uv_sets.is_empty() || self.keeps_uvs(linked, ends, &merge)).then_some(merge)
    }

    /// Whether no triangle's UVs turn over at ends of an edge, each given with the other.
    fn keeps_uvs(&self, linked: &LinkedMesh, ends: &[(u32, u32)], merge: &Merge) -> bool {
        let mut corners = ends.iter().flat_map(|&(here, other)| {
            let all = linked.corners_at(here);
            let stay = all.filter(move |(_, [_, x, y])| *x != other && *y != other);
            stay.map(|(corner, _)| corner)
        });
        corners.all(|corner| {
            let wedges = self.of_triangle(corner);
            let own = |pair: &(u32, u32)| pair.0 == wedges[0] || pair.1 == wedges[0];
            let Some(pair) = merge.pairs.iter().position(own) else {
                return true;
            };
            let mut sets = self.uv_sets.iter().zip(&merge.uvs);
            sets.all(|(set, uvs)| !set.turns_with(wedges, uvs[pair]))
        })
    }

    /// Whether a triangle's UVs would turn over when its corners move by so much.
    pub fn would_turn(&self, triangle: u32, by: [DVec3; 3]) -> bool {
        let own = self.of_triangle(3 * triangle);
        self.uv_sets.iter().any(|set| set.would_turn(own, by))
    }

    /// Whether UVs turn over where an edge between the first two of four wedges is turned to lie
    /// between the others.
    pub fn turns_over(&self, wedges: [u32; 4]) -> bool {
        self.uv_sets.iter().any(|set| set.turns_over(wedges))
    }

    /// Sets the wedges of a triangle.
    pub fn set_triangle(&mut self, triangle: u32, wedges: [u32; 3]) {
        let at = 3 * triangle as usize;
        self.of_corner[at..at + 3].copy_from_slice(&wedges);
    }

    /// Lets UVs go on over the surface as vertices move, before they do.
    pub fn shift(&mut self, linked: &LinkedMesh, moves: &[DVec3]) {
        if self.uv_sets.is_empty() {
            return;
        }
        let mut done = vec![false; self.count];
        for t in 0..linked.places() as u32 {
            let Some(triangle) = linked.triangle(t) else {
                continue;
            };
            for (wedge, vertex) in self.of_triangle(3 * t).into_iter().zip(triangle) {
                if !std::mem::replace(&mut done[wedge as usize], true) {
                    let by = moves[vertex as usize];
                    self.uv_sets.iter_mut().for_each(|set| set.shift(wedge, by));
                }
            }
        }
    }

    /// Carries out what was planned; the linked mesh has not been changed yet.
    pub fn apply(&mut self, linked: &LinkedMesh, gone: u32, merge: &Merge) {
        for (set, uvs) in self.uv_sets.iter_mut().zip(&merge.uvs) {
            for (&(kept, lost), &uv) in merge.pairs.iter().zip(uvs) {
                set.join(kept, lost, uv);
            }
        }
        for (corner, _) in linked.corners_at(gone) {
            let own = self.of_corner[corner as usize];
            if let Some(pair) = merge.pairs.iter().find(|pair| pair.1 == own) {
                self.of_corner[corner as usize] = pair.0;
            }
        }
    }
}

/// Another corner of the same triangle, this many further round.
#[inline]
fn step(corner: u32, by: u32) -> u32 {
    corner / 3 * 3 + (corner % 3 + by) % 3
}

/// Whether the surface turns sharply between two triangles, and their normals at a vertex do.
fn is_hard(
    model: &Model,
    linked: &LinkedMesh,
    corners: [u32; 2],
    source: impl Fn(u32) -> Option<usize>,
) -> bool {
    let Some(layer) = &model.attributes.normals else {
        return false;
    };
    let normal = |corner: u32| layer.at(source(corner)?);
    let (Some(one), Some(two)) = (normal(corners[0]), normal(corners[1])) else {
        return false;
    };
    if one.dot(two) >= SAME_NORMAL * one.length() * two.length() {
        return false;
    }
    let [one, two] = corners.map(|corner| {
        let triangle = linked.triangle(corner / 3);
        triangle.map_or(DVec3::ZERO, |triangle| {
            let [a, b, c] = linked.points(triangle);
            (b - a).cross(c - a)
        })
    });
    one.dot(two) < HARD * one.length() * two.length()
}
