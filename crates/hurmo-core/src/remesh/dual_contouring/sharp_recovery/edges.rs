//! Edges that cut off a sharp edge: turned, or divided.

use super::change::{Change, Kind, NEW, Name};
use super::{GAIN, ON_MODEL, Sharpened};
use crate::mesh::VertexId;
use crate::parallel::chosen;
use crate::remesh::dual_contouring::sharp::{corner_between, place_on_far_edge};
use crate::spatial::closest_on_triangle;
use glam::DVec3;
use rustc_hash::{FxHashMap, FxHashSet};

/// Cosine of the bend of edges that can cut nothing off.
const FLAT: f64 = 0.99;

/// An edge between two triangles.
#[derive(Clone, Copy)]
struct Edge {
    /// Its ends, as the first triangle runs it.
    ends: [VertexId; 2],
    /// The third corner of each.
    beside: [VertexId; 2],
    triangles: [u32; 2],
}

impl Edge {
    fn turned(&self, gain: f64) -> Change {
        let ([p, q], [a, b]) = (self.ends, self.beside);
        Change {
            name: (self.ends, Kind::Turned),
            gain,
            gone: self.triangles.to_vec(),
            instead: vec![[p, b, a], [q, a, b]],
            added: None,
            moved: None,
            merged: None,
            edge: Some(sorted(self.beside)),
        }
    }

    fn divided(&self, place: DVec3, gain: f64) -> Change {
        let ([p, q], [a, b]) = (self.ends, self.beside);
        Change {
            name: (self.ends, Kind::Divided),
            gain,
            gone: self.triangles.to_vec(),
            instead: vec![[p, NEW, a], [NEW, q, a], [q, NEW, b], [NEW, p, b]],
            added: Some(place),
            moved: None,
            merged: None,
            edge: None,
        }
    }
}

/// The pairs of vertices across an edge that are to lie in one place, though not both are there; with
/// the ends of the edge.
pub fn doubles(sharpened: &Sharpened<'_>, there: f64) -> Vec<([VertexId; 2], [VertexId; 2])> {
    let is_double = |edge: &Edge| {
        let [Some(a), Some(b)] = edge.beside.map(|v| sharpened.wished[v.index()]) else {
            return false;
        };
        let mut places = [a, b].into_iter().zip(edge.beside);
        let is_away = |(place, v): (DVec3, VertexId)| place.distance(sharpened.at(v)) > there;
        a.distance(b) <= there && places.any(is_away)
    };
    let edges = edges_at(sharpened).into_iter();
    let new = edges.filter(|edge| sharpened.is_new(edge.ends.into_iter().chain(edge.beside)));
    let doubles = new.filter(is_double);
    doubles.map(|edge| (edge.beside, edge.ends)).collect()
}

/// What is best done to each edge, where anything is.
pub fn changes(sharpened: &Sharpened<'_>, failed: &FxHashSet<Name>) -> Vec<Change> {
    let edges = edges_at(sharpened);
    let there: FxHashSet<[VertexId; 2]> = edges.iter().map(|edge| sorted(edge.ends)).collect();
    let may = |edge: &Edge, kind: Kind| {
        !failed.contains(&(edge.ends, kind))
            && (kind == Kind::Divided || !there.contains(&sorted(edge.beside)))
    };
    let best = |edge: &Edge| {
        let may = |kind| may(edge, kind);
        turn(sharpened, edge, may).or_else(|| cut(sharpened, edge, may))
    };
    chosen(edges.len(), 64, |i| {
        let edge = &edges[i];
        let vertices = edge.ends.into_iter().chain(edge.beside);
        sharpened.is_new(vertices).then(|| best(edge))?
    })
}

/// The edges at which a triangle has a corner that is to lie on a sharp edge.
fn edges_at(sharpened: &Sharpened<'_>) -> Vec<Edge> {
    let triangles = &sharpened.extracted.triangles;
    // All that have a corner beside what is to be looked at, so that no edge of theirs is missed.
    let beside = sharpened.tried.as_ref().map(|_| {
        let mut beside = vec![false; sharpened.wished.len()];
        let new = triangles
            .iter()
            .filter(|t| sharpened.is_new(t.iter().copied()));
        new.flatten().for_each(|v| beside[v.index()] = true);
        beside
    });
    let is_near = |&v: &VertexId| {
        sharpened.is_sharp(v) && beside.as_ref().is_none_or(|beside| beside[v.index()])
    };
    let near: Vec<u32> = chosen(triangles.len(), 1024, |t| {
        triangles[t].iter().any(is_near).then_some(t as u32)
    });
    let mut first: FxHashMap<[VertexId; 2], (u32, VertexId)> = FxHashMap::default();
    let mut edges = Vec::new();
    for t in near {
        let [a, b, c] = triangles[t as usize];
        for (p, q, beside) in [(a, b, c), (b, c, a), (c, a, b)] {
            match first.remove(&[q, p]) {
                Some((other, across)) => edges.push(Edge {
                    ends: [q, p],
                    beside: [across, beside],
                    triangles: [other, t],
                }),
                None => {
                    first.insert([p, q], (t, beside));
                }
            }
        }
    }
    edges
}

fn sorted([a, b]: [VertexId; 2]) -> [VertexId; 2] {
    if a < b { [a, b] } else { [b, a] }
}

/// Divides an edge along a sharp one where that turns between its ends.
fn turn(sharpened: &Sharpened<'_>, edge: &Edge, may: impl Fn(Kind) -> bool) -> Option<Change> {
    if !edge.ends.iter().all(|&v| sharpened.is_sharp(v)) || !may(Kind::Divided) {
        return None;
    }
    let [p, q] = edge.ends.map(|v| sharpened.at(v));
    let place = corner_between(sharpened.inside_test, [p, q])?;
    let gain = place.distance(closest_on_triangle(place, [p, q, q]));
    (gain > GAIN * sharpened.cell()).then(|| edge.divided(place, gain))
}

/// What is best done to an edge that leads below a sharp one, from one side to the other.
fn cut(sharpened: &Sharpened<'_>, edge: &Edge, may: impl Fn(Kind) -> bool) -> Option<Change> {
    let [p, q] = edge.ends.map(|v| sharpened.at(v));
    let [a, b] = edge.beside.map(|v| sharpened.at(v));
    let areas = [(q - p).cross(a - p), (p - q).cross(b - q)];
    let [n, m] = areas.map(DVec3::normalize_or_zero);
    let cell = sharpened.cell();
    let middle = (p + q) / 2.0;
    if n.dot(m) > FLAT {
        return None;
    }
    let now = sharpened.off(middle);
    if now <= ON_MODEL * cell {
        return None;
    }
    let facing = areas[0] + areas[1];
    let faces_so = |[a, b, c]: [DVec3; 3]| (b - a).cross(c - a).dot(facing) > 0.0;
    let turned = || {
        let is_sharp = edge.beside.iter().any(|&v| sharpened.is_sharp(v));
        let sound = is_sharp && may(Kind::Turned) && faces_so([p, b, a]) && faces_so([q, a, b]);
        sound.then(|| edge.turned(now - sharpened.off((a + b) / 2.0)))
    };
    let divided = || {
        let place =
            place_on_far_edge(sharpened.inside_test, middle).filter(|_| may(Kind::Divided))?;
        let fan = [[p, place, a], [place, q, a], [q, place, b], [place, p, b]];
        let lies_off = [p, q, a, b].map(|end| sharpened.off((end + place) / 2.0));
        let gain = now - lies_off.into_iter().fold(0.0, f64::max);
        fan.into_iter()
            .all(faces_so)
            .then(|| edge.divided(place, gain))
    };
    // Turning adds nothing: it is enough where it brings the edge onto the model.
    match turned() {
        Some(change) if change.gain > now - ON_MODEL * cell => Some(change),
        turned => turned
            .into_iter()
            .chain(divided())
            .max_by(|a, b| a.gain.total_cmp(&b.gain)),
    }
}
