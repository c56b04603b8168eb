//! The unknowns of a map and how corners of triangles depend on them.
//!
//! Unknown are the two coordinates of each vertex, as one triangle at it sees them, and the two of the shift
//! along each arc of the cut. A corner of any triangle at the vertex is these turned by quarters, with shifts
//! added for what of the cut lies between.

use super::elimination::{Elimination, Terms};
use super::frames::Frames;
use super::surface::{NONE, Surface, previous};
use smallvec::SmallVec;

/// A number of quarter turns, from 0 to 3.
type Quarters = u8;

/// How a corner's coordinates follow from its vertex's: turned, and shifts turned and added.
#[derive(Clone, Default)]
pub(super) struct Corner {
    turn: Quarters,
    shifts: SmallVec<[(u32, Quarters); 2]>,
}

/// The unknowns of a map.
pub(super) struct Unknowns {
    /// By half-edge: the corner at which it begins.
    pub corners: Vec<Corner>,
    vertices: u32,
    arcs: u32,
    /// By vertex: for a regular one on the cut and an irregular one, its corner once round.
    closing: Vec<(u32, Corner)>,
}

/// A component of a number that is turned by quarters: which one of the number itself, and its sign.
fn component(turn: Quarters, of: u32) -> (u32, f64) {
    match (turn % 4, of) {
        (0, _) => (of, 1.0),
        (1, 0) => (1, -1.0),
        (1, _) => (0, 1.0),
        (2, _) => (of, -1.0),
        (_, 0) => (1, 1.0),
        (_, _) => (0, -1.0),
    }
}

impl Corner {
    /// The same corner as seen from across a half-edge on an arc.
    fn across(&self, turns: Quarters, arc: Option<(u32, bool)>) -> Self {
        let back = (4 - turns) % 4;
        let mut shifts: SmallVec<[(u32, Quarters); 2]> = self
            .shifts
            .iter()
            .map(|&(arc, turn)| (arc, (turn + back) % 4))
            .collect();
        match arc {
            Some((arc, true)) => shifts.push((arc, 0)),
            // The way back of z → i⁻ᵏz + T, for which k here is -k: z → i⁻ᵏ(z - T).
            Some((arc, false)) => shifts.push((arc, (back + 2) % 4)),
            None => {}
        }
        Self {
            turn: (self.turn + back) % 4,
            shifts,
        }
    }
}

impl Unknowns {
    pub fn of(surface: &Surface, frames: &Frames) -> Self {
        let arcs = Arcs::of(surface, frames);
        let mut corners = vec![Corner::default(); surface.across.len()];
        let mut closing = Vec::new();
        for v in 0..surface.positions.len() as u32 {
            let mut corner = Corner::default();
            let mut is_plain = true;
            for half_edge in surface.around(v) {
                corners[half_edge as usize] = corner.clone();
                let leaving = previous(half_edge);
                if surface.across[leaving as usize] == NONE {
                    continue;
                }
                let arc = arcs.of_half_edge(leaving);
                if arc.is_some() || frames.turns[leaving as usize] != 0 {
                    is_plain = false;
                    corner = corner.across(frames.turns[leaving as usize], arc);
                }
            }
            if !is_plain && !surface.is_on_rim(v) {
                closing.push((v, corner));
            }
        }
        Self {
            corners,
            vertices: surface.positions.len() as u32,
            arcs: arcs.count,
            closing,
        }
    }

    /// How many there are.
    pub fn count(&self) -> usize {
        2 * (self.vertices + self.arcs) as usize
    }

    /// Whether an unknown is a shift.
    pub fn is_shift(&self, unknown: u32) -> bool {
        unknown >= 2 * self.vertices
    }

    /// A component of a corner's coordinates.
    pub fn terms(&self, vertex: u32, corner: &Corner, of: u32) -> Terms {
        let (own, sign) = component(corner.turn, of);
        let shift = |&(arc, turn): &(u32, Quarters)| {
            let (own, sign) = component(turn, of);
            (2 * (self.vertices + arc) + own, sign)
        };
        let mut terms = vec![(2 * vertex + own, sign)];
        terms.extend(corner.shifts.iter().map(shift));
        terms
    }

    /// The coordinates of a corner, by those of its vertex and the shifts.
    pub fn value(&self, vertex: u32, corner: &Corner, values: &[f64]) -> [f64; 2] {
        [0, 1].map(|of| {
            let terms = self.terms(vertex, corner, of);
            terms
                .iter()
                .map(|term| values[term.0 as usize] * term.1)
                .sum()
        })
    }

    /// Takes in that once round a vertex is the vertex again.
    pub fn close(&self, elimination: &mut Elimination, is_whole: impl Fn(u32) -> bool) {
        for i in self.closing_order() {
            let (v, corner) = &self.closing[i];
            for of in [0, 1] {
                let mut sum = self.terms(*v, corner, of);
                sum.push((2 * v + of, -1.0));
                elimination.add(&sum, &is_whole);
            }
        }
    }

    /// The vertices that are closed, from the ends of the cut inwards: each but the last ones has an arc then of which
    /// nothing is known yet.
    fn closing_order(&self) -> Vec<usize> {
        let arcs = |i: usize| {
            let mut arcs: SmallVec<[u32; 4]> =
                self.closing[i].1.shifts.iter().map(|own| own.0).collect();
            arcs.sort_unstable();
            arcs.dedup();
            arcs
        };
        let mut at_arc: Vec<SmallVec<[usize; 2]>> = vec![SmallVec::new(); self.arcs as usize];
        let mut left: Vec<usize> = Vec::with_capacity(self.closing.len());
        for i in 0..self.closing.len() {
            let own = arcs(i);
            own.iter().for_each(|&arc| at_arc[arc as usize].push(i));
            left.push(own.len());
        }
        let mut order = Vec::with_capacity(left.len());
        let mut is_placed = vec![false; left.len()];
        // Those with one arc first, and what follows; then, round handles, what there is.
        let count = left.len();
        let passes = [1, usize::MAX].into_iter();
        for (most, first) in passes.flat_map(|most| (0..count).map(move |first| (most, first))) {
            let mut next = vec![first];
            while let Some(i) = next.pop() {
                if is_placed[i] || left[i] > most {
                    continue;
                }
                is_placed[i] = true;
                order.push(i);
                for arc in arcs(i) {
                    for other in std::mem::take(&mut at_arc[arc as usize]) {
                        left[other] -= 1;
                        if left[other] <= 1 {
                            next.push(other);
                        }
                    }
                }
            }
        }
        order
    }
}

/// Arcs of the cut between vertices where three or more meet, where it ends, or that are irregular.
struct Arcs {
    /// By half-edge: its arc, and whether it runs along it. The arc's shift is what is added when the
    /// half-edges that run along it are crossed.
    of: Vec<(u32, bool)>,
    count: u32,
}

impl Arcs {
    fn of(surface: &Surface, frames: &Frames) -> Self {
        let mut of = vec![(NONE, false); surface.across.len()];
        let mut ends = vec![0u32; surface.positions.len()];
        for half_edge in 0..surface.half_edge_count() {
            if frames.is_cut[half_edge as usize] {
                ends[surface.from(half_edge) as usize] += 1;
            }
        }
        let is_node =
            |v: u32| ends[v as usize] != 2 || frames.is_irregular(v) || surface.is_on_rim(v);
        let mut count = 0;
        // First from nodes; then what closes without one.
        for only_nodes in [true, false] {
            for start in 0..surface.half_edge_count() {
                let is_start = !only_nodes || is_node(surface.from(start));
                let is_new = frames.is_cut[start as usize] && of[start as usize].0 == NONE;
                if !(is_start && is_new) {
                    continue;
                }
                let mut here = Some(start);
                while let Some(half_edge) = here {
                    let other = surface.across[half_edge as usize];
                    of[half_edge as usize] = (count, true);
                    of[other as usize] = (count, false);
                    let end = surface.to(half_edge);
                    let mut beyond = surface
                        .around(end)
                        .filter(|&h| frames.is_cut[h as usize] && of[h as usize].0 == NONE);
                    here = beyond.next().filter(|_| !is_node(end));
                }
                count += 1;
            }
        }
        Self { of, count }
    }

    /// The arc that crossing a half-edge crosses, and whether the half-edge runs along it.
    fn of_half_edge(&self, half_edge: u32) -> Option<(u32, bool)> {
        let found = self.of[half_edge as usize];
        (found.0 != NONE).then_some(found)
    }
}
