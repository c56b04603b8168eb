//! Rims as the model has them: sides of quads along a rim give way to the edges that were there.
//!
//! Vertices of quads on a rim become those of the model's rim that are nearest along it, in the same order. A side
//! becomes the edges between, and its quad is cut into quads and triangles; one that has shrunk to a vertex makes a
//! triangle of its quad.

use super::assembled::Assembled;
use crate::mesh::{Mesh, VertexId};
use crate::spatial::closest_on_triangle;
use crate::topology::{Edges, Rim, Rims};
use crate::triangulate::quads_and_triangles;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

/// Along a rim, steps go at most this share of it back.
const BACK: f64 = 0.25;

/// Gives a mesh the rims of the model that it was made of; and how many can't be given.
pub(super) fn give(made: &mut Assembled, model: &Mesh) -> usize {
    let wanted = Rims::of(model, &Edges::of(model));
    let own = Rims::of(&made.mesh, &Edges::of(&made.mesh));
    let lost = wanted.broken.len() + own.broken.len();
    let mut changes = Changes::default();
    let mut seen: FxHashMap<VertexId, usize> = FxHashMap::default();
    for v in own.closed.iter().flat_map(|rim| &rim.vertices) {
        *seen.entry(*v).or_default() += 1;
    }
    let mut is_taken = vec![false; wanted.closed.len()];
    for rim in &own.closed {
        let is_alone = rim.vertices.iter().all(|v| seen[v] == 1);
        let nearest = nearest_rim(&made.mesh, rim, model, &wanted.closed);
        if let Some(number) = nearest.filter(|&number| is_alone && !is_taken[number])
            && let Some(steps) = steps_along(&made.mesh, rim, model, &wanted.closed[number])
        {
            is_taken[number] = true;
            changes.add(&mut made.mesh, rim, model, &wanted.closed[number], &steps);
        }
    }
    changes.apply(made);
    lost + is_taken.iter().filter(|taken| !**taken).count()
}

/// The rim of a model that a rim of its quads runs along.
fn nearest_rim(mesh: &Mesh, rim: &Rim, model: &Mesh, rims: &[Rim]) -> Option<usize> {
    let at = mesh.position(*rim.vertices.first()?);
    let off = |rim: &Rim| -> f64 {
        let pieces = (0..rim.vertices.len()).map(|i| on_piece(model, rim, i, at).0);
        pieces.fold(f64::INFINITY, f64::min)
    };
    let all = rims
        .iter()
        .enumerate()
        .map(|(number, rim)| (off(rim), number));
    all.min_by(|a, b| a.0.total_cmp(&b.0))
        .map(|(_, number)| number)
}

/// How far a place is from an edge of a rim, and how far along the rim it lies, in edges.
fn on_piece(model: &Mesh, rim: &Rim, i: usize, at: DVec3) -> (f64, f64) {
    let [a, b] = [i, i + 1].map(|i| model.position(rim.vertices[i % rim.vertices.len()]));
    let near = closest_on_triangle(at, [a, b, b]);
    let share = match a.distance(b) {
        0.0 => 0.0,
        length => a.distance(near) / length,
    };
    (near.distance_squared(at), i as f64 + share)
}

/// By vertex of a rim of quads, the vertex of the model's rim that it becomes: in rising order, with those of the next
/// round after the last; and whether the model's rim runs the other way. `None` where they don't run along each other.
fn steps_along(mesh: &Mesh, rim: &Rim, model: &Mesh, wanted: &Rim) -> Option<Vec<usize>> {
    let count = wanted.vertices.len();
    let along = |v: &VertexId| -> f64 {
        let at = mesh.position(*v);
        let all = (0..count).map(|i| on_piece(model, wanted, i, at));
        let nearest = all.min_by(|a, b| a.0.total_cmp(&b.0));
        nearest.map_or(0.0, |(_, along)| along)
    };
    let places: Vec<f64> = rim.vertices.iter().map(along).collect();
    let round = count as f64;
    let mut at = *places.first()?;
    let mut steps = vec![at.round() as usize];
    for place in places.iter().skip(1).chain(&places[..1]) {
        let mut step = (place - at).rem_euclid(round);
        if step > (1.0 - BACK) * round {
            step -= round;
        }
        at += step;
        let last = steps[steps.len() - 1];
        steps.push((at.round().max(0.0) as usize).max(last));
    }
    let is_once = (at - places[0] - round).abs() < 0.5;
    let end = steps[0] + count;
    steps.iter_mut().for_each(|step| *step = (*step).min(end));
    if let Some(last) = steps.last_mut() {
        *last = end;
    }
    is_once.then_some(steps)
}

/// What becomes of vertices and sides on rims.
#[derive(Default)]
struct Changes {
    /// By vertex on a rim, what it becomes.
    vertices: FxHashMap<VertexId, VertexId>,
    /// By side of a face on a rim, the vertices that come between.
    between: FxHashMap<[VertexId; 2], Vec<VertexId>>,
}

impl Changes {
    /// `steps`: by vertex of the rim, and once more the first, the vertex of the wanted rim.
    fn add(&mut self, mesh: &mut Mesh, rim: &Rim, model: &Mesh, wanted: &Rim, steps: &[usize]) {
        let new = |v: &VertexId| mesh.push_vertex(model.position(*v));
        let new: Vec<VertexId> = wanted.vertices.iter().map(new).collect();
        for (i, pair) in steps.windows(2).enumerate() {
            let [from, to] = [i, (i + 1) % rim.vertices.len()].map(|i| rim.vertices[i]);
            self.vertices.insert(from, new[pair[0] % new.len()]);
            // Faces run against the rim.
            let between = (pair[0] + 1..pair[1]).rev();
            let between = between.map(|step| new[step % new.len()]);
            self.between.insert([to, from], between.collect());
        }
    }

    fn becomes(&self, v: VertexId) -> VertexId {
        self.vertices.get(&v).copied().unwrap_or(v)
    }

    fn apply(&self, made: &mut Assembled) {
        let mut mesh = Mesh::default();
        (made.mesh.positions().iter()).for_each(|&at| {
            mesh.push_vertex(at);
        });
        for (_, corners) in made.mesh.faces() {
            for face in self.faces_of(corners, &mesh) {
                mesh.push_face(face);
            }
        }
        made.mesh = mesh;
        let edges = made
            .feature_edges
            .iter()
            .map(|edge| edge.map(|v| self.becomes(v)));
        made.feature_edges = edges.filter(|[a, b]| a != b).collect();
        let corners: FxHashSet<VertexId> = made.corners.iter().map(|&v| self.becomes(v)).collect();
        made.corners = corners.into_iter().collect();
        made.corners.sort_unstable();
        made.drop_unused();
    }

    /// What becomes of a face.
    fn faces_of(&self, corners: &[VertexId], mesh: &Mesh) -> Vec<Vec<VertexId>> {
        let mut round: Vec<VertexId> = Vec::with_capacity(corners.len());
        for (i, &v) in corners.iter().enumerate() {
            let next = corners[(i + 1) % corners.len()];
            round.push(self.becomes(v));
            round.extend(self.between.get(&[v, next]).into_iter().flatten());
        }
        round.dedup();
        while round.len() > 1 && round.first() == round.last() {
            round.pop();
        }
        match round.len() {
            0..3 => Vec::new(),
            3 | 4 => vec![round],
            _ => {
                let points: Vec<DVec3> = round.iter().map(|&v| mesh.position(v)).collect();
                let pieces = quads_and_triangles(&points).into_iter();
                let named =
                    |piece: Vec<u32>| piece.into_iter().map(|i| round[i as usize]).collect();
                pieces.map(named).collect()
            }
        }
    }
}
