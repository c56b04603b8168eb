//! Taking segments into a triangulation: flips, and new points where two cross.

use super::{Planar, Sheet};
use std::cmp::Ordering::{Equal, Greater, Less};
use std::collections::VecDeque;

/// How a segment leaves a point.
pub(super) enum Way {
    /// Along a side, to the point at its other end.
    Along(u32),
    /// Through the side of a triangle.
    Through(u32, usize),
}

impl<S: Sheet> Planar<S> {
    /// How the segment from one point to another leaves the first.
    pub(super) fn way(&self, from: u32, to: u32) -> Way {
        let way = self.round(from).find_map(|(t, k)| {
            let [_, next, last] = self.from(t, k);
            if next == to || last == to {
                return Some(Way::Along(to));
            }
            match self.sheet.turn(from, next, to) {
                Less => None,
                one => match (one, self.sheet.turn(from, to, last)) {
                    (_, Less) => None,
                    (Equal, _) => Some(Way::Along(next)),
                    (_, Equal) => Some(Way::Along(last)),
                    _ => Some(Way::Through(t, (k + 1) % 3)),
                },
            }
        });
        way.expect("the segment lies within")
    }

    /// Takes in the first piece of a segment: to the next point on it, or to where a fixed side
    /// crosses it.
    pub(super) fn advance(&mut self, from: u32, to: u32, line: S::Line) -> u32 {
        let (mut t, mut side) = match self.way(from, to) {
            Way::Along(next) => {
                self.fix(from, next, line);
                return next;
            }
            Way::Through(t, side) => (t, side),
        };
        let mut crossed = VecDeque::new();
        let reached = loop {
            if let Some(other) = self.fixed[t as usize][side] {
                let point = self.sheet.crossing(line, other);
                self.split_side(t, side, point);
                break point;
            }
            let [right, left, _] = self.from(t, side);
            crossed.push_back([right, left]);
            let other = self.beyond[t as usize][side];
            let back = self.back(other, t, side);
            let far = self.corners[other as usize][(back + 2) % 3];
            t = other;
            side = match self.sheet.turn(from, to, far) {
                Equal => break far,
                Greater => (back + 1) % 3,
                Less => (back + 2) % 3,
            };
        };
        self.clear(from, reached, crossed);
        self.fix(from, reached, line);
        reached
    }

    /// Flips the sides that cross a segment until none does.
    fn clear(&mut self, from: u32, to: u32, mut crossed: VecDeque<[u32; 2]>) {
        while let Some([right, left]) = crossed.pop_front() {
            let (t, side) = self.side(right, left).expect("the side is there");
            let t = t as u32;
            let ([a, b, c], d) = (self.from(t, side), self.opposite(t, side));
            if !self.is_convex([a, b, c, d]) {
                crossed.push_back([right, left]);
                continue;
            }
            self.flip(t, side);
            if [c, d].iter().any(|v| [from, to].contains(v)) {
                continue;
            }
            match [c, d].map(|v| self.sheet.turn(from, to, v)) {
                [Greater, Less] => crossed.push_back([d, c]),
                [Less, Greater] => crossed.push_back([c, d]),
                _ => {}
            }
        }
    }

    pub(super) fn fix(&mut self, from: u32, to: u32, line: S::Line) {
        for (a, b) in [(from, to), (to, from)] {
            if let Some((t, side)) = self.side(a, b) {
                self.fixed[t][side].get_or_insert(line);
            }
        }
    }
}
