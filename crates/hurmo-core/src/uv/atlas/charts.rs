//! Charts: faces that look much the same way, put together.
//!
//! Grown one after another until all faces are in one, then grown anew from the middle of each, all at
//! once and best first, a few times (variational shape approximation: Cohen-Steiner, Alliez & Desbrun
//! 2004); small ones join a neighbour. What is noise in single faces does not count: normals are means
//! of those round them.

use crate::measure::vector_area;
use crate::mesh::{FaceId, Mesh};
use crate::topology::Edges;
use glam::DVec3;
use std::cmp::Ordering;
use std::collections::BinaryHeap;

/// Cosine of how far a face may look away from the mean of its chart: 50°; in the end 75°.
const ALONG: f64 = 0.64;
const ALONG_AT_LAST: f64 = 0.26;
/// Cosine of the bend of an edge that no chart leads across: 60°.
const SHARP: f64 = 0.5;
/// How often normals are evened: more often, where there are far too many charts otherwise.
const EVENED: [usize; 3] = [2, 8, 32];
/// This many charts, or one for this many faces, are not too many.
const MANY: usize = 100;
const FACES: usize = 400;
/// How often charts are grown anew.
const ROUNDS: usize = 4;
/// A chart with less than this share of the area that all have on average joins another, if it may.
const SMALL: f64 = 0.1;

const NONE: u32 = u32::MAX;

/// A face that may join a chart: those that fit best come first.
#[derive(PartialEq)]
struct Candidate {
    cost: f64,
    face: u32,
    chart: u32,
}

impl Eq for Candidate {}

impl Ord for Candidate {
    fn cmp(&self, other: &Self) -> Ordering {
        let worse = other.cost.total_cmp(&self.cost);
        worse.then((other.face, other.chart).cmp(&(self.face, self.chart)))
    }
}

impl PartialOrd for Candidate {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

/// Cuts a mesh into charts: lists of faces that hang together.
pub fn charts(mesh: &Mesh) -> Vec<Vec<FaceId>> {
    let most = MANY.max(mesh.face_count() / FACES);
    let mut best: Option<Vec<Vec<FaceId>>> = None;
    for evened in EVENED {
        let found = grown(mesh, evened);
        if best.as_ref().is_none_or(|best| found.len() < best.len()) {
            best = Some(found);
        }
        if best.as_ref().is_some_and(|best| best.len() <= most) {
            break;
        }
    }
    best.unwrap_or_default()
}

/// The charts of normals that are evened so often.
fn grown(mesh: &Mesh, evened: usize) -> Vec<Vec<FaceId>> {
    let mut growth = Growth::of(mesh, evened);
    growth.grow_one_by_one();
    for _ in 0..ROUNDS {
        growth.grow_anew();
    }
    growth.join_small();
    let mut charts: Vec<Vec<FaceId>> = vec![Vec::new(); growth.means.len()];
    for (face, &chart) in growth.chart.iter().enumerate() {
        charts[chart as usize].push(FaceId::new(face));
    }
    charts.retain(|faces| !faces.is_empty());
    charts
}

/// The pieces that faces hang together in, by edges.
pub fn connected(mesh: &Mesh, faces: Vec<FaceId>) -> Vec<Vec<FaceId>> {
    let mut of_edge = rustc_hash::FxHashMap::default();
    let mut sets = crate::topology::UnionFind::new(faces.len());
    for (i, &face) in faces.iter().enumerate() {
        let corners = mesh.face(face);
        for k in 0..corners.len() {
            let (a, b) = (corners[k], corners[(k + 1) % corners.len()]);
            let first = *of_edge.entry((a.min(b), a.max(b))).or_insert(i);
            sets.join(first as u32, i as u32);
        }
    }
    let mut number = vec![NONE; faces.len()];
    let mut pieces: Vec<Vec<FaceId>> = Vec::new();
    for (i, &face) in faces.iter().enumerate() {
        let root = sets.find(i as u32) as usize;
        if number[root] == NONE {
            number[root] = pieces.len() as u32;
            pieces.push(Vec::new());
        }
        pieces[number[root] as usize].push(face);
    }
    pieces
}

struct Growth {
    /// By face those beside it, each with the length of the edge between.
    beside: Vec<Vec<(u32, f64)>>,
    normals: Vec<DVec3>,
    areas: Vec<f64>,
    chart: Vec<u32>,
    /// By chart the sum of its faces' normals, by area.
    means: Vec<DVec3>,
}

impl Growth {
    fn of(mesh: &Mesh, evened: usize) -> Self {
        let faces = mesh.face_ids().map(|face| vector_area(mesh, face));
        let vectors: Vec<DVec3> = faces.collect();
        let edges = Edges::of(mesh);
        let pairs = edges.ids().filter_map(|edge| match edges.sides(edge) {
            &[a, b] if !edges.is_misoriented(edge) => Some((edge, [a, b].map(|side| side.face))),
            _ => None,
        });
        let pairs: Vec<_> = pairs.collect();
        let mut even = vectors.clone();
        for _ in 0..evened {
            let mut sums = even.clone();
            for (_, [a, b]) in &pairs {
                sums[a.index()] += even[b.index()];
                sums[b.index()] += even[a.index()];
            }
            even = sums;
        }
        let even: Vec<DVec3> = even.into_iter().map(DVec3::normalize_or_zero).collect();
        // As they are, or where that is noise, evened.
        let is_rough = evened > EVENED[0];
        let facing = |face: FaceId| match is_rough {
            true => even[face.index()],
            false => vectors[face.index()].normalize_or_zero(),
        };
        let mut beside: Vec<Vec<(u32, f64)>> = vec![Vec::new(); vectors.len()];
        for (edge, [a, b]) in pairs {
            let [n, m] = [a, b].map(facing);
            // Faces without area look anywhere.
            if n.dot(m) < SHARP && n != DVec3::ZERO && m != DVec3::ZERO {
                continue;
            }
            let [p, q] = edges.ends(edge).map(|v| mesh.position(v));
            let length = p.distance(q);
            beside[a.index()].push((b.0, length));
            beside[b.index()].push((a.0, length));
        }
        Self {
            chart: vec![NONE; vectors.len()],
            areas: vectors.iter().map(|v| v.length()).collect(),
            normals: even,
            beside,
            means: Vec::new(),
        }
    }

    /// How ill a face fits into a chart.
    fn cost(&self, face: u32, chart: u32) -> f64 {
        let mean = self.means[chart as usize].normalize_or_zero();
        1.0 - self.normals[face as usize].dot(mean)
    }

    fn add(&mut self, face: u32, chart: u32) {
        self.chart[face as usize] = chart;
        self.means[chart as usize] += self.normals[face as usize] * self.areas[face as usize];
    }

    fn grow_one_by_one(&mut self) {
        let mut seeds: Vec<u32> = (0..self.chart.len() as u32).collect();
        let area = |face: u32| self.areas[face as usize];
        seeds.sort_by(|&a, &b| area(b).total_cmp(&area(a)).then(a.cmp(&b)));
        for seed in seeds {
            if self.chart[seed as usize] == NONE {
                let chart = self.means.len() as u32;
                self.means.push(DVec3::ZERO);
                self.grow(vec![(seed, chart)], ALONG, true);
            }
        }
    }

    /// Grows charts from their seeds, best first.
    fn grow(&mut self, seeds: Vec<(u32, u32)>, along: f64, moves: bool) {
        let mut waiting = BinaryHeap::new();
        let seeds = seeds.into_iter().map(|(face, chart)| Candidate {
            cost: -1.0,
            face,
            chart,
        });
        waiting.extend(seeds);
        while let Some(Candidate { cost, face, chart }) = waiting.pop() {
            if self.chart[face as usize] != NONE {
                continue;
            }
            // The mean may have turned since.
            if moves && cost >= 0.0 && 1.0 - self.cost(face, chart) < along {
                continue;
            }
            self.chart[face as usize] = chart;
            if moves {
                self.add(face, chart);
            }
            for &(other, _) in &self.beside[face as usize] {
                let cost = self.cost(other, chart);
                // What looks nowhere may be anywhere.
                let is_flat = self.areas[other as usize] == 0.0;
                if self.chart[other as usize] == NONE && (is_flat || 1.0 - cost >= along) {
                    waiting.push(Candidate {
                        cost: cost.max(0.0),
                        face: other,
                        chart,
                    });
                }
            }
        }
    }

    /// Grows all charts again, each from the face that is most like it, all at once.
    fn grow_anew(&mut self) {
        let mut best: Vec<Option<(f64, u32)>> = vec![None; self.means.len()];
        for face in 0..self.chart.len() as u32 {
            let chart = self.chart[face as usize];
            let cost = self.cost(face, chart);
            let best = &mut best[chart as usize];
            if best.is_none_or(|(least, _)| cost < least) {
                *best = Some((cost, face));
            }
        }
        let seeds = best.into_iter().enumerate();
        let seeds: Vec<(u32, u32)> = seeds
            .filter_map(|(chart, best)| Some((best?.1, chart as u32)))
            .collect();
        self.chart.fill(NONE);
        self.grow(seeds, ALONG, false);
        // The means are those of what is in a chart now.
        let charts = std::mem::take(&mut self.chart);
        self.means.fill(DVec3::ZERO);
        self.chart = vec![NONE; charts.len()];
        for (face, &chart) in charts.iter().enumerate() {
            if chart != NONE {
                self.add(face as u32, chart);
            }
        }
        self.grow_one_by_one();
    }

    /// Lets charts that are small join the one that they have most border with.
    fn join_small(&mut self) {
        let all: f64 = self.areas.iter().sum();
        let least = SMALL * all / self.means.len().max(1) as f64;
        let mut area = vec![0.0; self.means.len()];
        let mut faces: Vec<Vec<u32>> = vec![Vec::new(); self.means.len()];
        for (face, &chart) in self.chart.iter().enumerate() {
            area[chart as usize] += self.areas[face];
            faces[chart as usize].push(face as u32);
        }
        let mut order: Vec<usize> = (0..area.len()).filter(|&c| area[c] < least).collect();
        order.sort_by(|&a, &b| area[a].total_cmp(&area[b]).then(a.cmp(&b)));
        for small in order {
            if area[small] >= least {
                continue;
            }
            let mut border: rustc_hash::FxHashMap<u32, f64> = rustc_hash::FxHashMap::default();
            for &face in &faces[small] {
                for &(other, length) in &self.beside[face as usize] {
                    let chart = self.chart[other as usize];
                    if chart as usize != small {
                        *border.entry(chart).or_default() += length;
                    }
                }
            }
            let fits = |chart: u32| {
                let mut own = faces[small].iter();
                own.all(|&f| {
                    self.areas[f as usize] == 0.0 || 1.0 - self.cost(f, chart) >= ALONG_AT_LAST
                })
            };
            let mut others: Vec<(u32, f64)> = border.into_iter().collect();
            others.sort_by(|a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
            if let Some((into, _)) = others.into_iter().find(|&(chart, _)| fits(chart)) {
                let own = std::mem::take(&mut faces[small]);
                own.iter()
                    .for_each(|&face| self.chart[face as usize] = into);
                faces[into as usize].extend(own);
                area[into as usize] += area[small];
            }
        }
    }
}
