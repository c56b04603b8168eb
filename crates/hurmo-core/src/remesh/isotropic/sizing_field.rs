//! How long edges should be, where that differs from place to place (Dunyach et al. 2013).
//!
//! Where a surface bends with a radius r, even triangles with edges of length √(6 ε r − 3 ε²) leave
//! it by ε; as edges may be longer by a third before they are split, ε is taken smaller. Lengths
//! then change from place to place by no more than a share of the way between, so that
//! triangles stay even: known lengths spread out from the shortest (Dijkstra 1959).

use super::feature_edges::VertexConstraint;
use super::split::LONG;
use crate::attribute_transfer::Carried;
use crate::parallel::mapped;
use crate::topology::LinkedMesh;
use glam::DVec3;
use std::cmp::Reverse;
use std::collections::BinaryHeap;

/// By how much of the way between two places lengths may differ.
const RISE: f64 = 0.4;
/// The share of the distance that is aimed at.
const SAFE: f64 = 0.9;
/// Faces whose lengths would differ from their own by this factor are remeshed too.
const DIFFERS: f64 = 1.3;

/// A length for every vertex of the model; between them, a mean.
#[derive(Clone, Debug)]
pub(super) struct SizingField(Vec<f32>);

/// What lengths follow from.
#[derive(Clone, Copy, Debug)]
pub(super) struct Bend {
    /// How far edges may leave the surface.
    pub within: f64,
    /// No edge should be shorter.
    pub shortest: f64,
    /// Nor longer.
    pub longest: f64,
    /// Edges whose faces bend by more degrees bound smooth pieces.
    pub crease: f64,
}

impl Bend {
    /// How long edges may be where a surface bends with some curvature.
    fn length(&self, curvature: f64) -> f64 {
        let within = SAFE * self.within / (LONG * LONG);
        let square = 6.0 * within / curvature - 3.0 * within * within;
        square.max(0.0).sqrt().clamp(self.shortest, self.longest)
    }
}

impl SizingField {
    /// Everywhere the same.
    pub fn all(length: f64, vertices: usize) -> Self {
        Self(vec![length as f32; vertices])
    }

    /// As shares of twice a length: a half at some vertices, rising from there to one.
    pub fn shorter_at(linked: &LinkedMesh, vertices: &[u32], length: f64) -> Self {
        let begin = vertices.iter().map(|&v| (length, v)).collect();
        let lengths = spread(linked, begin, 2.0 * length);
        let share = |reached: f64| (reached / length / 2.0).min(1.0) as f32;
        Self(lengths.into_iter().map(share).collect())
    }

    /// As the surface bends.
    pub fn by_bend(linked: &LinkedMesh, bend: &Bend) -> Self {
        let flat_enough = bend.crease.to_radians().cos();
        let mut sizing = Self(mapped(linked.positions.len(), 256, |v| {
            bend.length(curvature(linked, v as u32, flat_enough)) as f32
        }));
        sizing.even_out(linked);
        sizing
    }

    /// As is given for every vertex, down to a third of that where edges would leave the surface by more
    /// than `within`. Edges whose faces bend by more than `crease` degrees bound smooth pieces.
    pub fn given(linked: &LinkedMesh, lengths: &[f64], within: f64, crease: f64) -> Self {
        let flat_enough = crease.to_radians().cos();
        let mut sizing = Self(mapped(lengths.len(), 256, |v| {
            if within == f64::INFINITY {
                return lengths[v] as f32;
            }
            let bend = Bend {
                within,
                shortest: lengths[v] / 3.0,
                longest: lengths[v],
                crease,
            };
            bend.length(curvature(linked, v as u32, flat_enough)) as f32
        }));
        sizing.even_out(linked);
        sizing
    }

    /// Lets no length be longer than a shorter one and the way there allow.
    fn even_out(&mut self, linked: &LinkedMesh) {
        let begin = self.0.iter().enumerate();
        let begin = begin
            .map(|(v, &length)| (f64::from(length), v as u32))
            .collect();
        let lengths = spread(linked, begin, f64::INFINITY);
        self.0 = lengths.into_iter().map(|length| length as f32).collect();
    }

    /// Lets the lengths of faces that are asked for go over into those of the others' own edges.
    /// The other faces whose lengths then differ from their own.
    pub fn join_to_rest(
        &mut self,
        linked: &LinkedMesh,
        origins: &[u32],
        asked: &[bool],
    ) -> Vec<u32> {
        let triangles =
            || (0..linked.places() as u32).filter_map(|t| Some((t, linked.triangle(t)?)));
        let is_asked = |t: u32| asked[origins[t as usize] as usize];
        let mut inside = vec![false; linked.positions.len()];
        for (_, triangle) in triangles().filter(|(t, _)| is_asked(*t)) {
            triangle.iter().for_each(|&v| inside[v as usize] = true);
        }
        let begin = (0..linked.positions.len() as u32).filter(|&v| inside[v as usize]);
        let begin = begin.map(|v| (f64::from(self.0[v as usize]), v)).collect();
        let [least, most] = allowed(linked, begin);
        let mut differs = vec![false; linked.positions.len()];
        for v in 0..linked.positions.len() {
            // The shortest: what is long and narrow is not to lose its shape.
            let own = shortest_edge(linked, v as u32);
            if !inside[v] && own.is_finite() && own > 0.0 {
                let length = own.max(least[v]).min(most[v]);
                differs[v] = (length / own).ln().abs() > DIFFERS.ln();
                self.0[v] = length as f32;
            }
        }
        let mut belt: Vec<u32> = triangles()
            .filter(|(t, triangle)| !is_asked(*t) && triangle.iter().any(|&v| differs[v as usize]))
            .map(|(t, _)| origins[t as usize])
            .collect();
        belt.dedup();
        belt
    }

    /// Lets lengths go over into those of edges that stay, between vertices that are frozen.
    pub fn join_to_frozen(&mut self, linked: &LinkedMesh, constraints: &[VertexConstraint]) {
        let own: Vec<(f64, u32)> = (0..linked.positions.len() as u32)
            .filter(|&v| constraints[v as usize] == VertexConstraint::Frozen)
            .filter_map(|v| {
                Some((
                    mean_edge(linked, v, |v| {
                        constraints[v as usize] == VertexConstraint::Frozen
                    })?,
                    v,
                ))
            })
            .collect();
        let [least, most] = allowed(linked, own);
        for (v, length) in self.0.iter_mut().enumerate() {
            *length = length.max(least[v] as f32).min(most[v] as f32);
        }
    }

    /// About how many triangles of these lengths a surface makes.
    pub fn triangles(&self, linked: &LinkedMesh) -> f64 {
        let each = (0..linked.places() as u32).filter_map(|t| linked.triangle(t));
        each.map(|triangle| {
            let [a, b, c] = linked.points(triangle);
            let lengths = triangle.map(|v| f64::from(self.0[v as usize]));
            let mean = lengths.iter().sum::<f64>() / 3.0;
            super::triangles_of((b - a).cross(c - a).length() / 2.0, mean)
        })
        .sum()
    }

    /// The shortest and the longest length.
    pub fn extremes(&self) -> [f64; 2] {
        let lengths = self.0.iter().map(|&length| f64::from(length));
        lengths.fold([f64::INFINITY, 0.0], |[low, high], length| {
            [low.min(length), high.max(length)]
        })
    }

    /// The length at a vertex of the model.
    pub fn of_vertex(&self, vertex: usize) -> f32 {
        self.0[vertex]
    }

    /// The length at a place in a triangle of the model.
    pub fn at(&self, carried: &Carried<'_>, triangle: u32, place: DVec3) -> f32 {
        let corners = carried.triangles()[triangle as usize];
        let shares = carried
            .shares(triangle, place)
            .map(|share| share.clamp(0.0, 1.0));
        let sum: f64 = shares.iter().sum();
        let parts = corners.iter().zip(shares);
        let all: f64 = parts
            .map(|(v, share)| f64::from(self.0[v.index()]) * share)
            .sum();
        match sum > 0.0 {
            true => (all / sum) as f32,
            false => self.0[corners[0].index()],
        }
    }
}

/// The least and the most that lengths may be, where those at some vertices are given.
fn allowed(linked: &LinkedMesh, given: Vec<(f64, u32)>) -> [Vec<f64>; 2] {
    // The least is the same as the most, looked at upside down.
    let upside_down = given.iter().map(|&(length, v)| (-length, v)).collect();
    let least = spread(linked, upside_down, f64::INFINITY);
    [
        least.into_iter().map(|length| -length).collect(),
        spread(linked, given, f64::INFINITY),
    ]
}

/// What spreads from some vertices over edges, rising with the way, as long as it is less than
/// `most`; the least that arrives.
fn spread(linked: &LinkedMesh, begin: Vec<(f64, u32)>, most: f64) -> Vec<f64> {
    let mut reached = vec![f64::INFINITY; linked.positions.len()];
    let key = |length: f64| -> u64 {
        // Sorts like the number, negative ones too.
        let bits = length.to_bits();
        if bits >> 63 == 1 {
            !bits
        } else {
            bits | 1 << 63
        }
    };
    let mut todo = BinaryHeap::with_capacity(begin.len());
    for (length, v) in begin {
        if length < reached[v as usize] {
            reached[v as usize] = length;
            todo.push(Reverse((key(length), v)));
        }
    }
    while let Some(Reverse((at, v))) = todo.pop() {
        let here = reached[v as usize];
        if at != key(here) {
            continue;
        }
        for (_, [_, x, y]) in linked.around(v) {
            for other in [x, y] {
                let way = linked.positions[v as usize].distance(linked.positions[other as usize]);
                let there = here + RISE * way;
                if there < reached[other as usize].min(most) {
                    reached[other as usize] = there;
                    todo.push(Reverse((key(there), other)));
                }
            }
        }
    }
    reached
}

fn shortest_edge(linked: &LinkedMesh, vertex: u32) -> f64 {
    let here = linked.positions[vertex as usize];
    let others = linked.around(vertex).flat_map(|(_, [_, x, y])| [x, y]);
    let lengths = others.map(|other| here.distance(linked.positions[other as usize]));
    lengths.fold(f64::INFINITY, f64::min)
}

/// The mean length of the edges from a vertex to others of some kind.
fn mean_edge(linked: &LinkedMesh, vertex: u32, counts: impl Fn(u32) -> bool) -> Option<f64> {
    let (mut sum, mut count) = (0.0, 0);
    for (_, [_, x, y]) in linked.around(vertex) {
        for other in [x, y].into_iter().filter(|&other| counts(other)) {
            sum += linked.positions[vertex as usize].distance(linked.positions[other as usize]);
            count += 1;
        }
    }
    (count > 0).then(|| sum / f64::from(count))
}

/// The largest curvature along the edges at a vertex, one over length.
fn curvature(linked: &LinkedMesh, vertex: u32, flat_enough: f64) -> f64 {
    let here = linked.positions[vertex as usize];
    let mut largest: f64 = 0.0;
    for (_, [_, x, y]) in linked.around(vertex) {
        let [p, q] = [x, y].map(|v| linked.positions[v as usize]);
        let side = (p - here).cross(q - here).normalize_or_zero();
        let own = smooth_normal(linked, vertex, side, flat_enough);
        for (other, at) in [(x, p), (y, q)] {
            let turned = smooth_normal(linked, other, side, flat_enough) - own;
            let way = at - here;
            let square = way.length_squared();
            if square > 0.0 {
                largest = largest.max((turned.dot(way) / square).abs());
            }
        }
    }
    largest
}

/// The normal at a vertex, of the faces there that go on smoothly from one.
fn smooth_normal(linked: &LinkedMesh, vertex: u32, side: DVec3, flat_enough: f64) -> DVec3 {
    let here = linked.positions[vertex as usize];
    let areas = linked.around(vertex).map(|(_, [_, x, y])| {
        let [p, q] = [x, y].map(|v| linked.positions[v as usize] - here);
        p.cross(q)
    });
    let smooth = areas.filter(|area| area.dot(side) >= flat_enough * area.length());
    smooth.sum::<DVec3>().normalize_or_zero()
}
