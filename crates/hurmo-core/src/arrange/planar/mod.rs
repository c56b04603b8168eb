//! A triangulation in a plane that takes in points and segments, one after another.
//!
//! ```text
//! triangle ─▶ points (walk, split) ─▶ segments (flips; where two cross, a new point) ─▶ flips to
//!             larger angles
//! ```
//!
//! All is decided by the turn of three points, which whoever owns the points computes exactly; so
//! the same code serves points that are only known by what they were made of. Walking: Devillers,
//! Pion & Teillaud 2002 (Walking in a Triangulation); segments: Sloan 1993 (A fast algorithm for
//! generating constrained Delaunay triangulations).

mod segments;

use glam::DVec3;
use segments::Way;
use std::cmp::Ordering::{self, Equal, Greater, Less};

/// What a triangulation asks of its points.
pub(super) trait Sheet {
    /// What a segment lies on, for the point at which another crosses it.
    type Line: Copy;

    /// The turn of three points: `Greater` is anticlockwise.
    fn turn(&self, a: u32, b: u32, c: u32) -> Ordering;

    /// The new point at which two segments cross.
    fn crossing(&mut self, one: Self::Line, other: Self::Line) -> u32;

    /// About where a point is.
    fn position(&self, point: u32) -> DVec3;
}

const NONE: u32 = u32::MAX;

/// Triangles of a convex piece of a plane.
pub(super) struct Planar<S: Sheet> {
    pub sheet: S,
    corners: Vec<[u32; 3]>,
    /// The triangle beyond the side from each corner to the next, if any.
    beyond: Vec<[u32; 3]>,
    /// What fixes that side, if anything.
    fixed: Vec<[Option<S::Line>; 3]>,
    /// A triangle at each point.
    at: Vec<u32>,
    state: u32,
}

impl<S: Sheet> Planar<S> {
    /// Begins with one triangle, anticlockwise, whose sides are fixed or not.
    pub fn new(sheet: S, corners: [u32; 3], fixed: [Option<S::Line>; 3]) -> Self {
        let mut planar = Self {
            sheet,
            corners: vec![corners],
            beyond: vec![[NONE; 3]],
            fixed: vec![fixed],
            at: Vec::new(),
            state: 1,
        };
        planar.see(0);
        planar
    }

    /// The triangles.
    pub fn triangles(&self) -> &[[u32; 3]] {
        &self.corners
    }

    /// The triangle beyond a side.
    pub fn beyond(&self, triangle: usize, side: usize) -> Option<usize> {
        let beyond = self.beyond[triangle][side];
        (beyond != NONE).then_some(beyond as usize)
    }

    /// Takes in a point that lies within, and is none that is there.
    pub fn insert(&mut self, point: u32) {
        let (triangle, turns) = self.locate(point);
        match turns.iter().position(|&turn| turn == Equal) {
            None => self.split_inside(triangle, point),
            Some(side) => self.split_side(triangle, side, point),
        }
    }

    /// Takes in the segment between two points that are there.
    pub fn connect(&mut self, from: u32, to: u32, line: S::Line) {
        let mut at = from;
        while at != to {
            at = self.advance(at, to, line);
        }
    }

    /// The points from one to another along sides on a segment that was taken in, each side as a
    /// triangle to its left, and which of its sides.
    pub fn along(&self, from: u32, to: u32) -> Vec<(usize, usize)> {
        let mut sides = Vec::new();
        let mut at = from;
        while at != to {
            let Way::Along(next) = self.way(at, to) else {
                unreachable!("the segment was taken in")
            };
            sides.extend(self.side(at, next));
            at = next;
        }
        sides
    }

    /// Flips sides that are not fixed where that makes the least angles larger.
    pub fn even(&mut self) {
        let mut waiting: Vec<(u32, usize)> = (0..self.corners.len() as u32)
            .flat_map(|t| [(t, 0), (t, 1), (t, 2)])
            .collect();
        // Rounding could make two flips undo each other for ever.
        let mut left = 30 * self.corners.len();
        while let Some((t, side)) = waiting.pop() {
            if left > 0 && self.is_better_flipped(t, side) {
                left -= 1;
                let other = self.beyond[t as usize][side];
                self.flip(t, side);
                waiting.extend([t, other].iter().flat_map(|&t| [(t, 0), (t, 1), (t, 2)]));
            }
        }
    }

    fn is_better_flipped(&self, t: u32, side: usize) -> bool {
        let other = self.beyond[t as usize][side];
        if other == NONE || self.fixed[t as usize][side].is_some() {
            return false;
        }
        let ([a, b, c], d) = (self.from(t, side), self.opposite(t, side));
        let [p, q, r, s] = [a, b, c, d].map(|v| self.sheet.position(v));
        // The two angles that look at the side: together over half a turn (Lawson 1977).
        let angle = |at: DVec3| {
            let (u, v) = (p - at, q - at);
            (u.cross(v).length(), u.dot(v))
        };
        let ((sin, cos), (sin_d, cos_d)) = (angle(r), angle(s));
        let size = (sin.abs() + cos.abs()) * (sin_d.abs() + cos_d.abs());
        sin * cos_d + cos * sin_d < -1e-10 * size && self.is_convex([a, b, c, d])
    }

    /// Whether the quad of two triangles is strictly convex at the ends of the side between them.
    fn is_convex(&self, [a, b, c, d]: [u32; 4]) -> bool {
        self.sheet.turn(a, d, c) == Greater && self.sheet.turn(d, b, c) == Greater
    }

    /// The corners of a triangle, from the beginning of a side.
    fn from(&self, t: u32, side: usize) -> [u32; 3] {
        let corners = self.corners[t as usize];
        [0, 1, 2].map(|k| corners[(side + k) % 3])
    }

    /// The far corner of the triangle beyond a side.
    fn opposite(&self, t: u32, side: usize) -> u32 {
        let other = self.beyond[t as usize][side];
        self.corners[other as usize][(self.back(other, t, side) + 2) % 3]
    }

    /// Which side of a triangle lies on a side of another.
    fn back(&self, other: u32, t: u32, side: usize) -> usize {
        let end = self.corners[t as usize][(side + 1) % 3];
        let place = self.corners[other as usize].iter().position(|&v| v == end);
        place.expect("neighbours share the ends of their side")
    }

    /// The triangle that holds a point, and on which sides of its own the point lies.
    fn locate(&mut self, point: u32) -> (u32, [Ordering; 3]) {
        let mut t = self.corners.len() as u32 - 1;
        loop {
            let corners = self.corners[t as usize];
            let mut turns = [Equal; 3];
            // In an order of chance, since a walk could go round in a circle otherwise.
            self.state = self
                .state
                .wrapping_mul(747_796_405)
                .wrapping_add(2_891_336_453);
            let first = (self.state >> 16) as usize % 3;
            let next = (0..3).find_map(|k| {
                let side = (first + k) % 3;
                turns[side] = self
                    .sheet
                    .turn(corners[side], corners[(side + 1) % 3], point);
                let beyond = self.beyond[t as usize][side];
                (turns[side] == Less && beyond != NONE).then_some(beyond)
            });
            match next {
                Some(next) => t = next,
                None => return (t, turns),
            }
        }
    }

    fn see(&mut self, t: u32) {
        for v in self.corners[t as usize] {
            let v = v as usize;
            if self.at.len() <= v {
                self.at.resize(v + 1, NONE);
            }
            self.at[v] = t;
        }
    }

    fn add(&mut self, corners: [u32; 3], beyond: [u32; 3], fixed: [Option<S::Line>; 3]) -> u32 {
        self.corners.push(corners);
        self.beyond.push(beyond);
        self.fixed.push(fixed);
        self.corners.len() as u32 - 1
    }

    fn set(&mut self, t: u32, corners: [u32; 3], beyond: [u32; 3], fixed: [Option<S::Line>; 3]) {
        let t = t as usize;
        (self.corners[t], self.beyond[t], self.fixed[t]) = (corners, beyond, fixed);
    }

    /// Tells a neighbour that it lies beside another triangle now.
    fn beside(&mut self, neighbour: u32, was: u32, is: u32) {
        if neighbour != NONE {
            let beyond = &mut self.beyond[neighbour as usize];
            if let Some(place) = beyond.iter().position(|&b| b == was) {
                beyond[place] = is;
            }
        }
    }

    fn split_inside(&mut self, t: u32, v: u32) {
        let [a, b, c] = self.corners[t as usize];
        let [ab, bc, ca] = self.beyond[t as usize];
        let [f, g, h] = self.fixed[t as usize];
        let second = self.corners.len() as u32;
        let third = second + 1;
        self.set(t, [a, b, v], [ab, second, third], [f, None, None]);
        self.add([b, c, v], [bc, third, t], [g, None, None]);
        self.add([c, a, v], [ca, t, second], [h, None, None]);
        self.beside(bc, t, second);
        self.beside(ca, t, third);
        [t, second, third].into_iter().for_each(|t| self.see(t));
    }

    fn split_side(&mut self, t: u32, side: usize, v: u32) {
        let [a, b, c] = self.from(t, side);
        let turned = |of: [u32; 3], by: usize| [0, 1, 2].map(|k| of[(by + k) % 3]);
        let [other, bc, ca] = turned(self.beyond[t as usize], side);
        let lines = self.fixed[t as usize];
        let [f, g, h] = [0, 1, 2].map(|k| lines[(side + k) % 3]);
        let half = self.corners.len() as u32;
        if other == NONE {
            self.set(t, [a, v, c], [NONE, half, ca], [f, None, h]);
            self.add([v, b, c], [NONE, bc, t], [f, g, None]);
        } else {
            let back = self.back(other, t, side);
            let d = self.corners[other as usize][(back + 2) % 3];
            let [_, ad, db] = turned(self.beyond[other as usize], back);
            let lines = self.fixed[other as usize];
            let [_, k, l] = [0, 1, 2].map(|i| lines[(back + i) % 3]);
            let far = half + 1;
            self.set(t, [a, v, c], [far, half, ca], [f, None, h]);
            self.add([v, b, c], [other, bc, t], [f, g, None]);
            self.set(other, [b, v, d], [half, far, db], [f, None, l]);
            self.add([v, a, d], [t, ad, other], [f, k, None]);
            self.beside(ad, other, far);
            [other, far].into_iter().for_each(|t| self.see(t));
        }
        self.beside(bc, t, half);
        [t, half].into_iter().for_each(|t| self.see(t));
    }

    fn flip(&mut self, t: u32, side: usize) {
        let [a, b, c] = self.from(t, side);
        let other = self.beyond[t as usize][side];
        let back = self.back(other, t, side);
        let d = self.corners[other as usize][(back + 2) % 3];
        let beyond = |planar: &Self, t: u32, side: usize| planar.beyond[t as usize][side % 3];
        let line = |planar: &Self, t: u32, side: usize| planar.fixed[t as usize][side % 3];
        let (bc, ca) = (beyond(self, t, side + 1), beyond(self, t, side + 2));
        let (ad, db) = (beyond(self, other, back + 1), beyond(self, other, back + 2));
        let lines = [
            [line(self, other, back + 1), None, line(self, t, side + 2)],
            [line(self, other, back + 2), line(self, t, side + 1), None],
        ];
        self.set(t, [a, d, c], [ad, other, ca], lines[0]);
        self.set(other, [d, b, c], [db, bc, t], lines[1]);
        self.beside(ad, other, t);
        self.beside(bc, t, other);
        [t, other].into_iter().for_each(|t| self.see(t));
    }

    /// The triangles round a point, each with the corner at which it is.
    fn round(&self, v: u32) -> impl Iterator<Item = (u32, usize)> {
        let corner = move |t: u32| {
            let corners = self.corners[t as usize];
            corners
                .iter()
                .position(|&w| w == v)
                .expect("it is a corner")
        };
        let first = self.at[v as usize];
        let (mut next, mut backward) = (first, false);
        std::iter::from_fn(move || {
            if next == NONE {
                return None;
            }
            let (t, k) = (next, corner(next));
            next = self.beyond[t as usize][if backward { k } else { (k + 2) % 3 }];
            if next == first {
                next = NONE;
            } else if next == NONE && !backward {
                backward = true;
                next = self.beyond[first as usize][corner(first)];
            }
            Some((t, k))
        })
    }

    /// The side that runs from one point to another, as a triangle to its left.
    fn side(&self, from: u32, to: u32) -> Option<(usize, usize)> {
        let is_it = |&(t, k): &(u32, usize)| self.corners[t as usize][(k + 1) % 3] == to;
        self.round(from).find(is_it).map(|(t, k)| (t as usize, k))
    }
}
