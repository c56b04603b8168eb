//! Triangles with their neighbours, to be split and flipped in place.

use rustc_hash::FxHashMap;

const NONE: u32 = u32::MAX;

/// Triangles over numbered points, each with the triangle across each of its sides.
#[derive(Clone, Debug)]
pub(super) struct Net {
    pub triangles: Vec<[u32; 3]>,
    /// Side `k` runs from corner `k` to the next.
    across: Vec<[u32; 3]>,
}

/// A side of a triangle.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct SideOf {
    pub triangle: u32,
    pub side: u8,
}

/// Four corners round a shared edge: it runs from `a` to `b`, `c` is on its left, `d` on its
/// right.
#[derive(Clone, Copy, Debug)]
pub(super) struct Pair {
    pub corners: [u32; 4],
    one: SideOf,
    two: SideOf,
}

impl Net {
    /// Finds the neighbours. Where more than two triangles share an edge, or run it the same
    /// way, they are no neighbours there.
    pub fn of(triangles: Vec<[u32; 3]>) -> Self {
        let mut across = vec![[NONE; 3]; triangles.len()];
        let mut open: FxHashMap<(u32, u32), SideOf> = FxHashMap::default();
        for (t, triangle) in triangles.iter().enumerate() {
            for k in 0..3 {
                let (a, b) = (triangle[k], triangle[(k + 1) % 3]);
                let here = SideOf {
                    triangle: t as u32,
                    side: k as u8,
                };
                match open.remove(&(b, a)) {
                    Some(there) => {
                        across[t][k] = there.triangle;
                        across[there.triangle as usize][there.side as usize] = t as u32;
                    }
                    None => {
                        open.insert((a, b), here);
                    }
                }
            }
        }
        Self { triangles, across }
    }

    /// Puts a new point into a triangle, which becomes three; names the three sides round it.
    pub fn split(&mut self, t: u32, point: u32) -> [SideOf; 3] {
        let [a, b, c] = self.triangles[t as usize];
        let [ab, bc, ca] = self.across[t as usize];
        let (second, third) = (self.triangles.len() as u32, self.triangles.len() as u32 + 1);
        self.triangles[t as usize] = [a, b, point];
        self.triangles.extend([[b, c, point], [c, a, point]]);
        self.across[t as usize] = [ab, second, third];
        self.across.extend([[bc, third, t], [ca, t, second]]);
        self.meet(bc, t, second);
        self.meet(ca, t, third);
        [t, second, third].map(|triangle| SideOf { triangle, side: 0 })
    }

    /// Tells a triangle that its neighbour has another name.
    fn meet(&mut self, t: u32, old: u32, new: u32) {
        if t != NONE
            && let Some(k) = self.across[t as usize].iter().position(|&n| n == old)
        {
            self.across[t as usize][k] = new;
        }
    }

    /// The two triangles at a side, if there are two.
    pub fn pair(&self, one: SideOf) -> Option<Pair> {
        let there = self.across[one.triangle as usize][one.side as usize];
        if there == NONE {
            return None;
        }
        let here = self.triangles[one.triangle as usize];
        let k = one.side as usize;
        let (a, b, c) = (here[k], here[(k + 1) % 3], here[(k + 2) % 3]);
        let other = self.triangles[there as usize];
        let side = other.iter().position(|&v| v == b)?;
        Some(Pair {
            corners: [a, b, c, other[(side + 2) % 3]],
            one,
            two: SideOf {
                triangle: there,
                side: side as u8,
            },
        })
    }

    /// Every two triangles that are neighbours, once.
    pub fn neighbours(&self) -> impl Iterator<Item = [usize; 2]> {
        let sides = self.across.iter().enumerate();
        sides.flat_map(|(here, across)| {
            let once = across.iter().map(|&there| there as usize);
            let once = once.filter(move |&there| there != NONE as usize && here < there);
            once.map(move |there| [here, there])
        })
    }

    /// Turns the edge between two triangles to their other two corners; names the four sides
    /// round them.
    pub fn flip(&mut self, pair: Pair) -> [SideOf; 4] {
        let [a, b, c, d] = pair.corners;
        let (one, two) = (pair.one.triangle, pair.two.triangle);
        let around = |from: SideOf, steps: usize| {
            self.across[from.triangle as usize][(from.side as usize + steps) % 3]
        };
        let (bc, ca) = (around(pair.one, 1), around(pair.one, 2));
        let (ad, db) = (around(pair.two, 1), around(pair.two, 2));
        self.triangles[one as usize] = [c, a, d];
        self.triangles[two as usize] = [d, b, c];
        self.across[one as usize] = [ca, ad, two];
        self.across[two as usize] = [db, bc, one];
        self.meet(ad, two, one);
        self.meet(bc, one, two);
        [(one, 0), (one, 1), (two, 0), (two, 1)].map(|(triangle, side)| SideOf { triangle, side })
    }

    /// Whether an edge runs from a corner of a triangle to another point; `corner` is that
    /// corner's place. Cost: the triangles at the corner.
    pub fn has_edge(&self, triangle: u32, corner: u32, to: u32) -> bool {
        for forth in [true, false] {
            let mut t = triangle;
            loop {
                let corners = self.triangles[t as usize];
                if corners.contains(&to) {
                    return true;
                }
                let Some(k) = corners.iter().position(|&v| v == corner) else {
                    break;
                };
                let side = if forth { k } else { (k + 2) % 3 };
                t = self.across[t as usize][side];
                if t == triangle {
                    return false;
                }
                if t == NONE {
                    break;
                }
            }
        }
        false
    }
}

impl Pair {
    /// The triangle on the left.
    pub fn left(&self) -> u32 {
        self.one.triangle
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn neighbours_stay_true(moves in prop::collection::vec((any::<bool>(), 0usize..1000, 0u8..3), 1..80)) {
            let mut net = Net::of(vec![[0, 1, 2], [0, 2, 3], [0, 3, 4], [0, 4, 1]]);
            let mut next = 5;
            for (split, t, side) in moves {
                let triangle = (t % net.triangles.len()) as u32;
                if split {
                    net.split(triangle, next);
                    next += 1;
                } else if let Some(pair) = net.pair(SideOf { triangle, side }) {
                    let [_, _, c, d] = pair.corners;
                    if !net.has_edge(pair.left(), c, d) {
                        net.flip(pair);
                    }
                }
                let anew = Net::of(net.triangles.clone());
                prop_assert_eq!(&anew.across, &net.across);
            }
        }
    }
}
