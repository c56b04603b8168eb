//! Closing rims with new faces.
//!
//! ```text
//! rim ─┬─ up to 256 edges ──────────────▶ least total area (Barequet & Sharir 1995)
//!      ├─ longer, flat, doesn't cross ──▶ ears cut off in the plane
//!      └─ longer, ragged ───────────────▶ least area over samples, then between them
//!            └─▶ edges flipped to better triangles ─▶ faces
//! ```
//!
//! New faces wind like the faces along the rim. No diagonal is laid where the model has an
//! edge already, so that no edge gets a third side; where that leaves no way to close the rim,
//! a new vertex in its middle does. Cost: O(n³) up to 256 edges, O(n²) beyond.

mod patch;

use crate::mesh::{FaceId, Mesh, Model, Rebuild, RimId, VertexId};
use crate::progress::Observer;
use crate::topology::{Edges, Rim, Rims};
use glam::DVec3;
use rustc_hash::FxHashSet;
use serde::Serialize;
use std::ops::RangeInclusive;

/// Which rims to close: those that meet every condition.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// Only these, by index; empty: any.
    pub rims: Vec<RangeInclusive<usize>>,
    /// Only those of at most so many edges.
    pub up_to_edges: Option<usize>,
    /// Only those of at most this length, in model units.
    pub up_to_length: Option<f64>,
}

impl Options {
    fn wants(&self, name: usize, rim: &Rim) -> bool {
        (self.rims.is_empty() || self.rims.iter().any(|range| range.contains(&name)))
            && self
                .up_to_edges
                .is_none_or(|limit| rim.edges.len() <= limit)
            && self.up_to_length.is_none_or(|limit| rim.length <= limit)
    }
}

/// A rim that was closed.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Filled {
    /// Its name before.
    pub rim: RimId,
    /// How many edges it had.
    pub edges: usize,
    /// How many faces were added.
    pub faces: usize,
    /// Their area, in square units.
    pub area: f64,
}

/// A rim that was left, and why.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Left {
    /// Its name.
    pub rim: RimId,
    /// How many edges it has.
    pub edges: usize,
    /// The reason.
    pub reason: &'static str,
}

/// A model with rims closed.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// The model.
    pub model: Model,
    /// What was closed, by name.
    pub filled: Vec<Filled>,
    /// What was asked for and could not be closed.
    pub left: Vec<Left>,
    /// How many rims were not asked for.
    pub not_asked: usize,
    /// How many chains of open edges are no rims: they end at non-manifold edges.
    pub broken_chains: usize,
}

/// Closes rims.
pub fn fill(model: &Model, options: &Options, observer: &dyn Observer) -> Outcome {
    let mesh = &model.mesh;
    let edges = Edges::of(mesh);
    let rims = Rims::of(mesh, &edges);
    observer.begin("filling", rims.closed.len() as u64);
    let mut chords = edges_between_rims(mesh, &edges, &rims);
    let mut rebuild = Rebuild::new(model);
    mesh.face_ids().for_each(|face| rebuild.keep(face));
    let (mut filled, mut left) = (Vec::new(), Vec::new());
    let mut not_asked = 0;
    for (name, rim) in rims.closed.iter().enumerate() {
        observer.at(name as u64);
        if observer.cancelled() {
            break;
        }
        if !options.wants(name, rim) {
            not_asked += 1;
            continue;
        }
        let border = Border::of(mesh, &edges, rim);
        let rim_name = RimId::new(name);
        if let Some(reason) = border.unfit(mesh) {
            left.push(Left {
                rim: rim_name,
                edges: rim.edges.len(),
                reason,
            });
            continue;
        }
        let before = rebuild.face_count();
        let area = close(&mut rebuild, mesh, &border, &mut chords);
        filled.push(Filled {
            rim: rim_name,
            edges: rim.edges.len(),
            faces: rebuild.face_count() - before,
            area,
        });
    }
    Outcome {
        model: rebuild.finish(),
        filled,
        left,
        not_asked,
        broken_chains: rims.broken.len(),
    }
}

/// A rim in the direction in which new faces must run it.
struct Border {
    vertices: Vec<VertexId>,
    /// The face along each edge, from vertex `i` to the next.
    faces: Vec<FaceId>,
}

impl Border {
    fn of(mesh: &Mesh, edges: &Edges, rim: &Rim) -> Self {
        let mut vertices = rim.vertices.clone();
        let mut faces = Vec::with_capacity(vertices.len());
        let mut agree = 0i64;
        for (&edge, &from) in rim.edges.iter().zip(&vertices) {
            let side = edges.sides(edge)[0];
            faces.push(side.face);
            let runs_from_here = mesh.corners()[side.corner()] == from;
            agree += if runs_from_here { -1 } else { 1 };
        }
        if agree < 0 {
            vertices.reverse();
            // Edge i now runs from the new vertex i to the next.
            faces.reverse();
            faces.rotate_left(1);
        }
        Self { vertices, faces }
    }

    /// Why this can't be closed, if it can't.
    fn unfit(&self, mesh: &Mesh) -> Option<&'static str> {
        match self.vertices.len() {
            0..3 => Some("it has fewer than three edges"),
            3 if self.faces.iter().all(|&f| f == self.faces[0])
                && mesh.face(self.faces[0]).len() == 3 =>
            {
                Some("it is the border of a single triangle, which would be doubled")
            }
            _ => None,
        }
    }
}

type Chords = FxHashSet<[VertexId; 2]>;

fn chord(a: VertexId, b: VertexId) -> [VertexId; 2] {
    if a < b { [a, b] } else { [b, a] }
}

/// Every edge between two vertices that lie on rims.
fn edges_between_rims(mesh: &Mesh, edges: &Edges, rims: &Rims) -> Chords {
    let mut on_rim = vec![false; mesh.vertex_count()];
    for vertex in rims.closed.iter().flat_map(|rim| &rim.vertices) {
        on_rim[vertex.index()] = true;
    }
    edges
        .ids()
        .map(|edge| edges.ends(edge))
        .filter(|ends| ends.iter().all(|v| on_rim[v.index()]))
        .collect()
}

/// Adds the faces that close a border; returns their area.
fn close(rebuild: &mut Rebuild<'_>, mesh: &Mesh, border: &Border, chords: &mut Chords) -> f64 {
    let points: Vec<DVec3> = border.vertices.iter().map(|&v| mesh.position(v)).collect();
    let taken = |i: u32, j: u32| {
        chords.contains(&chord(
            border.vertices[i as usize],
            border.vertices[j as usize],
        ))
    };
    let mut area = 0.0;
    let count = points.len();
    if let Some(triangles) = patch::closed(&points, &taken) {
        for triangle in triangles {
            let corners = triangle.map(|i| points[i as usize]);
            area += crate::measure::vector_area_of(corners.into_iter()).length();
            let vertices = triangle.map(|i| border.vertices[i as usize]);
            // The group and material of the face along its side of the rim, if it has one.
            let along = (0..3).find(|&k| (triangle[k] + 1) % count as u32 == triangle[(k + 1) % 3]);
            let like = border.faces[along.map_or(0, |k| triangle[k] as usize)];
            rebuild.new_face(like, &vertices);
            for k in 0..3 {
                chords.insert(chord(vertices[k], vertices[(k + 1) % 3]));
            }
        }
        return area;
    }
    let middle = points.iter().sum::<DVec3>() / count as f64;
    let centre = rebuild.new_vertex(middle, border.vertices[0]);
    for i in 0..count {
        let next = (i + 1) % count;
        rebuild.new_face(
            border.faces[i],
            &[border.vertices[i], border.vertices[next], centre],
        );
        area += (points[i] - middle).cross(points[next] - middle).length() / 2.0;
    }
    area
}

#[cfg(test)]
mod tests;
