//! Placing: the vertices of a reduced surface are moved so that it lies as near to the first one
//! as its triangles can.
//!
//! ```text
//! samples of the first surface ─▶ what faces they lie nearest to, and how far off
//!     ─▶ moves of the vertices, by least squares ─▶ edges turned ─▶ and again
//! ```
//!
//! Quadrics put a vertex near the planes of what it took in, so that round shapes come out too
//! large. Here the distances of samples to the faces that they lie nearest to, along the faces'
//! normals, are made least in the sum of squares (Hoppe, DeRose, Duchamp, McDonald & Stuetzle
//! 1993, with the distances taken to planes); large ones count more, round by round. The system
//! has three unknowns a vertex and is solved by conjugate gradients (Hestenes & Stiefel 1952);
//! moves that change nothing, as along a flat face, are kept small. Vertices on borders, and where
//! sheets meet, stay; those on the plane where a half ends move along it. Places on the
//! faces and vertices of the reduced surface count, too (see `reference_surface`). A round is kept if the fourth
//! powers of the distances fall from the samples and do not rise from those places; vertices at which
//! they rise go back first. Cost: a query a sample and some seven a face, for every round.

use super::edge_flip::turn_edges;
use super::reduce::Reduction;
use super::reference_surface::FirstSurface;
use super::regions::compact;
use super::samples::{Sample, Seen};
use super::vertex_class::VertexClass;
use super::wedges::Wedges;
use crate::measure::{area_samples, vector_area};
use crate::mesh::{FaceId, Mesh};
use crate::parallel::{chosen, mapped};
use crate::topology::LinkedMesh;
use crate::triangulate::quality;
use glam::DVec3;

/// With more faces than this, it isn't done: it costs more than it brings.
const LOW: usize = 60_000;
/// Where more than this share of the triangles stays, it isn't done either: what hardly changes is not
/// moved all over.
const MOST_STAYS: f64 = 0.9;
/// This many samples for each face that is left, and at most this many.
const PER_FACE: usize = 32;
const MOST: usize = 640_000;
/// By how much more a sample counts that lies off as far as is usual, so that the largest
/// distances fall as well, and at most this many times.
const LARGE: f64 = 0.5;
const LARGEST: f64 = 16.0;
/// Where what lies at a vertex is this many times as far off as is usual, it is not made worse.
const FAR: f64 = 12.0;
/// A vertex counts like this many samples.
const TIP: f64 = 4.0;
/// By how much the sum must fall in a round that is worth another.
const WORTH: f64 = 0.99;
/// A line where faces lean off their mean by more than this (cosine) is an edge.
const SMOOTH: f64 = 0.9;
/// How often the samples are looked up anew; half as often with more than this many faces.
const ROUNDS: usize = 5;
const FEW: usize = 20_000;
/// How strongly vertices are held where nothing depends on them, as a share of what depends on
/// the others.
const HOLD: f64 = 1e-4;
/// Steps of the solver, and what is near enough.
const STEPS: usize = 100;
const NEAR: f64 = 1e-3;
/// By how much a face may turn (cosine), and lose of its shape.
const TURN: f64 = 0.8;
const SHAPE: f64 = 0.7;

/// What the samples say of a face.
#[derive(Clone, Copy, Default)]
pub(super) struct Sums {
    /// Products of the shares of the corners: 00, 11, 22, 01, 12, 20.
    shares: [f64; 6],
    /// Shares times distances.
    off: [f64; 3],
}

impl Sums {
    /// Takes in that the place with these shares is so far off, where `usual` is usual; it counts
    /// `times`.
    pub fn add(&mut self, [a, b, c]: [f64; 3], off: f64, usual: f64, times: f64) {
        let weight = times * (1.0 + LARGE * (off / usual).powi(2).min(LARGEST));
        let products = [a * a, b * b, c * c, a * b, b * c, c * a];
        for (own, product) in self.shares.iter_mut().zip(products) {
            *own += product * weight;
        }
        for (own, share) in self.off.iter_mut().zip([a, b, c]) {
            *own += share * off * weight;
        }
    }

    fn plus(mut self, other: &Self) -> Self {
        for (own, other) in self.shares.iter_mut().zip(other.shares) {
            *own += other;
        }
        for (own, other) in self.off.iter_mut().zip(other.off) {
            *own += other;
        }
        self
    }
}

/// Moves the vertices of what is left of a surface towards the first one, and turns edges where
/// that brings it nearer.
pub(super) fn place(reduction: &mut Reduction, first: &Mesh) {
    let before = first.corners().len().saturating_sub(2 * first.face_count());
    let hardly_changes = reduction.living() as f64 > MOST_STAYS * before as f64;
    if reduction.living() > LOW || hardly_changes {
        return;
    }
    *reduction = compact(reduction);
    let count = (reduction.living() * PER_FACE).min(MOST);
    let normals: Vec<DVec3> = mapped(first.face_count(), 1, |face| {
        vector_area(first, FaceId::new(face))
    });
    let mut samples: Vec<Sample> = area_samples(first, count)
        .into_iter()
        .map(|(at, face): (DVec3, FaceId)| Sample {
            at,
            normal: normals[face.index()],
            near: u32::MAX,
        })
        .collect();
    let first = FirstSurface::of(first);
    if first.is_dear(&samples, reduction) {
        return;
    }
    let mut hints = Vec::new();
    let mut best: Option<Placed> = None;
    let rounds = match reduction.living() > FEW {
        true => ROUNDS / 2,
        false => ROUNDS,
    };
    for round in 0..=rounds {
        let usual = best.as_ref().map_or(f64::INFINITY, |best| best.usual);
        let mut now = Placed::of(reduction, &mut samples, (&first, &mut hints), usual);
        // Vertices go back where it became far worse; and, if that is not enough, where it became
        // worse at all.
        for far in [FAR * usual, 0.0] {
            let Some(best) = &best else { break };
            if (far > 0.0 || !now.is_better_than(best)) && take_back(reduction, &now, best, far) {
                now = Placed::of(reduction, &mut samples, (&first, &mut hints), usual);
            }
        }
        if best.as_ref().is_some_and(|best| !now.is_better_than(best)) {
            break;
        }
        if round == rounds || now.off[0] == 0.0 {
            return;
        }
        let mut moves = solved(reduction, &now.faces, &now.sums);
        keep_faces(reduction, &now.faces, &mut moves);
        reduction.shift(&moves);
        turn_edges(reduction, &now.faces, &samples, &now.of_face);
        best = Some(now);
    }
    if let Some(Placed { linked, wedges, .. }) = best {
        (reduction.linked, reduction.wedges) = (linked, wedges);
    }
}

/// A surface as it lies to the first one, and that to it.
struct Placed {
    linked: LinkedMesh,
    wedges: Option<Wedges>,
    faces: Vec<(u32, [u32; 3])>,
    /// What samples and places say, by face.
    sums: Vec<Sums>,
    /// Which samples lie nearest to each face.
    of_face: Vec<Vec<u32>>,
    /// By vertex, the fourth powers of distances at its faces, both ways.
    at_vertex: Vec<f64>,
    /// The sums of the fourth powers of distances: of the samples, and of the places.
    off: [f64; 2],
    /// The root of the mean square of the samples' distances.
    usual: f64,
}

impl Placed {
    fn of(
        reduction: &Reduction,
        samples: &mut [Sample],
        (first, hints): (&FirstSurface, &mut Vec<[u32; 7]>),
        usual: f64,
    ) -> Self {
        let linked = &reduction.linked;
        let faces: Vec<(u32, [u32; 3])> = (0..linked.places() as u32)
            .filter_map(|t| Some((t, linked.triangle(t)?)))
            .collect();
        let corners: Vec<[DVec3; 3]> = faces.iter().map(|(_, face)| linked.points(*face)).collect();
        let count = samples.len();
        let seen = Seen::of(samples, &faces, &linked.positions, usual);
        let back = first.seen_from(&corners, (count, usual), hints);
        let mut at_vertex = vec![0.0; linked.positions.len()];
        let fourths = seen.fourths.iter().zip(&back.fourths);
        for ((_, face), (one, two)) in faces.iter().zip(fourths) {
            face.iter()
                .for_each(|&v| at_vertex[v as usize] += one + two);
        }
        let is_there = |v: &u32| linked.around(*v).next().is_some();
        let vertices: Vec<u32> = (0..linked.positions.len() as u32)
            .filter(is_there)
            .collect();
        let places: Vec<DVec3> = vertices
            .iter()
            .map(|&v| linked.positions[v as usize])
            .collect();
        let mut off = [seen.fourths.iter().sum(), back.fourths.iter().sum::<f64>()];
        for (&v, fourth) in vertices.iter().zip(first.off_at(&places)) {
            at_vertex[v as usize] += TIP * fourth;
            off[1] += TIP * fourth;
        }
        let both = seen.sums.iter().zip(&back.sums);
        Self {
            sums: both.map(|(one, two)| one.plus(two)).collect(),
            off,
            linked: linked.clone(),
            wedges: reduction.wedges.clone(),
            of_face: seen.of_face,
            usual: seen.usual,
            faces,
            at_vertex,
        }
    }

    fn is_better_than(&self, other: &Self) -> bool {
        self.off[0] < WORTH * other.off[0] && self.off[1] <= other.off[1]
    }
}

/// Takes vertices back to where they were if what lies at them became worse, and lies further off
/// than so; says whether there were any.
fn take_back(reduction: &mut Reduction, now: &Placed, before: &Placed, far: f64) -> bool {
    let least = far.powi(4);
    let vertices = 0..now.at_vertex.len();
    let moves: Vec<DVec3> = vertices
        .map(
            |v| match now.at_vertex[v] > before.at_vertex[v].max(least) {
                true => before.linked.positions[v] - now.linked.positions[v],
                false => DVec3::ZERO,
            },
        )
        .collect();
    let any = moves.iter().any(|by| *by != DVec3::ZERO);
    if any {
        reduction.shift(&moves);
    }
    any
}

/// The moves that make the sum of squares least.
fn solved(reduction: &Reduction, faces: &[(u32, [u32; 3])], sums: &[Sums]) -> Vec<DVec3> {
    let is_free = |v: u32| reduction.kinds[v as usize] <= VertexClass::Cut;
    let positions = &reduction.linked.positions;
    let normals = faces.iter().map(|&(_, face)| {
        let [a, b, c] = reduction.linked.points(face);
        (b - a).cross(c - a).normalize_or_zero()
    });
    let normals: Vec<DVec3> = normals.collect();
    let mut weights = vec![0.0; positions.len()];
    let mut right = vec![DVec3::ZERO; positions.len()];
    for (((_, face), sum), &normal) in faces.iter().zip(sums).zip(&normals) {
        for (i, &v) in face.iter().enumerate().filter(|(_, v)| is_free(**v)) {
            weights[v as usize] += sum.shares[i];
            right[v as usize] += normal * sum.off[i];
        }
    }
    reduction.keep_to_mirror(&mut right);
    let apply = |moves: &[DVec3]| -> Vec<DVec3> {
        let held = moves.iter().zip(&weights);
        let mut out: Vec<DVec3> = held.map(|(by, weight)| *by * (HOLD * weight)).collect();
        for (((_, face), sum), &normal) in faces.iter().zip(sums).zip(&normals) {
            let [a, b, c] = face.map(|v| moves[v as usize].dot(normal));
            let [aa, bb, cc, ab, bc, ca] = sum.shares;
            let along = [
                aa * a + ab * b + ca * c,
                ab * a + bb * b + bc * c,
                ca * a + bc * b + cc * c,
            ];
            for (&v, along) in face.iter().zip(along).filter(|(v, _)| is_free(**v)) {
                out[v as usize] += normal * along;
            }
        }
        reduction.keep_to_mirror(&mut out);
        out
    };
    let mut moves = conjugate_gradients(apply, right);
    // What lies on a line stays on it, seen from above; where that is an edge, it stays.
    let mut ways = vec![DVec3::ZERO; positions.len()];
    for ((_, face), &normal) in faces.iter().zip(&normals) {
        face.iter().for_each(|&v| ways[v as usize] += normal);
    }
    let mut is_edge = vec![false; positions.len()];
    for ((_, face), &normal) in faces.iter().zip(&normals) {
        for &v in face {
            is_edge[v as usize] |=
                ways[v as usize].dot(normal) < SMOOTH * ways[v as usize].length();
        }
    }
    for (v, by) in moves.iter_mut().enumerate() {
        if reduction.kinds[v] == VertexClass::Line {
            *by = match is_edge[v] {
                true => DVec3::ZERO,
                false => by.project_onto_normalized(ways[v].normalize_or_zero()),
            };
        }
    }
    moves
}

fn conjugate_gradients(apply: impl Fn(&[DVec3]) -> Vec<DVec3>, right: Vec<DVec3>) -> Vec<DVec3> {
    let dot = |a: &[DVec3], b: &[DVec3]| a.iter().zip(b).map(|(a, b)| a.dot(*b)).sum::<f64>();
    let mut found = vec![DVec3::ZERO; right.len()];
    let mut rest = right;
    let mut way = rest.clone();
    let mut size = dot(&rest, &rest);
    let enough = size * NEAR * NEAR;
    for _ in 0..STEPS {
        if size <= enough || size == 0.0 {
            break;
        }
        let image = apply(&way);
        let bend = dot(&way, &image);
        if bend <= 0.0 {
            break;
        }
        let step = size / bend;
        for i in 0..found.len() {
            found[i] += way[i] * step;
            rest[i] -= image[i] * step;
        }
        let next = dot(&rest, &rest);
        for (own, rest) in way.iter_mut().zip(&rest) {
            *own = *rest + *own * (next / size);
        }
        size = next;
    }
    found
}

/// Takes back the moves that would turn a face or its UVs, or spoil its shape.
fn keep_faces(reduction: &Reduction, faces: &[(u32, [u32; 3])], moves: &mut [DVec3]) {
    for (v, by) in moves.iter_mut().enumerate() {
        let to = reduction.linked.positions[v] + *by;
        if reduction.kinds[v] != VertexClass::Cut && !reduction.is_before_mirror(to) {
            *by = DVec3::ZERO;
        }
    }
    loop {
        let spoilt: Vec<[u32; 3]> = chosen(faces.len(), 1024, |i| {
            let (t, face) = faces[i];
            let old = reduction.linked.points(face);
            let own = face.map(|v| moves[v as usize]);
            if own == [DVec3::ZERO; 3] {
                return None;
            }
            let new = [0, 1, 2].map(|i| old[i] + own[i]);
            let area = |[a, b, c]: [DVec3; 3]| (b - a).cross(c - a);
            let (was, is) = (area(old), area(new));
            let wedges = reduction.wedges.as_ref();
            let is_spoilt = was.dot(is) <= TURN * was.length() * is.length()
                || quality(new) < SHAPE * quality(old)
                || wedges.is_some_and(|wedges| wedges.would_turn(t, own));
            is_spoilt.then_some(face)
        });
        if spoilt.is_empty() {
            return;
        }
        for vertex in spoilt.into_iter().flatten() {
            moves[vertex as usize] = DVec3::ZERO;
        }
    }
}
