//! The lines of half numbers in a map, and the order of their ends along the sides of triangles.

use crate::quads::grid_map::{GridMap, quarters};
use crate::quads::surface::{NONE, Surface, next};
use glam::DVec2;

/// Where a line of half numbers meets a side, as the side's triangle sees it.
#[derive(Clone, Copy, Debug)]
pub(super) struct Crossing {
    /// How far along the half-edge, from 0 to 1.
    pub along: f64,
    /// Which coordinate is constant on the line: 0 or 1.
    pub of: u8,
    /// The whole number below the half.
    pub below: i32,
}

/// The lines of a map.
pub(super) struct Lines<'s> {
    pub surface: &'s Surface,
    pub map: &'s GridMap,
    turns: &'s [u8],
    /// Where lines meet each side, along the lower of its half-edges and as its triangle sees them.
    crossings: Vec<Vec<Crossing>>,
}

impl<'s> Lines<'s> {
    pub fn of(surface: &'s Surface, map: &'s GridMap, turns: &'s [u8]) -> Self {
        Self {
            crossings: crossings(surface, map),
            surface,
            map,
            turns,
        }
    }

    /// Where lines meet a side, of the lower of its half-edges.
    pub fn on(&self, half_edge: u32) -> &[Crossing] {
        &self.crossings[half_edge as usize]
    }

    /// The whole numbers that a corner is nearest to.
    pub fn place(&self, half_edge: u32) -> [i32; 2] {
        nearest(self.map.corners[half_edge as usize])
    }

    /// From the triangle of a half-edge to the one beside it.
    pub fn across(&self, half_edge: u32) -> Across {
        Across {
            turns: (4 - self.turns[half_edge as usize]) % 4,
            shift: self.map.shifts[half_edge as usize],
        }
    }
}

fn nearest(z: DVec2) -> [i32; 2] {
    [z.x.round() as i32, z.y.round() as i32]
}

/// Where lines meet each side, along the lower of its half-edges and as its triangle sees them.
fn crossings(surface: &Surface, map: &GridMap) -> Vec<Vec<Crossing>> {
    let of_side = |half_edge: u32| {
        let other = surface.across[half_edge as usize];
        if other != NONE && other < half_edge {
            return Vec::new();
        }
        let [from, to] = [half_edge, next(half_edge)].map(|h| map.corners[h as usize]);
        let mut list = Vec::new();
        for of in [0u8, 1] {
            let [a, b] = [from, to].map(|z| if of == 0 { z.x } else { z.y });
            let [first, last] = [a, b].map(|value| value.round() as i32);
            for below in first.min(last)..first.max(last) {
                let along = (f64::from(below) + 0.5 - a) / (b - a);
                list.push(Crossing { along, of, below });
            }
        }
        list.sort_by(|a, b| {
            (a.along, a.of)
                .partial_cmp(&(b.along, b.of))
                .expect("numbers")
        });
        list
    };
    (0..surface.half_edge_count()).map(of_side).collect()
}

/// How one triangle's numbers become those of the one across a side.
pub(super) struct Across {
    turns: u8,
    shift: [i64; 2],
}

impl Across {
    pub fn place(&self, place: [i32; 2]) -> [i32; 2] {
        let [x, y] = quarters(place, self.turns);
        [x + self.shift[0] as i32, y + self.shift[1] as i32]
    }

    /// The same of a line, and the order along the side, which the other runs the other way.
    pub fn crossing(&self, crossing: &Crossing) -> Crossing {
        let twice = 2 * crossing.below + 1;
        let on = if crossing.of == 0 {
            [twice, 0]
        } else {
            [0, twice]
        };
        let turned = quarters(on, self.turns);
        let of = (crossing.of + self.turns) % 2;
        let twice = turned[of as usize] + 2 * self.shift[of as usize] as i32;
        Crossing {
            along: 1.0 - crossing.along,
            of,
            below: (twice - 1).div_euclid(2),
        }
    }
}

/// The cells between crossings along a side, from its begin to its end.
pub(super) fn along(from: [i32; 2], list: &[Crossing]) -> impl Iterator<Item = [i32; 2]> + '_ {
    let mut here = from;
    std::iter::once(from).chain(list.iter().map(move |crossing| {
        let own = &mut here[crossing.of as usize];
        *own = if *own <= crossing.below {
            crossing.below + 1
        } else {
            crossing.below
        };
        here
    }))
}

/// The ends of lines round a triangle, counter-clockwise, and its corners' cells.
pub(super) struct Border {
    ends: Vec<Crossing>,
    /// Where in the list each side begins.
    starts: [usize; 3],
    corners: [[i32; 2]; 3],
}

impl Border {
    pub fn of(lines: &Lines<'_>, t: u32) -> Self {
        let mut ends = Vec::new();
        let starts = [0, 1, 2].map(|i| {
            let half_edge = 3 * t + i;
            let start = ends.len();
            let other = lines.surface.across[half_edge as usize];
            match other != NONE && other < half_edge {
                false => ends.extend(lines.on(half_edge)),
                true => {
                    let across = lines.across(other);
                    let list = lines.on(other).iter().rev();
                    ends.extend(list.map(|crossing| across.crossing(crossing)));
                }
            }
            start
        });
        Self {
            ends,
            starts,
            corners: [0, 1, 2].map(|i| lines.place(3 * t + i)),
        }
    }

    /// Lines of one coordinate: the places of both their ends in the list, and the number below.
    fn lines(&self, of: u8) -> Option<Vec<(usize, usize, i32)>> {
        let own = self.ends.iter().enumerate().filter(|(_, end)| end.of == of);
        let mut own: Vec<(i32, usize)> = own.map(|(i, end)| (end.below, i)).collect();
        own.sort_unstable();
        let lines = own.chunks(2).map(|pair| match *pair {
            [(one, i), (other, j)] if one == other => Some((i, j, one)),
            _ => None,
        });
        lines.collect()
    }

    /// Which corner comes first after a place in the list.
    fn corner_after(&self, place: usize) -> usize {
        (1..3).find(|&i| self.starts[i] > place).unwrap_or(0)
    }

    /// Calls `make` with the cells round each crossing of lines, counter-clockwise. `None` if `make` says so, or
    /// lines do not have two ends.
    pub fn quads(&self, make: &mut dyn FnMut([[i32; 2]; 4]) -> Option<()>) -> Option<()> {
        if self.ends.len() < 4 {
            return Some(());
        }
        let [first, second] = [self.lines(0)?, self.lines(1)?];
        for &(i, j, u) in &first {
            for &(k, l, v) in &second {
                let is_between = |place: usize| i < place && place < j;
                if is_between(k) == is_between(l) {
                    continue;
                }
                // Counter-clockwise from i: the end of the other line that lies between, j, the end that doesn't.
                let inner = if is_between(k) { k } else { l };
                // What lies on the side of the places from i to j, and of those from inner on past j.
                let beyond = self.corners[self.corner_after(i)][0] > u;
                let after = self.corners[self.corner_after(inner)][1] > v;
                let on = |side: bool, below: i32| below + i32::from(side);
                make([
                    [on(beyond, u), on(!after, v)],
                    [on(beyond, u), on(after, v)],
                    [on(!beyond, u), on(after, v)],
                    [on(!beyond, u), on(!after, v)],
                ])?;
            }
        }
        Some(())
    }
}
