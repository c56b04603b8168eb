//! Rims as the model has them: sides of quads along a rim give way to the edges that were there.
//!
//! Vertices of quads on a rim become those of the model's rim that are nearest along it, in the same order. A side
//! becomes the edges between, and its quad is cut into quads and triangles; one that has shrunk to a vertex makes a
//! triangle of its quad.

use super::assembled::Assembled;
use crate::mesh::{Mesh, Model, VertexId};
use crate::spatial::LineTree;
use crate::topology::{Edges, Rim, Rims};
use crate::triangulate::{self, Pieces};
use glam::DVec3;
use rustc_hash::FxHashMap;

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
    let of_rim = |(number, rim)| pieces(model, rim).map(move |piece| (piece, number));
    let all = wanted.closed.iter().enumerate().flat_map(of_rim);
    let (lines, numbers): (Vec<[DVec3; 2]>, Vec<usize>) = all.unzip();
    let lines = LineTree::of(lines);
    let nearest_rim = |at: DVec3| {
        let found = lines.closest_within(at, f64::INFINITY)?;
        Some(numbers[found.triangle as usize])
    };
    for rim in &own.closed {
        let is_alone = rim.vertices.iter().all(|v| seen[v] == 1);
        let nearest = nearest_rim(made.mesh.position(rim.vertices[0]));
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

/// The edges of a rim, as pieces of a line.
fn pieces<'m>(model: &'m Mesh, rim: &'m Rim) -> impl Iterator<Item = [DVec3; 2]> + 'm {
    let count = rim.vertices.len();
    let ends = move |i: usize| [i, (i + 1) % count].map(|i| model.position(rim.vertices[i]));
    (0..count).map(ends)
}

/// By vertex of a rim of quads, the vertex of the model's rim that it becomes: in rising order, with those of the next
/// round after the last. `None` where they don't run along each other.
fn steps_along(mesh: &Mesh, rim: &Rim, model: &Mesh, wanted: &Rim) -> Option<Vec<usize>> {
    let count = wanted.vertices.len();
    let line = LineTree::of(pieces(model, wanted).collect());
    let along = |v: &VertexId| Some(line.closest_and_how_far(mesh.position(*v))?.1);
    let places: Option<Vec<f64>> = rim.vertices.iter().map(along).collect();
    let places = places?;
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
        let positions = made.mesh.positions().to_vec();
        let mut mesh = Mesh::from_parts(positions, vec![], vec![0]).expect("positions of a mesh");
        for (_, corners) in made.mesh.faces() {
            let face = self.face(corners);
            if face.len() > 2 {
                mesh.push_face(face);
            }
        }
        let is_large = |face| mesh.face(face).len() > 4;
        let model = Model::from(mesh.clone());
        made.mesh = triangulate::some(&model, Pieces::Quads, is_large).0.mesh;
        let edges = made.feature_edges.iter();
        let edges = edges.map(|edge| edge.map(|v| self.becomes(v)));
        made.feature_edges = edges.filter(|[a, b]| a != b).collect();
        let corners = made.corners.iter();
        made.corners = corners.map(|&v| self.becomes(v)).collect();
        made.corners.sort_unstable();
        made.corners.dedup();
        made.drop_unused();
    }

    /// What becomes of a face: with fewer than three corners where its sides on a rim have shrunk to vertices.
    fn face(&self, corners: &[VertexId]) -> Vec<VertexId> {
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
        round
    }
}
