//! What may be done about one thin triangle, by what lies round it.

use super::Thin;
use crate::mesh::{EdgeId, FaceId, Mesh, VertexId};
use crate::parallel::chosen;
use crate::topology::{Edges, Side};
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;
use std::cmp::Ordering;

/// The cosine of the most that a face may turn.
const MOST_TURN: f64 = 0.7;

/// What is to be done with a face.
pub(super) enum Treatment {
    Drop,
    /// One vertex becomes another.
    Join {
        stays: VertexId,
        goes: VertexId,
    },
    /// Face `to` takes `corner` in behind its corner `after`.
    Give {
        to: FaceId,
        after: usize,
        corner: usize,
    },
}

/// The faces at the corners of some faces.
pub(super) struct Surroundings<'m> {
    mesh: &'m Mesh,
    /// Their edges: all sides are there of those at the corners.
    edges: Edges,
    at: FxHashMap<VertexId, Vec<FaceId>>,
}

impl<'m> Surroundings<'m> {
    /// Of these faces.
    pub fn of(mesh: &'m Mesh, faces: &[FaceId]) -> Self {
        let mut is_at = vec![false; mesh.vertex_count()];
        for vertex in faces.iter().flat_map(|&face| mesh.face(face)) {
            is_at[vertex.index()] = true;
        }
        let faces = chosen(mesh.face_count(), 4096, |face| {
            let face = FaceId::new(face);
            let is_here = |v: &VertexId| is_at[v.index()];
            mesh.face(face).iter().any(is_here).then_some(face)
        });
        let mut at: FxHashMap<VertexId, Vec<FaceId>> = FxHashMap::default();
        for &face in &faces {
            for vertex in mesh.face(face).iter().filter(|v| is_at[v.index()]) {
                at.entry(*vertex).or_default().push(face);
            }
        }
        Self {
            mesh,
            edges: Edges::of_faces(mesh, &faces),
            at,
        }
    }

    /// The vertices next to a vertex.
    fn neighbours(&self, vertex: VertexId) -> FxHashSet<VertexId> {
        let mut found = FxHashSet::default();
        for &face in &self.at[&vertex] {
            let corners = self.mesh.face(face);
            for (i, _) in corners.iter().enumerate().filter(|(_, v)| **v == vertex) {
                found.insert(corners[(i + 1) % corners.len()]);
                found.insert(corners[(i + corners.len() - 1) % corners.len()]);
            }
        }
        found
    }

    /// A face's vertices and those next to them.
    pub fn ring(&self, face: FaceId) -> Vec<VertexId> {
        let corners = self.mesh.face(face);
        let next = corners.iter().flat_map(|&v| self.neighbours(v));
        corners.iter().copied().chain(next).collect()
    }

    /// Whether no other face has an edge of this one.
    pub fn is_alone(&self, face: FaceId) -> bool {
        let edges = self
            .mesh
            .face_range(face)
            .map(|corner| self.edges.at_corner(corner));
        edges
            .flatten()
            .all(|edge| self.edges.sides(edge).len() == 1)
    }

    /// What takes a face out without leaving a hole, if anything does.
    pub fn treatment(&self, face: FaceId, thin: &Thin<'_>) -> Option<Treatment> {
        let first = self.mesh.face_range(face).start;
        let vertices = self.mesh.face(face);
        let edges = &self.edges;
        let edge_at = |i: usize| edges.at_corner(first + i).expect("no vertex is repeated");
        let length = |i: usize| {
            let [a, b] = [i, (i + 1) % 3].map(|i| self.mesh.position(vertices[i]));
            a.distance(b)
        };
        if (0..3).all(|i| edges.sides(edge_at(i)).len() != 2) {
            return (!thin.careful).then_some(Treatment::Drop);
        }
        let longest = (0..3).max_by(|&i, &j| length(i).total_cmp(&length(j)))?;
        let shortest = (0..3).min_by(|&i, &j| length(i).total_cmp(&length(j)))?;
        if length(shortest) <= length(longest) * thin.needle {
            let joined = self.join(vertices[shortest], vertices[(shortest + 1) % 3], thin);
            if joined.is_some() || !thin.careful {
                return joined;
            }
        }
        let mut tiny: SmallVec<[usize; 3]> =
            (0..3).filter(|&i| length(i) <= 2.0 * thin.tiny).collect();
        tiny.sort_by(|&i, &j| length(i).total_cmp(&length(j)));
        let joined = |i: usize| self.join(vertices[i], vertices[(i + 1) % 3], thin);
        let mut joined = tiny.into_iter().filter_map(joined);
        if let Some(joined) = joined.find(|joined| !self.turns_a_face(joined, thin)) {
            return Some(joined);
        }
        match edges.sides(edge_at(longest)) {
            [_] => (!thin.careful).then_some(Treatment::Drop),
            &[one, two] => {
                let across = if one.face == face { two } else { one };
                self.give(face, longest, across, thin)
            }
            _ => None,
        }
    }

    /// Whether a face that has area would look the other way once one vertex has become another.
    fn turns_a_face(&self, treatment: &Treatment, thin: &Thin<'_>) -> bool {
        let &Treatment::Join { stays, goes } = treatment else {
            return false;
        };
        self.at[&goes].iter().any(|&face| {
            let corners = self.mesh.face(face);
            let place = |v: &VertexId| self.mesh.position(if *v == goes { stays } else { *v });
            let now: Vec<DVec3> = self.mesh.face_points(face).collect();
            let then: Vec<DVec3> = corners.iter().map(place).collect();
            !corners.contains(&stays)
                && !(thin.is_bad)(self.mesh, face)
                && normal(&now).dot(normal(&then)) <= 0.0
        })
    }

    fn join(&self, a: VertexId, b: VertexId, thin: &Thin<'_>) -> Option<Treatment> {
        let (low, high) = (a.min(b), a.max(b));
        let (near_low, near_high) = (self.neighbours(low), self.neighbours(high));
        let shared = near_low.intersection(&near_high);
        let shared = shared.filter(|&&v| v != low && v != high).count();
        let edge = self.edges.between(low, high)?;
        let sides = self.edges.sides(edge);
        let is_triangle = |side: &&Side| self.mesh.face(side.face).len() == 3;
        if shared > sides.iter().filter(is_triangle).count() {
            return None;
        }
        if !thin.careful {
            return Some(Treatment::Join {
                stays: low,
                goes: high,
            });
        }
        let ways = [(low, high), (high, low)];
        let (turn, stays, goes) = ways
            .into_iter()
            .filter(|&(_, goes)| !self.is_on_border(goes))
            .filter_map(|(stays, goes)| Some((self.least_turn(stays, goes)?, stays, goes)))
            .max_by(|a, b| a.0.total_cmp(&b.0))?;
        (turn >= MOST_TURN).then_some(Treatment::Join { stays, goes })
    }

    /// Whether a vertex is on an edge that has not two sides.
    fn is_on_border(&self, vertex: VertexId) -> bool {
        let edges = &self.edges;
        self.at[&vertex].iter().any(|&face| {
            self.mesh.face_range(face).any(|corner| {
                edges.at_corner(corner).is_some_and(|edge| {
                    edges.ends(edge).contains(&vertex) && edges.sides(edge).len() != 2
                })
            })
        })
    }

    /// The cosine of the most that a face turns if one vertex becomes another; `None` if one
    /// becomes thinner than the thinnest of those at the two now, loses its area, or comes to lie
    /// on another.
    fn least_turn(&self, stays: VertexId, goes: VertexId) -> Option<f64> {
        let (mut least, mut thinnest_now, mut thinnest_then) = (1.0f64, 0.0f64, 0.0f64);
        let mut sets: Vec<Vec<VertexId>> = Vec::new();
        let mut faces: Vec<FaceId> = [stays, goes]
            .iter()
            .flat_map(|v| &self.at[v])
            .copied()
            .collect();
        faces.sort_unstable();
        faces.dedup();
        for face in faces {
            let corners = self.mesh.face(face);
            let mut after: Vec<VertexId> = corners
                .iter()
                .map(|&v| if v == goes { stays } else { v })
                .collect();
            after.dedup();
            if after.len() > 1 && after[0] == after[after.len() - 1] {
                after.pop();
            }
            let now: Vec<DVec3> = self.mesh.face_points(face).collect();
            if corners.contains(&goes) {
                thinnest_now = thinnest_now.max(thinness(&now));
            }
            if after.len() < 3 {
                continue;
            }
            if corners.contains(&goes) {
                let then: Vec<DVec3> = after.iter().map(|&v| self.mesh.position(v)).collect();
                thinnest_then = thinnest_then.max(thinness(&then));
                least = least.min(normal(&now).dot(normal(&then)));
            }
            after.sort_unstable();
            sets.push(after);
        }
        let count = sets.len();
        sets.sort_unstable();
        sets.dedup();
        (thinnest_then < thinnest_now && sets.len() == count).then_some(least)
    }

    fn give(
        &self,
        face: FaceId,
        longest: usize,
        across: Side,
        thin: &Thin<'_>,
    ) -> Option<Treatment> {
        let (mesh, edges) = (self.mesh, &self.edges);
        let vertices = mesh.face(face);
        let apex_corner = mesh.face_range(face).start + (longest + 2) % 3;
        let apex = mesh.corners()[apex_corner];
        let others = mesh.face(across.face);
        // A triangle that takes the apex in becomes two, with a new edge to its far corner.
        let crossing = others.len() == 3
            && others
                .iter()
                .any(|&v| !vertices.contains(&v) && edges.between(v, apex).is_some());
        let edge = edges.at_corner(across.corner())?;
        if crossing || edges.is_misoriented(edge) || others.contains(&apex) {
            return None;
        }
        let does_good = match thin.careful {
            true => self.halves_well(face, across, apex),
            false => self.gains(edge, across, apex, thin),
        };
        if !does_good {
            return None;
        }
        Some(Treatment::Give {
            to: across.face,
            after: across.corner(),
            corner: apex_corner,
        })
    }

    /// Whether fewer faces are bad once the one across has taken the apex of a bad one in; or as many, with
    /// shorter edges, whose sum only falls: such flips end.
    fn gains(&self, edge: EdgeId, across: Side, apex: VertexId, thin: &Thin<'_>) -> bool {
        let is_bad = (thin.is_bad)(self.mesh, across.face);
        if self.mesh.face(across.face).len() != 3 {
            return !is_bad;
        }
        let area = |half: &[DVec3; 3]| (half[1] - half[0]).cross(half[2] - half[0]).length() / 2.0;
        let halves = self.halves(across, apex);
        let then = halves
            .iter()
            .filter(|half| area(half) <= thin.tiny * thin.tiny);
        match then.count().cmp(&(1 + usize::from(is_bad))) {
            Ordering::Less => true,
            Ordering::Equal => self.shortens(edge, across, apex),
            Ordering::Greater => false,
        }
    }

    /// What a triangle becomes that takes a corner in.
    fn halves(&self, across: Side, apex: VertexId) -> [[DVec3; 3]; 2] {
        let mesh = self.mesh;
        let from = across.corner();
        let to = mesh.next_corner(across.face, from);
        let far = mesh.next_corner(across.face, to);
        let [from, to, far] = [from, to, far].map(|c| mesh.position(mesh.corners()[c]));
        let here = mesh.position(apex);
        [[from, here, far], [here, to, far]]
    }

    /// Whether the new edge that flips an edge is the shorter one.
    fn shortens(&self, edge: EdgeId, across: Side, apex: VertexId) -> bool {
        let mesh = self.mesh;
        let ends = self.edges.ends(edge);
        let far = mesh.face(across.face).iter().find(|v| !ends.contains(v));
        let length = |a: VertexId, b: VertexId| mesh.position(a).distance(mesh.position(b));
        far.is_some_and(|&far| length(far, apex) < length(ends[0], ends[1]))
    }

    /// Whether the face across is a triangle, and becomes two that hardly turn and are less thin
    /// than the one that gives it its apex.
    fn halves_well(&self, face: FaceId, across: Side, apex: VertexId) -> bool {
        let mesh = self.mesh;
        if mesh.face(across.face).len() != 3 {
            return false;
        }
        let up = normal(&mesh.face_points(across.face).collect::<Vec<_>>());
        let own: Vec<DVec3> = mesh.face_points(face).collect();
        self.halves(across, apex)
            .iter()
            .all(|half| normal(half).dot(up) >= MOST_TURN && thinness(half) < thinness(&own))
    }
}

fn normal(points: &[DVec3]) -> DVec3 {
    crate::geometry::vector_area_of(points.iter().copied()).normalize_or_zero()
}

/// How many times its height the longest edge is; of a polygon, about so.
fn thinness(points: &[DVec3]) -> f64 {
    let area = crate::geometry::vector_area_of(points.iter().copied()).length();
    let sides =
        (0..points.len()).map(|i| points[i].distance_squared(points[(i + 1) % points.len()]));
    sides.fold(0.0, f64::max) / (2.0 * area)
}
