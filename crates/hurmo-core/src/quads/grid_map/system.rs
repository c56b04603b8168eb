//! The unknowns of a map, those of them that are free, and the energy of a map by these.

use crate::quads::elimination::{Elimination, Terms};
use crate::quads::frames::Frames;
use crate::quads::lengths::Sides;
use crate::quads::surface::{NONE, Surface, next};
use crate::quads::unknowns::Unknowns;
use crate::sparse::Rows;
use glam::DVec2;
use std::f64::consts::FRAC_PI_2;
use std::ops::Range;

/// A feature edge that lies further from both axes than this (radians) binds nothing.
const ASTRAY: f64 = 0.6;
/// A larger matrix is not made.
const MOST_ENTRIES: usize = 30_000_000;
/// How much it counts that an unknown which is kept is the sum it should be.
const BOUND: f64 = 1e5;
/// Longer sums are made of sums.
const VERY_LONG: usize = 32;
/// Keeps the system definite where nothing holds the map in place.
const HOLD: f64 = 1e-7;

/// The unknowns of a map.
pub(super) struct System {
    pub unknowns: Unknowns,
    /// By half-edge: the two coordinates of its corner by unknowns.
    terms: Vec<[Terms; 2]>,
    /// By unknown: itself by free unknowns.
    by_free: Vec<Terms>,
    /// Free unknowns that are sums of others all the same, each after those: long ones, which the energy holds to.
    sums: Vec<(u32, Terms)>,
    pub free: usize,
    /// So many of the free unknowns, the last, must be whole.
    pub whole: usize,
}

impl System {
    pub fn of(surface: &Surface, frames: &Frames) -> Self {
        let unknowns = Unknowns::of(surface, frames);
        let count = unknowns.count();
        let mut is_whole = vec![false; count];
        for unknown in 0..count as u32 {
            is_whole[unknown as usize] = is_whole_by_itself(&unknowns, surface, frames, unknown);
        }
        let mut elimination = Elimination::default();
        unknowns.close(&mut elimination, |unknown| is_whole[unknown as usize]);
        let bound = bound_corners(surface, frames);
        for &(half_edge, of) in &bound {
            let end = next(half_edge);
            let mut sum = Terms::new();
            for (corner, sign) in [(half_edge, 1.0), (end, -1.0)] {
                let own = &unknowns.corners[corner as usize];
                let terms = unknowns.terms(surface.from(corner), own, of);
                sum.extend(terms.iter().map(|term| (term.0, sign * term.1)));
            }
            elimination.add(&sum, |unknown| is_whole[unknown as usize]);
        }
        for &(half_edge, of) in &bound {
            let own = &unknowns.corners[half_edge as usize];
            let terms = unknowns.terms(surface.from(half_edge), own, of);
            let terms = elimination.reduced(&terms);
            let terms = elimination.expanded(terms);
            let mut others = terms.iter().filter(|term| !is_whole[term.0 as usize]);
            if let (Some(&(unknown, _)), None) = (others.next(), others.next()) {
                is_whole[unknown as usize] = true;
            }
        }
        let mut by_free: Vec<Terms> = (0..count as u32)
            .map(|unknown| elimination.reduced(&[(unknown, 1.0)]))
            .collect();
        let is_free =
            |unknown: u32| matches!(by_free[unknown as usize][..], [(own, _)] if own == unknown);
        let sums = elimination.kept();
        for (unknown, _) in &sums {
            is_whole[*unknown as usize] = false;
        }
        let free = (0..count as u32).filter(|&unknown| is_free(unknown));
        let (last, mut rest): (Vec<u32>, Vec<u32>) = free.partition(|&u| is_whole[u as usize]);
        let (sums, parts) = in_parts(sums, count as u32);
        rest.extend(parts.clone());
        let mut numbers = vec![NONE; parts.end as usize];
        for (number, &unknown) in rest.iter().chain(&last).enumerate() {
            numbers[unknown as usize] = number as u32;
        }
        let (free, whole) = (rest.len() + last.len(), last.len());
        let number = |unknown: &mut u32| *unknown = numbers[*unknown as usize];
        let terms = by_free.iter_mut().flatten();
        terms.for_each(|term| number(&mut term.0));
        let sums = sums.into_iter().map(|(mut unknown, mut terms)| {
            number(&mut unknown);
            terms.iter_mut().for_each(|term| number(&mut term.0));
            (unknown, terms)
        });
        let sums = sums.collect();
        let terms = (0..surface.half_edge_count()).map(|half_edge| {
            let own = &unknowns.corners[half_edge as usize];
            [0, 1].map(|of| unknowns.terms(surface.from(half_edge), own, of))
        });
        Self {
            terms: terms.collect(),
            unknowns,
            by_free,
            sums,
            free,
            whole,
        }
    }

    /// The lower half of the matrix of the energy, for triangles as stiff as this; `None` where it would be far
    /// larger than the surface, as many unknowns depend on many free ones.
    pub fn matrix(&self, surface: &Surface, stiffness: &[f64]) -> Option<Vec<(u32, u32, f64)>> {
        // First by all unknowns, in which terms are few; only their sums by the free ones.
        let mut entries = Vec::with_capacity(12 * self.terms.len());
        for t in stiff_triangles(stiffness) {
            let Some(Element { gradients, area }) = Element::of(surface, t) else {
                continue;
            };
            let weight = area * stiffness[t as usize];
            for of in [0, 1] {
                let corners = [0, 1, 2].map(|i| &self.terms[3 * t as usize + i][of]);
                for i in 0..3 {
                    for &(p, one) in corners[i] {
                        for j in 0..3 {
                            let number = weight * gradients[i].dot(gradients[j]) * one;
                            let lower = corners[j].iter().filter(|term| term.0 <= p);
                            entries.extend(lower.map(|&(q, other)| (p, q, number * other)));
                        }
                    }
                }
            }
        }
        let sums = Rows::summed(self.by_free.len(), entries);
        let terms = |p: usize| self.by_free[p].len();
        let products = |p: usize| {
            sums.of(p)
                .iter()
                .map(move |&(q, _)| terms(p) * terms(q as usize))
        };
        let bound = self.sums.iter().map(|(_, sum)| (sum.len() + 1).pow(2));
        let expected =
            (0..self.by_free.len()).flat_map(products).sum::<usize>() + bound.sum::<usize>();
        if expected > MOST_ENTRIES {
            return None;
        }
        let mut entries: Vec<(u32, u32, f64)> = Vec::with_capacity(expected + self.free);
        for (p, own) in self.by_free.iter().enumerate() {
            for &(q, number) in sums.of(p) {
                let is_diagonal = p == q as usize;
                for (i, &(a, one)) in own.iter().enumerate() {
                    for (j, &(b, other)) in self.by_free[q as usize].iter().enumerate() {
                        let both = if !is_diagonal && a == b { 2.0 } else { 1.0 };
                        // On the diagonal each pair of terms comes twice.
                        if !is_diagonal || j <= i {
                            entries.push((a.max(b), a.min(b), both * number * one * other));
                        }
                    }
                }
            }
        }
        for (unknown, sum) in &self.sums {
            let mut terms = sum.clone();
            terms.push((*unknown, -1.0));
            for &(a, one) in &terms {
                let lower = terms.iter().filter(|term| term.0 <= a);
                entries.extend(lower.map(|&(b, other)| (a, b, BOUND * one * other)));
            }
        }
        entries.extend((0..self.free as u32).map(|p| (p, p, HOLD)));
        Some(entries)
    }

    /// By free unknown: whether a corner depends on it, of some triangles.
    pub fn used_by(&self, is_one: impl Fn(u32) -> bool) -> Vec<bool> {
        let mut is_used = vec![false; self.free];
        for (t, corners) in (0..).zip(self.terms.chunks_exact(3)) {
            if is_one(t) {
                for &(p, _) in corners.iter().flatten().flatten() {
                    let own = self.by_free[p as usize].iter();
                    own.for_each(|&(a, _)| is_used[a as usize] = true);
                }
            }
        }
        is_used
    }

    /// What gradients along the frames, for quads with sides of these lengths, pull free unknowns to.
    pub fn right(
        &self,
        surface: &Surface,
        frames: &Frames,
        stiffness: &[f64],
        lengths: &[Sides],
    ) -> Vec<f64> {
        let mut right = vec![0.0; self.free];
        for t in stiff_triangles(stiffness) {
            let Some(Element { gradients, area }) = Element::of(surface, t) else {
                continue;
            };
            let weight = area * stiffness[t as usize];
            let axis = DVec2::from_angle(frames.angles[t as usize]) * weight;
            for (of, axis) in [axis, axis.perp()].into_iter().enumerate() {
                let wanted = axis / lengths[t as usize][of];
                for (i, gradient) in gradients.iter().enumerate() {
                    for &(p, one) in &self.terms[3 * t as usize + i][of] {
                        for &(a, other) in &self.by_free[p as usize] {
                            right[a as usize] += one * other * gradient.dot(wanted);
                        }
                    }
                }
            }
        }
        right
    }

    /// All unknowns by the free ones. Of these, the ones that are sums are set to them.
    pub fn all(&self, values: &mut [f64]) -> Vec<f64> {
        for (unknown, sum) in &self.sums {
            values[*unknown as usize] = value(sum, values);
        }
        self.by_free
            .iter()
            .map(|terms| value(terms, values))
            .collect()
    }
}

/// Sums of which none is very long: of one that is, parts are unknowns of their own, from a number on; and these numbers.
fn in_parts(sums: Vec<(u32, Terms)>, first: u32) -> (Vec<(u32, Terms)>, Range<u32>) {
    let mut new = first;
    let mut all = Vec::with_capacity(sums.len());
    for (unknown, mut sum) in sums {
        while sum.len() > VERY_LONG {
            let mut next = Terms::new();
            for part in sum.chunks(VERY_LONG) {
                all.push((new, part.to_vec()));
                next.push((new, 1.0));
                new += 1;
            }
            sum = next;
        }
        all.push((unknown, sum));
    }
    (all, first..new)
}

/// A sum, by the values of unknowns.
fn value(terms: &Terms, values: &[f64]) -> f64 {
    let parts = terms.iter().map(|term| values[term.0 as usize] * term.1);
    parts.sum()
}

/// The triangles that count: not those whose stiffness is nought.
fn stiff_triangles(stiffness: &[f64]) -> impl Iterator<Item = u32> + '_ {
    let all = (0..).zip(stiffness);
    all.filter(|(_, stiffness)| **stiffness != 0.0)
        .map(|(t, _)| t)
}

/// Whether an unknown must be whole whatever it is bound to: a shift, or a coordinate of an irregular vertex or a pinch.
pub(super) fn is_whole_by_itself(
    unknowns: &Unknowns,
    surface: &Surface,
    frames: &Frames,
    unknown: u32,
) -> bool {
    unknowns.is_shift(unknown)
        || frames.is_irregular(unknown / 2)
        || surface.is_pinch[unknown as usize / 2]
}

/// The gradients of a triangle's three hat functions, in its frame, and its area.
pub(super) struct Element {
    pub gradients: [DVec2; 3],
    pub area: f64,
}

impl Element {
    /// None of a triangle without area.
    pub fn of(surface: &Surface, t: u32) -> Option<Self> {
        let area = surface.area(t);
        let gradients = [1, 2, 0].map(|i| {
            let opposite = surface.in_plane(t, surface.along(3 * t + i));
            opposite.perp() / (2.0 * area)
        });
        gradients
            .iter()
            .all(|g| g.is_finite())
            .then_some(Self { gradients, area })
    }
}

/// For each feature half-edge, which coordinate stays the same along it.
fn bound_corners(surface: &Surface, frames: &Frames) -> Vec<(u32, u32)> {
    let features = (0..surface.half_edge_count()).filter(|&h| surface.is_feature[h as usize]);
    features
        .filter_map(|half_edge| {
            let from_axis = surface.angle(half_edge) - frames.angles[half_edge as usize / 3];
            let quarters = (from_axis / FRAC_PI_2).round();
            let astray = (from_axis - quarters * FRAC_PI_2).abs();
            (astray < ASTRAY).then(|| (half_edge, 1 - (quarters as i64).rem_euclid(2) as u32))
        })
        .collect()
}
